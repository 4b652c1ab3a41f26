<script lang="ts">
	import { onMount, tick } from 'svelte';

	/** Text that turns into a field when it is pressed; Enter keeps the change, Escape drops it. */
	let {
		value,
		label,
		maxlength = 100,
		placeholder,
		isOpen = false,
		onchange,
		onend,
		class: extra = ''
	}: {
		value: string;
		label: string;
		maxlength?: number;
		/** Stands where there is no text; with it, text may be taken away. */
		placeholder?: string;
		/** A field from the beginning. */
		isOpen?: boolean;
		onchange: (value: string) => void;
		/** The field was left, whether anything changed or not. */
		onend?: () => void;
		class?: string;
	} = $props();

	let editing = $state(false);
	let draft = $state('');
	let field = $state<HTMLInputElement>();

	onMount(() => {
		if (isOpen) void begin();
	});

	async function begin(): Promise<void> {
		draft = value;
		editing = true;
		await tick();
		field?.select();
	}

	function end(keep: boolean): void {
		if (!editing) return;
		editing = false;
		const wanted = draft.trim();
		if (keep && (wanted || placeholder !== undefined) && wanted !== value) onchange(wanted);
		else onend?.();
	}
</script>

{#if editing}
	<input
		bind:this={field}
		bind:value={draft}
		{maxlength}
		aria-label={label}
		class="w-full min-w-0 rounded border border-line bg-surface px-1 py-0 text-sm {extra}"
		onblur={() => end(true)}
		onkeydown={(event) => {
			if (event.key === 'Enter') end(true);
			if (event.key === 'Escape') end(false);
		}}
	/>
{:else}
	<button
		class="max-w-full cursor-text truncate rounded px-0.5 text-left hover:bg-ground {extra}"
		title="{label}: press to change"
		aria-label="{label}: {value || placeholder}"
		onclick={begin}>{value || placeholder}</button
	>
{/if}
