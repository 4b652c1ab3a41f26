<script lang="ts">
	import type { Snippet } from 'svelte';

	/** A button of the score, where room is scarce. */
	let {
		label,
		pressed,
		chosen = false,
		onclick,
		children
	}: { label: string; pressed?: boolean; chosen?: boolean; onclick: () => void; children: Snippet } = $props();
</script>

<button class:chosen aria-label={label} title={label} aria-pressed={pressed} {onclick}>{@render children()}</button>

<style>
	button {
		display: inline-grid;
		place-content: center;
		min-width: 22px;
		height: 20px;
		padding: 0 3px;
		border: 1px solid var(--line);
		border-radius: 4px;
		background: var(--surface);
		color: var(--quiet);
		font-size: 11px;
		cursor: pointer;
	}
	button:hover {
		color: var(--ink);
		border-color: var(--accent);
	}
	.chosen {
		background: var(--accent-fill);
		color: var(--on-accent);
	}
</style>
