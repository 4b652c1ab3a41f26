<script lang="ts">
	import Ear from '@lucide/svelte/icons/ear';
	import Repeat from '@lucide/svelte/icons/repeat';
	import { untrack } from 'svelte';
	import { toggleLoop } from '../../frame/prove-keys';
	import { useTransport } from '../../playback/transport.svelte';
	import { useScoreView } from '../../score/score-view.svelte';
	import { useListening } from '../../state/listening.svelte';
	import { useSources } from '../../state/sources-state.svelte';
	import { PLACES, useProof } from '../../state/proof-state.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';

	/** Two sources at once, over a passage, as they lie and as they lay: a doubled clap tells the error. */
	const shoot = useShoot();
	const transport = useTransport();
	const view = useScoreView();
	const proof = useProof();
	const listening = useListening();
	const sources = useSources();

	const context = { shoot, transport, view, proof, listening, sources, stage: 'prove' as const, help: () => undefined };
	// What was last changed is another thing after every change.
	$effect(() => {
		if (!shoot.shoot.revision) return;
		untrack(() => proof.places === 'before the last change' && void proof.listenWith(proof.places));
	});
	// Another choice of clips is heard at once.
	$effect(() => {
		const [a, b] = [proof.clip?.deviceId, proof.onto?.deviceId];
		if (!listening.double || !a || !b) return;
		if (listening.double[0] !== a || listening.double[1] !== b) listening.double = [a, b];
	});
</script>

<div class="flex flex-wrap items-center gap-x-2 gap-y-1 text-sm" data-testid="double-listen">
	<button
		class="tool"
		aria-pressed={listening.double !== undefined}
		disabled={!proof.onto}
		title="The two clips of the lens over each other, and nothing else (D)"
		onclick={() => listening.toggleDouble(proof.clip?.deviceId, proof.onto?.deviceId)}
		><Ear size={14} aria-hidden="true" /> Double listen</button
	>
	<label class="flex items-center gap-1 text-xs" title="X"
		><input
			type="checkbox"
			class="size-3.5 rounded border-line text-accent"
			bind:checked={listening.inEachEar}
			disabled={!listening.double}
		/> one in each ear</label
	>
	<button
		class="tool"
		aria-pressed={proof.loop !== undefined}
		title="Play the passage of the lens round and round (R)"
		onclick={() => toggleLoop(context)}><Repeat size={14} aria-hidden="true" /> Loop</button
	>
	<select
		class="ml-auto max-w-44 rounded border border-line bg-surface py-0.5 pr-6 pl-1.5 text-xs"
		class:border-attention={proof.places !== 'now'}
		aria-label="Listen with the places"
		title="C goes from one to the next"
		value={proof.places}
		onchange={(event) => proof.listenWith(event.currentTarget.value as (typeof PLACES)[number])}
	>
		{#each PLACES as places (places)}<option value={places}>{places === 'now' ? 'as it is placed' : places}</option
			>{/each}
	</select>
</div>
{#if proof.places !== 'now'}
	<p class="text-xs text-attention" role="status">
		{#if proof.places === 'without drift correction'}You hear the clips with no correction of their clocks.
		{:else if proof.beforeLabel}You hear it as it was before: {proof.beforeLabel}.
		{:else}No clip has been moved yet: you hear it as it is.{/if}
	</p>
{/if}

<style>
	.tool {
		display: inline-flex;
		align-items: center;
		gap: 0.25rem;
		border: 1px solid var(--line);
		border-radius: 6px;
		padding: 2px 8px;
		background: var(--surface);
	}
	.tool:hover:not(:disabled) {
		border-color: var(--accent);
	}
	.tool[aria-pressed='true'] {
		background: var(--accent-fill);
		color: var(--on-accent);
	}
	.tool:disabled {
		opacity: 0.45;
	}
</style>
