<script lang="ts">
	import { type Snippet, onMount, untrack } from 'svelte';
	import { asSound } from '../../core/shoot/air-delay';
	import { mixedSound } from '../../core/program/mixed-sound';
	import { runsOfSounds } from '../../core/program/sound-runs';
	import { placedEnd } from '../../core/shoot/clip';
	import { flicksToSeconds, secondsToFlicks } from '../../core/time/flicks';
	import { provideTransport, Transport } from '../playback/transport.svelte';
	import { provideWallLook, WallLook } from '../playback/wall-look.svelte';
	import Score from '../score/Score.svelte';
	import { provideScoreView, ScoreView } from '../score/score-view.svelte';
	import { LaneLook, provideLaneLook } from '../score/lane-look.svelte';
	import { Peaks, providePeaks } from '../score/peak-store.svelte';
	import { provideStrips, Strips } from '../score/strips/strips.svelte';
	import { ProofState, provideProof } from '../state/proof-state.svelte';
	import { Listening, provideListening } from '../state/listening.svelte';
	import { API } from '../../contract/endpoints';
	import { ask } from '../state/request';
	import { provideShoot, ShootState } from '../state/shoot-state.svelte';
	import { provideSources, SourcesState } from '../state/sources-state.svelte';
	import type { Stage } from '../state/stages';
	import { readsSources } from './reads-sources.svelte';
	import Header from './Header.svelte';
	import { actOnKey } from './keys';
	import { keepsWork } from './keeps-work.svelte';
	import KeysSheet from './KeysSheet.svelte';
	import TransportBar from './TransportBar.svelte';

	let { shootId, stage, children }: { shootId: string; stage: Stage; children: Snippet } = $props();

	const MAX_WATCHED = 1000;
	/** While one scrolls, nothing is told. */
	const SETTLED_MS = 400;
	/** The playhead is told of in steps of this. */
	const WATCHED_STEP_SECONDS = 4;
	const shoot = new ShootState(untrack(() => shootId));
	const transport = new Transport();
	const sources = new SourcesState(shoot);
	const listening = new Listening(shoot, sources);
	const view = new ScoreView();
	provideShoot(shoot);
	provideTransport(transport);
	provideSources(sources);
	provideListening(listening);
	provideScoreView(view);
	const proof = new ProofState(shoot);
	const look = new LaneLook(untrack(() => shootId));
	provideProof(proof);
	provideLaneLook(look);
	provideWallLook(new WallLook(untrack(() => shootId)));
	providePeaks(new Peaks());
	const strips = new Strips();
	provideStrips(strips);

	let ready = $state(false);
	let fault = $state<string>();
	let help = $state(false);
	let scoreShare = $state(Number(localStorage.getItem('open-choir.score-share') ?? 0.42));
	let mainHeight = $state(0);
	let sizing = $state(false);

	onMount(() => {
		shoot.open().then(
			() => {
				goBackToWork();
				ready = true;
			},
			(error: unknown) => (fault = error instanceof Error ? error.message : String(error))
		);
		return () => {
			shoot.close();
			strips.close();
			void transport.close();
		};
	});

	$effect(() => {
		listening.stage = stage;
	});

	readsSources({ shoot, sources, transport, stage: () => stage });
	const goBackToWork = keepsWork({ shoot, transport, view }, () => (ready ? stage : undefined));
	/** Where all sounds lie, as they are listened to: only in Prove as they are not. */
	const heard = $derived(
		ready ? (stage === 'prove' ? proof.heardPlaces(shoot.placed) : shoot.placed.map(asSound)) : []
	);
	/** What the player plays; a new answer of the server with the same material must not interrupt it. */
	const material = $derived(
		ready
			? JSON.stringify([
					shoot.range,
					heard.map((clip) => [
						clip.id,
						clip.placement.startFlicks,
						clip.placement.ratePpm,
						clip.placement.bend,
						clip.parts.map((part) => [part.identity, part.isMissing])
					])
				])
			: ''
	);
	$effect(() => {
		if (material) untrack(() => transport.setMaterial(heard, shoot.range));
	});
	const mixed = $derived.by(() => {
		if (!ready || shoot.lineUpId === undefined) return [];
		if (stage !== 'prove') return sources.mixed.intervals;
		return mixedSound(shoot.shoot, shoot.lineUpId, runsOfSounds(heard), shoot.range, sources.heard).intervals;
	});
	const mixedWords = $derived(JSON.stringify(mixed));
	$effect(() => {
		if (mixedWords) untrack(() => transport.setMix(mixed));
	});
	$effect(() => {
		if (!ready) return;
		transport.setReady(stage === 'prove' || stage === 'master' ? 'all' : 'heard');
		transport.setHeard(listening.channels);
	});

	$effect(() => transport.setLoop(stage === 'prove' || stage === 'master' ? proof.loop : undefined));

	// What is looked at is prepared first; whether the server hears of it matters little.
	const watched = $derived.by(() => {
		const inScore = shoot.placed.filter(
			(clip) => view.x(placedEnd(clip)) > 0 && view.x(clip.placement.startFlicks) < view.width
		);
		const clips = [...(shoot.selectedClip ? [shoot.selectedClip] : []), ...inScore];
		const files = [...clips.flatMap((clip) => clip.parts.map((part) => part.fileId)), ...shoot.onScreen];
		return [...new Set(files)].slice(0, MAX_WATCHED).join(' ');
	});
	const preparing = $derived(shoot.runningJobs.some((job) => job.kind === 'prepare'));
	/** Where the playhead is, to some seconds. */
	const watchedStep = $derived(Math.round(flicksToSeconds(transport.shownFlicks) / WATCHED_STEP_SECONDS));
	$effect(() => {
		// Asked in this order, so that nobody counts clips while one only pans.
		if (!preparing || watched === '') return;
		const fileIds = watched.split(' ');
		const flicks = secondsToFlicks(watchedStep * WATCHED_STEP_SECONDS);
		const at = shoot.lineUpId ? { at: { lineUpId: shoot.lineUpId, flicks } } : {};
		const timer = setTimeout(() => {
			void ask(API.watch, { id: shootId }, { fileIds, ...at }).catch(() => undefined);
		}, SETTLED_MS);
		return () => clearTimeout(timer);
	});

	function keyDown(event: KeyboardEvent): void {
		if (!ready || help) return;
		actOnKey(event, { shoot, transport, view, proof, listening, sources, stage, help: () => (help = true) });
	}

	/** A button or a tick that was clicked gives the keyboard back, so that Space plays; one reached by Tab keeps it. */
	function afterClick(event: MouseEvent): void {
		const button = document.activeElement;
		// What opens something must keep it: losing it would close that again.
		const isTick = button instanceof HTMLInputElement && button.type === 'checkbox';
		if (event.detail > 0 && (isTick || (button instanceof HTMLButtonElement && !button.ariaHasPopup))) button.blur();
	}

	function resize(event: PointerEvent): void {
		if (!sizing) return;
		const bottom = (event.currentTarget as HTMLElement).parentElement!.getBoundingClientRect().bottom;
		setShare((bottom - event.clientY) / mainHeight);
	}

	/** Before anything is lined up, the score has little to show and the clip table much. */
	const shownShare = $derived.by(() => {
		if (stage !== 'gather' || shoot.shoot.lineUps.length > 0) return scoreShare;
		const timed = new Set(
			shoot.shoot.clips.filter((clip) => clip.clockSeconds !== undefined).map((clip) => clip.deviceId)
		);
		return Math.min(0.4, 0.15 + 0.028 * timed.size);
	});

	function setShare(share: number): void {
		scoreShare = Math.max(0.2, Math.min(0.7, share));
		localStorage.setItem('open-choir.score-share', `${scoreShare}`);
	}

	function resizeByKey(event: KeyboardEvent): void {
		const step = event.key === 'ArrowUp' ? 0.03 : event.key === 'ArrowDown' ? -0.03 : 0;
		if (step === 0) return;
		event.preventDefault();
		event.stopPropagation();
		setShare(scoreShare + step);
	}
</script>

<svelte:window onkeydown={keyDown} onclick={afterClick} />

{#if fault}
	<main class="m-auto max-w-lg p-10">
		<h1 class="text-2xl">This shoot could not be opened</h1>
		<p class="mt-3 text-attention">{fault}</p>
		<p class="mt-3"><a class="text-accent underline" href="/">All shoots</a></p>
	</main>
{:else if !ready}
	<main class="grid h-full place-content-center text-quiet">Opening the shoot…</main>
{:else}
	<div class="flex h-full flex-col overflow-hidden">
		<Header {stage} onhelp={() => (help = true)} />
		{#if shoot.lost}<p class="border-b border-line bg-surface px-3 py-1 text-attention" role="status">
				{shoot.lost}
			</p>{/if}
		{#if shoot.problem}
			<div class="flex items-center gap-3 border-b border-line bg-surface px-3 py-1 text-attention" role="alert">
				<span class="flex-1">{shoot.problem}</span>
				<button class="text-accent underline" onclick={() => (shoot.problem = undefined)}>Close</button>
			</div>
		{/if}
		<div class="flex min-h-0 flex-1 flex-col" bind:clientHeight={mainHeight}>
			<main class="min-h-0 flex-1 overflow-auto p-3" aria-label="Bench">{@render children()}</main>
			<section class="flex shrink-0 flex-col" aria-label="Timeline">
				<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
				<div
					class="splitter"
					role="separator"
					aria-orientation="horizontal"
					aria-label="Height of the score"
					aria-valuenow={Math.round(scoreShare * 100)}
					tabindex="0"
					onpointerdown={(event) => {
						event.currentTarget.setPointerCapture(event.pointerId);
						sizing = true;
					}}
					onpointermove={resize}
					onpointerup={() => (sizing = false)}
					onkeydown={resizeByKey}
				></div>
				<TransportBar />
				<div class="shrink-0" style:height="{Math.round(mainHeight * shownShare) - 40}px"><Score /></div>
			</section>
		</div>
	</div>
	<KeysSheet bind:open={help} />
{/if}

<style>
	.splitter {
		height: 5px;
		margin-bottom: -2px;
		cursor: ns-resize;
		touch-action: none;
		flex-shrink: 0;
		z-index: 1;
	}
	.splitter:hover,
	.splitter:focus-visible {
		background: var(--accent-fill);
	}
</style>
