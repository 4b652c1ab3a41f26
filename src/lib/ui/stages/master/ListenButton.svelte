<script lang="ts">
	import Headphones from '@lucide/svelte/icons/headphones';
	import { type Audition, useListening } from '../../state/listening.svelte';

	/** Listens to a source at the very same moment; again, back to the master. */
	let { audition, name }: { audition: Audition; name: string } = $props();

	const listening = useListening();
	const tried = $derived(listening.isTried(audition));
</script>

<button
	class="try"
	class:on={tried}
	aria-pressed={tried}
	aria-label="Try {name}"
	onclick={() => listening.listenTo(tried ? undefined : audition)}
	><Headphones size={14} aria-hidden="true" /> try</button
>

<style>
	.try {
		display: inline-flex;
		align-items: center;
		gap: 4px;
		padding: 1px 7px;
		border: 1px solid var(--line);
		border-radius: 5px;
		font-size: 12px;
		cursor: pointer;
	}
	.try:hover {
		border-color: var(--accent);
	}
	.try.on {
		background: var(--accent-fill);
		color: var(--on-accent);
		border-color: var(--accent-fill);
	}
</style>
