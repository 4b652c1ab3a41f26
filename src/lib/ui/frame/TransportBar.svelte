<script lang="ts">
	import Pause from '@lucide/svelte/icons/pause';
	import Play from '@lucide/svelte/icons/play';
	import { tick } from 'svelte';
	import { clipAt, placedClips, rangeOf } from '../../core/shoot/lookup';
	import { clockWords, countWords, lengthWords } from '../controls/words';
	import { flicksToSeconds } from '../../core/time/flicks';
	import { toMedia } from '../../core/shoot/placement';
	import { useTransport } from '../playback/transport.svelte';
	import { useLaneLook } from '../score/lane-look.svelte';
	import { clockOfZero, timeFromText, timeWords } from '../score/score-times';
	import { useScoreView } from '../score/score-view.svelte';
	import { useListening } from '../state/listening.svelte';
	import { useShoot } from '../state/shoot-state.svelte';

	const shoot = useShoot();
	const transport = useTransport();
	const listening = useListening();
	const look = useLaneLook();
	const view = useScoreView();

	let typed = $state('');
	let isWrong = $state(false);
	const clockSeconds = $derived(clockOfZero(shoot.placed, shoot.reference?.id, transport.shownFlicks));
	$effect(() => {
		if (!view.isGoToOpen) return;
		typed = '';
		isWrong = false;
	});

	function goTo(event: SubmitEvent): void {
		event.preventDefault();
		const flicks = timeFromText(typed, look.time, shoot.shoot.rate, clockSeconds);
		isWrong = flicks === undefined;
		if (flicks === undefined) return;
		transport.goTo(flicks);
		view.reveal(transport.shownFlicks);
		view.isGoToOpen = false;
	}

	/** Goes to another line-up: to where its program begins, all of it in view. */
	async function chooseLineUp(id: string): Promise<void> {
		transport.pause();
		shoot.chooseLineUp(id);
		// The player gets its material first.
		await tick();
		const { inFlicks, outFlicks } = shoot.range;
		view.fit(inFlicks, outFlicks);
		transport.goTo(shoot.program?.inFlicks ?? inFlicks);
	}

	function lineUpWords(id: string, index: number): string {
		const clips = placedClips(shoot.shoot, id);
		const { inFlicks, outFlicks } = rangeOf(clips);
		return `Line-up ${index + 1} · ${countWords(clips.length, 'clip')}, ${lengthWords(outFlicks - inFlicks)}`;
	}

	/** The reference's clock at the playhead, where its files tell it. */
	const clock = $derived.by(() => {
		const reference = shoot.lineUp?.referenceDeviceId;
		const clip = reference ? clipAt(shoot.placed, reference, transport.shownFlicks) : undefined;
		return clip?.clockSeconds === undefined
			? undefined
			: clip.clockSeconds + flicksToSeconds(toMedia(clip.placement, transport.shownFlicks));
	});
</script>

<div class="flex h-10 shrink-0 items-center gap-4 border-t border-line bg-surface px-3">
	<button
		class="play"
		aria-label={transport.playing ? 'Pause' : 'Play'}
		title="Play or pause (Space)"
		disabled={shoot.placed.length === 0}
		onclick={() => transport.toggle()}
		data-testid="play"
	>
		{#if transport.playing}<Pause size={18} />{:else}<Play size={18} />{/if}
	</button>
	{#if view.isGoToOpen}
		<form onsubmit={goTo}>
			<!-- svelte-ignore a11y_autofocus -->
			<input
				class="times w-36 rounded border border-line bg-ground px-1.5 py-0 text-lg font-semibold"
				class:border-attention={isWrong}
				aria-label="Go to a time of the line-up"
				aria-invalid={isWrong}
				title="A timecode, its front may be left out; or seconds, as in 12.5 s"
				bind:value={typed}
				autofocus
				onblur={() => (view.isGoToOpen = false)}
				onkeydown={(event) => {
					if (event.key === 'Escape') view.isGoToOpen = false;
				}}
			/>
		</form>
	{:else}
		<button
			class="times text-lg font-semibold whitespace-nowrap"
			title="Go to a typed time (G)"
			data-testid="timecode"
			data-flicks={transport.shownFlicks}
			disabled={shoot.placed.length === 0}
			onclick={() => (view.isGoToOpen = true)}
			>{timeWords(transport.shownFlicks, look.time, shoot.shoot.rate, clockSeconds)}</button
		>
	{/if}
	{#if clock !== undefined}<span class="times text-sm text-quiet" title="Clock of the reference device"
			>{clockWords(clock)}</span
		>{/if}
	<span class="truncate text-sm" data-testid="hears">{listening.wordsAt(transport.shownFlicks)}</span>
	{#if listening.hearsLanes}
		<button class="text-sm whitespace-nowrap text-accent underline" onclick={() => listening.hearMaster()}
			>Hear the master</button
		>
	{/if}
	{#if transport.problem}<span class="truncate text-sm text-attention">{transport.problem}</span>{/if}
	{#if shoot.shoot.lineUps.length > 1}
		<select
			class="ml-auto rounded-md border border-line bg-surface py-0.5 text-sm"
			aria-label="Line-up"
			value={shoot.lineUpId}
			onchange={(event) => void chooseLineUp(event.currentTarget.value)}
			data-testid="line-up-choice"
		>
			{#each shoot.shoot.lineUps as lineUp, index (lineUp.id)}<option value={lineUp.id}
					>{lineUpWords(lineUp.id, index)}</option
				>{/each}
		</select>
	{/if}
</div>

<style>
	.play {
		display: grid;
		place-content: center;
		width: 34px;
		height: 28px;
		border-radius: 6px;
		background: var(--accent-fill);
		color: var(--on-accent);
		cursor: pointer;
	}
	.play:disabled {
		opacity: 0.4;
	}
</style>
