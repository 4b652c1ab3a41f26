<script lang="ts">
	import FileCheck from '@lucide/svelte/icons/file-check';
	import { onMount, tick } from 'svelte';
	import { provableMoment } from '../../../core/proof/provable-moment';
	import { FLICKS_PER_SECOND } from '../../../core/time/flicks';
	import { useTransport } from '../../playback/transport.svelte';
	import { useScoreView } from '../../score/score-view.svelte';
	import Wall from '../../playback/Wall.svelte';
	import { useProof } from '../../state/proof-state.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';
	import AirDelays from './AirDelays.svelte';
	import Changes from './Changes.svelte';
	import DoubleListen from './DoubleListen.svelte';
	import Drift from './Drift.svelte';
	import Lens from './Lens.svelte';
	import Repairs from './Repairs.svelte';
	import SharpSounds from './SharpSounds.svelte';
	import StrayViewer from './StrayViewer.svelte';
	import SyncPoints from './SyncPoints.svelte';

	const shoot = useShoot();
	const proof = useProof();
	const transport = useTransport();
	const score = useScoreView();
	// At an empty beginning nothing can be proved: the work begins at the first sound that several clips heard.
	onMount(async () => {
		// On a page opened here the player gets its material first.
		await tick();
		if (transport.playing || transport.shownFlicks > shoot.range.inFlicks + FLICKS_PER_SECOND) return;
		const at = provableMoment(shoot.placed);
		if (at === undefined) return;
		transport.goTo(at);
		score.reveal(at);
	});

	const stray = $derived(shoot.selectedClip && !shoot.selectedClip.placement ? shoot.selectedClip : undefined);

	const VIEWS = { lens: 'Two clips', drift: 'Drift' } as const;
	const TOOLS = { repairs: 'Repairs', points: 'Points', air: 'Air', changes: 'Changes' } as const;
	let view = $state<keyof typeof VIEWS>('lens');
	let tool = $state<keyof typeof TOOLS>('repairs');
	// Whoever looks for an event in a stray marks it in another clip next.
	$effect(() => {
		if (stray) tool = 'points';
	});

	/** Arrows go from one to the next, as in any list of tabs. */
	function onArrow<Key extends string>(
		event: KeyboardEvent,
		keys: readonly Key[],
		now: Key,
		choose: (key: Key) => void
	): void {
		const by = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
		if (by === 0) return;
		event.preventDefault();
		const next = keys[(keys.indexOf(now) + by + keys.length) % keys.length]!;
		choose(next);
		document.getElementById(`tab-${next}`)?.focus();
	}
</script>

{#if shoot.placed.length === 0}
	<p class="m-auto max-w-md p-10 text-center text-quiet">
		There is nothing to prove yet. <a class="text-accent underline" href="/shoots/{shoot.shootId}/line-up">Line up</a> the
		clips first.
	</p>
{:else}
	<div class="grid h-full min-h-0 grid-cols-[minmax(0,0.8fr)_minmax(0,1fr)_290px] gap-3">
		<section class="flex min-h-0 flex-col gap-2" aria-label="One instant on all angles">
			{#if stray}
				<div class="min-h-0 flex-1"><StrayViewer clip={stray} /></div>
			{:else}
				<div class="min-h-0 flex-1">
					<Wall
						only={proof.largeDeviceId}
						verb={proof.largeDeviceId ? 'Show all beside' : 'Show large:'}
						oncall={(deviceId) => (proof.largeDeviceId = proof.largeDeviceId ? undefined : deviceId)}
					/>
				</div>
			{/if}
			<SharpSounds />
		</section>
		<section class="panel flex min-h-0 flex-col gap-1.5 p-2.5" aria-label="Two clips, and their drift">
			<div class="flex items-center gap-1">
				<div class="flex gap-1" role="tablist" aria-label="What is shown of the clip">
					{#each Object.entries(VIEWS) as [key, words] (key)}
						{@render tab(key, words, view === key, (chosen) => (view = chosen as typeof view), Object.keys(VIEWS))}
					{/each}
				</div>
				<a
					class="ml-auto inline-flex items-center gap-1 text-sm text-accent underline"
					href="/reports/{shoot.shootId}?lineUp={shoot.lineUpId}"><FileCheck size={14} aria-hidden="true" /> Report</a
				>
			</div>
			<div class="min-h-0 flex-1" role="tabpanel" aria-labelledby="tab-{view}">
				{#if view === 'lens'}<Lens />{:else}<Drift />{/if}
			</div>
			<DoubleListen />
		</section>
		<section class="panel flex min-h-0 flex-col" aria-label="Repairs">
			<div class="flex gap-1 border-b border-line px-2 pt-1.5" role="tablist" aria-label="Tools">
				{#each Object.entries(TOOLS) as [key, words] (key)}
					{@render tab(key, words, tool === key, (chosen) => (tool = chosen as typeof tool), Object.keys(TOOLS))}
				{/each}
			</div>
			<div class="min-h-0 flex-1 overflow-auto p-2.5" role="tabpanel" aria-labelledby="tab-{tool}">
				{#if tool === 'repairs'}<Repairs />
				{:else if tool === 'points'}<SyncPoints />
				{:else if tool === 'air'}<AirDelays />
				{:else}<Changes />{/if}
			</div>
		</section>
	</div>
{/if}

{#snippet tab(key: string, words: string, chosen: boolean, choose: (key: string) => void, keys: readonly string[])}
	<button
		id="tab-{key}"
		class="tab"
		role="tab"
		aria-selected={chosen}
		tabindex={chosen ? 0 : -1}
		onclick={() => choose(key)}
		onkeydown={(event) => onArrow(event, keys, key, choose)}>{words}</button
	>
{/snippet}

<style>
	.tab {
		border-bottom: 2px solid transparent;
		padding: 2px 8px;
		font-size: 0.875rem;
		color: var(--quiet);
	}
	.tab:hover {
		color: var(--ink);
	}
	.tab[aria-selected='true'] {
		border-color: var(--accent-fill);
		color: var(--ink);
		font-weight: 600;
	}
</style>
