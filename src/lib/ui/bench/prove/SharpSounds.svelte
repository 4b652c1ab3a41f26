<script lang="ts">
	import { Button } from 'flowbite-svelte';
	import { FLICKS_PER_SECOND } from '../../../core/time/flicks';
	import { timecodeWords } from '../../controls/words';
	import { sharpSoundTimes, toSharpSound } from '../../frame/keys';
	import { useTransport } from '../../playback/transport.svelte';
	import { useScoreView } from '../../score/score-view.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';

	const shoot = useShoot();
	const transport = useTransport();
	const view = useScoreView();

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
	/** The first and the last event that two devices heard, and the one nearest to the middle: claps stand at the ends. */
	const checks = $derived.by(() => {
		const shared = events.filter((one) => one.heardBy > 1);
		const known = shared.length > 0 ? shared : events;
		const middle = (shoot.range.inFlicks + shoot.range.outFlicks) / 2;
		const nearest = known.reduce<(typeof known)[number] | undefined>(
			(best, one) => (!best || Math.abs(one.flicks - middle) < Math.abs(best.flicks - middle) ? one : best),
			undefined
		);
		return [
			{ name: 'Head', event: known[0] },
			{ name: 'Middle', event: nearest },
			{ name: 'Tail', event: known.at(-1) }
		];
	});

	function show(flicks: number): void {
		transport.goTo(Math.round(flicks));
		view.reveal(flicks);
	}
</script>

<div>
	<h2 class="text-base">Claps and other sharp sounds</h2>
	<div class="mt-1 flex gap-1.5">
		<Button size="xs" color="alternative" onclick={() => toSharpSound(shoot, transport, view, false)}>◂ before</Button>
		<Button
			size="xs"
			color="alternative"
			onclick={() => toSharpSound(shoot, transport, view, true)}
			data-testid="next-sharp-sound">next ▸</Button
		>
	</div>
	<ul class="mt-2 flex flex-col gap-0.5 text-sm">
		{#each checks as { name, event } (name)}
			<li class="flex gap-2">
				<span class="w-14 text-quiet">{name}</span>
				{#if event}<button class="times text-accent underline" onclick={() => show(event.flicks)}
						>{timecodeWords(event.flicks, shoot.shoot.rate)}</button
					><span class="text-quiet">heard by {event.heardBy}</span>
				{:else}<span class="text-quiet">nothing sharp here</span>{/if}
			</li>
		{/each}
	</ul>
</div>
