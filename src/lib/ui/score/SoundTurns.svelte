<script lang="ts">
	import { useTransport } from '../playback/transport.svelte';
	import { useShoot } from '../state/shoot-state.svelte';
	import { gapsOf, useSources } from '../state/sources-state.svelte';
	import { timecodeWords } from '../controls/words';
	import { useScoreView } from './score-view.svelte';

	/** What the audience hears when: the master, what stands in for it, and where it is silent. */
	let { height }: { height: number } = $props();

	const shoot = useShoot();
	const sources = useSources();
	const transport = useTransport();
	const view = useScoreView();
	/** What begins before the screen does still shows its name. */
	const OFF_SCREEN_PIXELS = -4;
	/** Below this width there is no room for a name. */
	const NAME_PIXELS = 60;

	const range = $derived(shoot.program ?? shoot.range);
	const pieces = $derived(
		[
			...sources.mixed.turns.map((one) => ({ ...one, isSilent: false })),
			...gapsOf(sources.mixed, range).map((one) => ({ ...one, turn: -1, isSilent: true }))
		]
			.map((one) => ({
				...one,
				inFlicks: Math.max(one.inFlicks, range.inFlicks),
				outFlicks: Math.min(one.outFlicks, range.outFlicks)
			}))
			.filter((one) => one.outFlicks > one.inFlicks)
			.sort((a, b) => a.inFlicks - b.inFlicks)
	);

	function hueOf(turn: number): string {
		const first = sources.mixed.order[turn]?.[0];
		return first ? shoot.hue(first.deviceId) : 'var(--attention)';
	}

	function words(turn: number): string {
		if (turn < 0) return 'silent';
		if (turn === 0) return 'master';
		const devices = [...new Set((sources.mixed.order[turn] ?? []).map((one) => one.deviceId))];
		return devices.map((id) => `${shoot.device(id)?.badge} ${shoot.device(id)?.name}`).join(', ');
	}
</script>

<div class="relative overflow-hidden" style:height="{height}px" data-testid="sound-turns">
	{#each pieces as piece (piece.inFlicks)}
		{@const from = Math.max(OFF_SCREEN_PIXELS, view.x(piece.inFlicks))}
		{@const to = Math.min(view.width - OFF_SCREEN_PIXELS, view.x(piece.outFlicks))}
		{#if to > 0 && from < view.width}
			<button
				class="turn absolute top-px overflow-hidden rounded-sm border px-1 text-left text-[10px] leading-none whitespace-nowrap"
				class:stands-in={piece.turn > 0}
				class:silent={piece.isSilent}
				style:--hue={hueOf(piece.turn)}
				style:left="{from}px"
				style:width="{Math.max(2, to - from)}px"
				style:height="{height - 2}px"
				aria-label="Sound from {timecodeWords(piece.inFlicks, shoot.shoot.rate)}: {words(piece.turn)}"
				data-testid="sound-turn"
				data-turn={piece.turn}
				data-in={piece.inFlicks}
				data-out={piece.outFlicks}
				onclick={() => {
					if (!transport.playing) transport.goTo(piece.inFlicks);
				}}>{to - from > NAME_PIXELS ? words(piece.turn) : ''}</button
			>
		{/if}
	{/each}
</div>

<style>
	.turn {
		background: var(--surface);
		border-color: var(--line);
		color: var(--quiet);
		cursor: pointer;
	}
	.stands-in {
		background: color-mix(in srgb, var(--hue) 22%, var(--surface));
		border-color: var(--hue);
		border-style: dashed;
		color: var(--ink);
	}
	.silent {
		border-color: var(--attention);
		border-style: dotted;
		color: var(--attention);
	}
</style>
