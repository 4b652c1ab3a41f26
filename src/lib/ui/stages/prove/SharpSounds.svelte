<script lang="ts">
	import { toTimeline } from '../../../core/shoot/placement';
	import { FLICKS_PER_SECOND } from '../../../core/time/flicks';
	import { timecodeWords } from '../../controls/words';
	import { sharpSoundTimes, toSharpSound } from '../../frame/keys';
	import { useTransport } from '../../playback/transport.svelte';
	import { useScoreView } from '../../score/score-view.svelte';
	import { useProof } from '../../state/proof-state.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';

	/** Claps and the like, to go to: of the selected clip, or of all. */
	const shoot = useShoot();
	const transport = useTransport();
	const view = useScoreView();
	const proof = useProof();

	/** Heard by several devices within a twentieth of a second: one event. */
	const events = $derived.by(() => {
		const grouped: { flicks: number; heardBy: number }[] = [];
		for (const flicks of sharpSoundTimes(shoot)) {
			const last = grouped.at(-1);
			if (last && flicks - last.flicks < FLICKS_PER_SECOND / 20) last.heardBy++;
			else grouped.push({ flicks, heardBy: 1 });
		}
		return grouped;
	});
	/** While the selected clip runs, whoever heard them; those that several heard first: they prove something. */
	const known = $derived.by(() => {
		const { clip } = proof;
		const end = clip ? toTimeline(clip.placement, clip.durationFlicks) : 0;
		const own = events.filter((one) => !clip || (one.flicks >= clip.placement.startFlicks && one.flicks < end));
		const shared = own.filter((one) => one.heardBy > 1);
		return shared.length > 0 ? shared : own;
	});
	const checks = $derived.by(() => {
		const { clip } = proof;
		const from = clip ? clip.placement.startFlicks : shoot.range.inFlicks;
		const to = clip ? toTimeline(clip.placement, clip.durationFlicks) : shoot.range.outFlicks;
		const third = (to - from) / 3;
		/** In its own third of the clip; otherwise the place itself is gone to. */
		const nearest = (at: number, begins: number) =>
			known
				.filter((one) => one.flicks >= begins && one.flicks <= begins + third)
				.reduce<(typeof known)[number] | undefined>(
					(best, one) => (!best || Math.abs(one.flicks - at) < Math.abs(best.flicks - at) ? one : best),
					undefined
				);
		return [
			{ name: 'Head', at: from, event: nearest(from, from) },
			{ name: 'Middle', at: (from + to) / 2, event: nearest((from + to) / 2, from + third) },
			{ name: 'Tail', at: Math.max(from, to - FLICKS_PER_SECOND), event: nearest(to, to - third) }
		];
	});

	function show(flicks: number): void {
		transport.goTo(Math.round(flicks));
		view.reveal(flicks);
	}
</script>

<div class="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 text-sm">
	<span class="text-quiet">Claps</span>
	{#each checks as { name, at, event } (name)}
		<button
			class="text-left"
			title={event
				? `${name}: a sharp sound, heard by ${event.heardBy}`
				: `${name}: nothing sharp; goes to the place itself`}
			onclick={() => show(event?.flicks ?? at)}
			>{name}
			<span class="times text-xs text-accent underline">{timecodeWords(event?.flicks ?? at, shoot.shoot.rate)}</span
			></button
		>
	{/each}
	<span class="ml-auto flex gap-1">
		<button
			class="step"
			aria-label="Sharp sound before"
			title=","
			onclick={() => toSharpSound(shoot, transport, view, false)}>◂</button
		>
		<button
			class="step"
			aria-label="Next sharp sound"
			title="."
			onclick={() => toSharpSound(shoot, transport, view, true)}
			data-testid="next-sharp-sound">▸</button
		>
	</span>
</div>

<style>
	.step {
		border: 1px solid var(--line);
		border-radius: 4px;
		padding: 0 8px;
		background: var(--surface);
	}
	.step:hover {
		border-color: var(--accent);
	}
</style>
