<script lang="ts">
	import ChevronUp from '@lucide/svelte/icons/chevron-up';
	import GripVertical from '@lucide/svelte/icons/grip-vertical';
	import X from '@lucide/svelte/icons/x';
	import type { MasterChannel } from '../../../core/shoot/decisions';
	import { lengthWords, timecodeWords } from '../../controls/words';
	import { useTransport } from '../../playback/transport.svelte';
	import { useScoreView } from '../../score/score-view.svelte';
	import { gapsOf, useSources } from '../../state/sources-state.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';
	import ListenButton from './ListenButton.svelte';
	import { setMix, titleOf } from './master-choice';

	/** Where the master has gaps: what stands in there, in which order, and where nothing does. */
	const shoot = useShoot();
	const sources = useSources();
	const transport = useTransport();
	const view = useScoreView();

	let carried = $state<number>();

	const range = $derived(shoot.program ?? shoot.range);
	const covers = $derived(shoot.lineUp?.mix.coversGaps ?? true);
	const order = $derived(sources.mixed.order.slice(1));
	const isChosen = $derived((shoot.lineUp?.standIns.length ?? 0) > 0);
	/** Within the program. */
	const turns = $derived(
		sources.mixed.turns.filter((one) => one.outFlicks > range.inFlicks && one.inFlicks < range.outFlicks)
	);
	const standingIn = $derived(turns.filter((one) => one.turn > 0));
	const silent = $derived(gapsOf(sources.mixed, range));
	const hasGaps = $derived(standingIn.length > 0 || silent.length > 0);

	function setOrder(standIns: readonly (readonly MasterChannel[])[]): void {
		void shoot.editLineUp((lineUpId) => ({ kind: 'set-stand-ins', lineUpId, standIns }));
	}

	function moved(from: number, to: number): readonly (readonly MasterChannel[])[] {
		const others = order.filter((_, index) => index !== from);
		others.splice(to, 0, order[from]!);
		return others;
	}

	function drop(to: number): void {
		if (carried !== undefined && carried !== to) setOrder(moved(carried, to));
		carried = undefined;
	}

	function secondsOf(turn: number): number {
		return turns
			.filter((one) => one.turn === turn)
			.reduce((sum, one) => sum + Math.min(one.outFlicks, range.outFlicks) - Math.max(one.inFlicks, range.inFlicks), 0);
	}

	/** To the next one, and round again. */
	function goTo(places: readonly { readonly inFlicks: number }[]): void {
		const next = places.find((one) => one.inFlicks > transport.shownFlicks + 1) ?? places[0];
		if (!next) return;
		const flicks = Math.max(next.inFlicks, range.inFlicks);
		transport.goTo(flicks);
		view.reveal(flicks);
	}
</script>

<section class="panel flex flex-col gap-2 p-3" aria-label="Gaps of the master" data-testid="stand-ins">
	<div class="flex items-center gap-2">
		<h2 class="text-base">Where the master has gaps</h2>
		<label class="ml-auto flex items-center gap-1.5 text-xs">
			<input
				type="checkbox"
				class="size-4 rounded border-line text-accent"
				checked={covers}
				onchange={(event) => setMix(shoot, { coversGaps: event.currentTarget.checked })}
			/>
			cover them
		</label>
	</div>
	<p class="text-xs text-quiet" role="status" data-testid="gaps">
		{#if !hasGaps}
			It has none in the program.
		{:else}
			{#if standingIn.length > 0}
				<button class="text-accent underline" onclick={() => goTo(standingIn)}
					>{standingIn.length === 1 ? 'One gap is' : `${standingIn.length} gaps are`} covered</button
				>{/if}{#if silent.length > 0}{standingIn.length > 0 ? ', ' : ''}<button
					class="text-attention underline"
					onclick={() => goTo(silent)}
					>{silent.length === 1 ? 'one is' : `${silent.length} are`} silent, from {timecodeWords(
						silent[0]!.inFlicks,
						shoot.shoot.rate
					)}</button
				>{/if}.
		{/if}
	</p>
	{#if order.length > 0 && (hasGaps || isChosen)}
		<ol class="flex flex-col gap-1 text-sm">
			{#each order as channels, place (JSON.stringify(channels))}
				{@const title = titleOf(shoot, channels)}
				<!-- Dragged by the pointer; the arrow button does the same. -->
				<li
					class="flex items-center gap-1.5 rounded bg-ground px-1 py-0.5"
					draggable="true"
					data-testid="stand-in"
					ondragstart={() => (carried = place)}
					ondragover={(event) => {
						if (carried !== undefined) event.preventDefault();
					}}
					ondrop={() => drop(place)}
				>
					<GripVertical size={12} class="text-quiet" aria-hidden="true" />
					<span class="badge" style:--hue={shoot.hue(channels[0]!.deviceId)}
						>{shoot.device(channels[0]!.deviceId)?.badge}</span
					>
					<span class="min-w-0 flex-1 truncate" {title}>{title}</span>
					{#if secondsOf(place + 1) > 0}<span class="times text-xs text-quiet">{lengthWords(secondsOf(place + 1))}</span
						>{/if}
					<ListenButton audition={{ channels }} name={title} />
					<button
						class="small"
						disabled={place === 0}
						aria-label="{title} before the one above"
						onclick={() => setOrder(moved(place, place - 1))}><ChevronUp size={13} /></button
					>
					<button
						class="small"
						aria-label="{title} never stands in"
						onclick={() => {
							const others = order.filter((_, index) => index !== place);
							if (others.length > 0) setOrder(others);
							else setMix(shoot, { coversGaps: false });
						}}><X size={12} /></button
					>
				</li>
			{/each}
		</ol>
		<p class="text-xs text-quiet">
			{#if isChosen}Your order. <button class="text-accent underline" onclick={() => setOrder([])}
					>Back to the proposed one</button
				>{:else}Proposed: the best first.{/if}
		</p>
	{/if}
</section>

<style>
	.small {
		display: grid;
		place-content: center;
		min-width: 18px;
		height: 18px;
		border-radius: 4px;
		cursor: pointer;
	}
	.small:disabled {
		opacity: 0.3;
		cursor: default;
	}
	.small:not(:disabled):hover {
		background: var(--line);
	}
</style>
