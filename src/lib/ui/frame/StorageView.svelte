<script lang="ts">
	import { onMount } from 'svelte';
	import { sizeWords } from '../controls/words';
	import { API } from '../../contract/endpoints';
	import type { StorageAction, StorageUse } from '../../contract/views';
	import { ask } from '../state/request';

	/** What takes room on the disk, and a limit for what can be made again. */
	const LIMITS = [5e9, 10e9, 20e9, 50e9, 100e9, 200e9, 500e9, 1e12];
	let storage = $state.raw<StorageUse>();
	let fault = $state<string>();

	onMount(() => look());

	async function look(action?: StorageAction): Promise<void> {
		try {
			storage = await (action ? ask(API.storageAction, {}, action) : ask(API.storage, {}, undefined));
			fault = undefined;
		} catch (error) {
			fault = error instanceof Error ? error.message : String(error);
		}
	}
</script>

<section class="border-t border-line pt-2" aria-label="Room on the disk" data-testid="storage">
	{#if storage}
		<p>
			Waveforms and small pictures: <span class="times">{sizeWords(storage.cacheBytes)}</span>{storage.unusedBytes > 0
				? `, of which no shoot uses ${sizeWords(storage.unusedBytes)}`
				: ''}. They can be made again.
		</p>
		<p class="mt-1 text-quiet">
			Dropped in: {sizeWords(storage.uploadBytes)}. Handed off: {sizeWords(storage.handOffBytes)}. Free on the disk: {sizeWords(
				storage.freeBytes
			)}.
		</p>
		<div class="mt-1 flex items-center gap-2">
			<label class="flex items-center gap-1"
				>At most
				<select
					class="rounded border border-line bg-ground py-0.5 pr-7 pl-2 text-xs"
					value={storage.limitBytes}
					onchange={(event) => look({ action: 'set-limit', limitBytes: Number(event.currentTarget.value) })}
				>
					{#each LIMITS as limit (limit)}<option value={limit}>{sizeWords(limit)}</option>{/each}
				</select></label
			>
			<button class="text-accent underline" onclick={() => look({ action: 'clean-up' })}>Clean up</button>
		</div>
	{:else}<p class="text-quiet">{fault ?? 'Looking at the disk…'}</p>{/if}
</section>
