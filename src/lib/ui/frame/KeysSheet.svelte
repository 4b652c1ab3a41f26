<script lang="ts">
	import { Modal } from 'flowbite-svelte';
	import { KEY_SHEET } from './keys';
	import { MASTER_KEY_SHEET } from './master-keys';
	import { PROVE_KEY_SHEET } from './prove-keys';
	import { openingMotion } from '../controls/opening-motion';

	let { open = $bindable() }: { open: boolean } = $props();
	const SHEETS = [
		{ title: 'Everywhere', keys: KEY_SHEET },
		{ title: 'In Prove', keys: PROVE_KEY_SHEET },
		{ title: 'In Master', keys: MASTER_KEY_SHEET }
	];
</script>

<Modal transitionParams={openingMotion()} bind:open title="Keys" size="lg" outsideclose>
	<div class="grid gap-6 md:grid-cols-2">
		{#each SHEETS as { title, keys: sheet } (title)}
			<section>
				<h3 class="mb-2 text-sm">{title}</h3>
				<dl class="grid grid-cols-[6rem_1fr] gap-x-3 gap-y-1 text-sm">
					{#each sheet as { keys, does } (keys)}
						<dt><kbd class="times rounded border border-line bg-ground px-1.5">{keys}</kbd></dt>
						<dd>{does}</dd>
					{/each}
				</dl>
			</section>
		{/each}
	</div>
</Modal>
