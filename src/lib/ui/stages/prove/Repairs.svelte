<script lang="ts">
	import Lock from '@lucide/svelte/icons/lock';
	import LockOpen from '@lucide/svelte/icons/lock-open';
	import { Button } from 'flowbite-svelte';
	import { gridPlace } from '../../../core/shoot/frame-grid';
	import { methodWords } from '../../../core/proof/report';
	import { FLICKS_PER_SECOND, flicksToSeconds, secondsToFlicks, videoFrameToFlicks } from '../../../core/time/flicks';
	import { countWords, millisecondsWords, ppmWords, signedWords } from '../../controls/words';
	import { useTransport } from '../../playback/transport.svelte';
	import { type Scope, SCOPES, useProof } from '../../state/proof-state.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';

	const shoot = useShoot();
	const transport = useTransport();
	const proof = useProof();

	const clip = $derived(shoot.selectedClip);
	const placement = $derived(clip?.placement);
	const device = $derived(clip ? shoot.device(clip.deviceId) : undefined);
	const SCOPE_WORDS: Readonly<Record<Scope, string>> = {
		clip: 'this clip',
		device: 'all of its device',
		left: 'all left of the playhead',
		right: 'all right of the playhead'
	};
	let typed = $state('');
	let wrong = $state('');

	const shown = $derived(placement ? flicksToSeconds(placement.startFlicks).toFixed(6) : '');
	$effect(() => {
		typed = shown;
		wrong = '';
	});
	const moved = $derived(proof.movedIds(transport.shownFlicks));
	/** The picture's part of it: on the frame grid, with what that leaves over. */
	const grid = $derived(proof.clip?.parts[0]?.picture ? gridPlace(proof.clip, shoot.shoot.rate) : undefined);

	const STEPS = $derived([
		{ unit: 'frames', flicks: videoFrameToFlicks(1, shoot.shoot.rate) },
		{ unit: 'ms', flicks: FLICKS_PER_SECOND / 1000 },
		{ unit: 'samples', flicks: FLICKS_PER_SECOND / 48_000 }
	]);
	const AMOUNTS = [-10, -1, 1, 10];

	function signed(amount: number): string {
		return `${amount < 0 ? '−' : '+'}${Math.abs(amount)}`;
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
		<span class="badge" style:--hue={shoot.hue(clip.deviceId)}>{device?.badge}</span><span
			class="min-w-0 flex-1 truncate">{clip.name}</span
		>
		<button
			class="rounded p-1 hover:text-accent"
			aria-pressed={placement.isLocked}
			title="{placement.isLocked ? 'Unlock' : 'Lock'} against every move (L)"
			aria-label="{placement.isLocked ? 'Unlock' : 'Lock'} {clip.name}"
			onclick={() => shoot.edit({ kind: 'lock-clips', clipIds: [clip.id], locked: !placement.isLocked })}
		>
			{#if placement.isLocked}<Lock size={16} class="text-accent" />{:else}<LockOpen size={16} />{/if}
		</button>
	</h2>
	<p class="mt-0.5 text-sm text-quiet">
		{placement.method === 'audio' && placement.byHand
			? 'By sound, then moved by hand'
			: `By ${methodWords(placement.method)}`}, clock {ppmWords(placement.ratePpm)}{placement.residualSeconds > 0
			? `, residual ${millisecondsWords(placement.residualSeconds)}`
			: ''}{placement.isLocked ? ', locked' : ''}.
	</p>
	<form class="mt-2 flex items-end gap-2" onsubmit={take}>
		<label class="min-w-0 flex-1 text-xs text-quiet"
			>Starts at, in seconds
			<input
				class="times mt-0.5 w-full rounded-md border border-line bg-surface px-2 py-0.5 text-sm text-ink"
				bind:value={typed}
				inputmode="decimal"
				disabled={placement.isLocked}
				data-testid="clip-start"
				data-flicks={placement.startFlicks}
			/></label
		>
		<Button type="submit" size="xs" color="alternative" disabled={typed === shown}>Set</Button>
	</form>
	{#if wrong}<p class="mt-1 text-xs text-attention" role="alert">{wrong}</p>{/if}
	{#if grid}<p class="mt-1 text-xs text-quiet" data-testid="grid">
			Its picture stays on frame <span class="times text-ink">{grid.videoFrame}</span>; its sound lies
			<span class="times text-ink">{signedWords(1000 * flicksToSeconds(grid.remainderFlicks))} ms</span> beside it, which
			is kept and handed on.
		</p>{/if}
{:else if clip}
	<h2 class="text-base">{clip.name} has no place yet</h2>
	<p class="mt-1 text-sm">
		Find one event in its picture, such as a clap, and mark it. Mark the same event in a clip that is placed. Then line
		up by the two.
	</p>
{:else}
	<h2 class="text-base">Repairs</h2>
	<p class="mt-1 text-sm text-quiet">
		Choose a clip in the score to move it, or move all left or right of the playhead.
	</p>
{/if}
<label class="mt-2 flex items-center gap-2 text-sm">
	<span class="text-quiet">Move</span>
	<select
		class="min-w-0 flex-1 rounded border border-line bg-surface py-0.5 pr-6 pl-1.5 text-sm"
		bind:value={proof.scope}
		data-testid="scope"
	>
		{#each SCOPES as scope (scope)}<option value={scope}>{SCOPE_WORDS[scope]}</option>{/each}
	</select>
	<span class="text-xs whitespace-nowrap text-quiet">{countWords(moved.length, 'clip')}</span>
</label>
<div class="mt-1.5 grid grid-cols-[3.8rem_repeat(4,1fr)] items-center gap-1">
	{#each STEPS as { unit, flicks } (unit)}
		<span class="text-sm text-quiet">{unit}</span>
		{#each AMOUNTS as amount (amount)}
			<Button
				size="xs"
				color="alternative"
				class="times px-1 py-1"
				aria-label="{signed(amount)} {unit}"
				disabled={moved.length === 0}
				onclick={() => proof.shift(amount * flicks, transport.shownFlicks)}>{signed(amount)}</Button
			>
		{/each}
	{/each}
</div>
<div class="mt-2 flex flex-wrap gap-x-4 gap-y-1 text-sm">
	<label class="flex items-center gap-1.5"
		><input type="checkbox" class="size-3.5 rounded border-line text-accent" bind:checked={proof.drags} /> Drag clips in the
		score</label
	>
	<label class="flex items-center gap-1.5"
		><input type="checkbox" class="size-3.5 rounded border-line text-accent" bind:checked={proof.snaps} /> Snap</label
	>
</div>
<p class="mt-2 text-xs text-quiet">
	What was moved by hand stays put when you line up again; what is locked cannot even be moved by hand.
</p>
