<script lang="ts">
	import { Modal } from 'flowbite-svelte';
	import { KEY_SHEET } from './keys';

	let { open = $bindable() }: { open: boolean } = $props();
</script>

<Modal bind:open title="Keys" size="sm" outsideclose>
	<dl class="grid grid-cols-[8rem_1fr] gap-x-4 gap-y-1.5 text-sm">
		{#each KEY_SHEET as { keys, does } (keys)}
			<dt><kbd class="times rounded border border-line bg-ground px-1.5">{keys}</kbd></dt>
			<dd>{does}</dd>
		{/each}
	</dl>
</Modal>
