<script lang="ts">
	import { Button } from 'flowbite-svelte';
	import { FLICKS_PER_SECOND, flicksToSeconds, secondsToFlicks, videoFrameToFlicks } from '../../../core/time/flicks';
	import { millisecondsWords, ppmWords } from '../../controls/words';
	import { useListening } from '../../state/listening.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';

	const shoot = useShoot();
	const listening = useListening();

	const clip = $derived(shoot.selectedClip);
	const placement = $derived(clip?.placement);
	const device = $derived(clip ? shoot.device(clip.deviceId) : undefined);
	const siblings = $derived(clip ? shoot.placed.filter((one) => one.deviceId === clip.deviceId).length : 0);
	let whole = $state(false);
	let typed = $state('');
	let wrong = $state('');

	const shown = $derived(placement ? flicksToSeconds(placement.startFlicks).toFixed(6) : '');
	$effect(() => {
		typed = shown;
		wrong = '';
	});

	const frame = $derived(videoFrameToFlicks(1, shoot.shoot.rate));
	const STEPS = $derived([
		{ unit: 'frames', flicks: frame },
		{ unit: 'ms', flicks: FLICKS_PER_SECOND / 1000 },
		{ unit: 'samples', flicks: FLICKS_PER_SECOND / 48_000 }
	]);
	const AMOUNTS = [-10, -1, 1, 10];

	function signed(amount: number): string {
		return `${amount < 0 ? '−' : '+'}${Math.abs(amount)}`;
	}

	function nudge(byFlicks: number): void {
		if (!clip) return;
		void shoot.edit(
			whole && siblings > 1
				? { kind: 'move-device', deviceId: clip.deviceId, lineUpId: shoot.lineUpId, byFlicks }
				: { kind: 'move-clip', clipId: clip.id, byFlicks }
		);
	}

	function take(event: SubmitEvent): void {
		event.preventDefault();
		const seconds = Number(typed.replace(',', '.'));
		if (!clip || !typed.trim() || !Number.isFinite(seconds) || Math.abs(seconds) > 1e6) {
			wrong = 'Type the start in seconds, such as 12.345.';
			return;
		}
		wrong = '';
		void shoot.edit({ kind: 'set-start', clipId: clip.id, startFlicks: secondsToFlicks(seconds) });
	}
</script>

{#if clip && placement}
	<h2 class="flex items-center gap-2 text-base">
		<span class="badge" style:--hue={shoot.hue(clip.deviceId)}>{device?.badge}</span><span class="truncate"
			>{clip.name}</span
		>
	</h2>
	<p class="mt-1 text-sm text-quiet">
		{placement.byHand ? 'Set by hand' : 'Placed by sound'}, clock {ppmWords(placement.ratePpm)}{placement.method ===
			'audio' && !placement.byHand
			? `, residual ${millisecondsWords(placement.residualSeconds)}`
			: ''}.
	</p>
	<form class="mt-3" onsubmit={take}>
		<label class="text-xs text-quiet" for="clip-start">Starts at, in seconds of the line-up</label>
		<div class="mt-1 flex gap-2">
			<input
				id="clip-start"
				class="times w-full min-w-0 rounded-md border border-line bg-surface px-2 py-1 text-sm"
				bind:value={typed}
				inputmode="decimal"
				data-testid="clip-start"
				data-flicks={placement.startFlicks}
			/>
			<Button type="submit" size="xs" color="alternative" disabled={typed === shown}>Set</Button>
		</div>
		{#if wrong}<p class="mt-1 text-xs text-attention" role="alert">{wrong}</p>{/if}
	</form>
	<div class="mt-3 grid grid-cols-[4.2rem_repeat(4,1fr)] items-center gap-1.5">
		{#each STEPS as { unit, flicks } (unit)}
			<span class="text-sm text-quiet">{unit}</span>
			{#each AMOUNTS as amount (amount)}
				<Button
					size="xs"
					color="alternative"
					class="times px-1"
					aria-label="{signed(amount)} {unit}"
					onclick={() => nudge(amount * flicks)}>{signed(amount)}</Button
				>
			{/each}
		{/each}
	</div>
	{#if siblings > 1}
		<label class="mt-2 flex items-center gap-2 text-sm"
			><input type="checkbox" class="accent-accent" bind:checked={whole} /> Move all {siblings} clips of {device?.name}</label
		>
	{/if}
	<p class="mt-3 text-sm text-quiet">
		What was moved by hand stays put when you line up again. Listen with two lanes on: a clap must sound once.
	</p>
	<Button
		size="xs"
		color="alternative"
		class="mt-2"
		onclick={() =>
			listening.hearOnly([
				clip.deviceId,
				...(shoot.reference && shoot.reference.id !== clip.deviceId ? [shoot.reference.id] : [])
			])}
		disabled={!clip.parts[0]?.sound}
	>
		Hear it with the reference
	</Button>
{:else if clip}
	<h2 class="text-base">{clip.name} has no place yet</h2>
	<p class="mt-1 text-sm">
		Find one event in its picture, such as a clap, and mark it. Mark the same event in a clip that is placed. Then line
		up by the two.
	</p>
{:else}
	<h2 class="text-base">Repairs</h2>
	<p class="mt-1 text-sm text-quiet">
		Choose a clip in the score to move it by frames or samples, or to type where it starts.
	</p>
{/if}
