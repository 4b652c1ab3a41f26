<script lang="ts">
	import { FolderOpen } from '@lucide/svelte';
	import { Button } from 'flowbite-svelte';
	import { onMount } from 'svelte';
	import { countWords } from '../controls/words';
	import { request } from '../state/request';
	import NewShoot from './NewShoot.svelte';

	interface Summary {
		readonly id: string;
		readonly name: string;
		readonly folder: string;
		readonly clips: number;
		readonly isDemo: boolean;
	}

	let shoots = $state.raw<readonly Summary[]>();
	let fault = $state<string>();
	let making = $state(false);

	onMount(async () => {
		try {
			shoots = await request<Summary[]>('/api/shoots');
		} catch (error) {
			fault = error instanceof Error ? error.message : String(error);
		}
	});
</script>

<main class="mx-auto flex max-w-4xl flex-col gap-6 px-6 py-10">
	<header class="flex items-end gap-4">
		<div class="flex-1">
			<h1 class="text-4xl">Open Choir</h1>
			<p class="mt-1 text-base text-quiet">Many cameras, many recorders, one timeline.</p>
		</div>
		<Button onclick={() => (making = !making)} aria-expanded={making}>New shoot</Button>
	</header>
	{#if making}<NewShoot />{/if}
	{#if fault}<p class="text-attention" role="alert">{fault}</p>{/if}
	{#if shoots}
		<ul class="panel divide-y divide-line">
			{#each shoots as shoot (shoot.id)}
				<li>
					<a href="/shoots/{shoot.id}/gather" class="flex items-center gap-4 px-4 py-3 hover:bg-ground">
						<FolderOpen size={20} class="shrink-0 text-accent" aria-hidden="true" />
						<span class="min-w-0 flex-1">
							<span class="block font-title text-lg">{shoot.name}</span>
							<span class="block truncate text-xs text-quiet" title={shoot.folder}>{shoot.folder}</span>
						</span>
						<span class="text-sm text-quiet">{countWords(shoot.clips, 'clip')}{shoot.isDemo ? ' · demo' : ''}</span>
					</a>
				</li>
			{:else}
				<li class="p-6 text-quiet">There is no shoot yet. Press “New shoot” and choose the folder with your cards.</li>
			{/each}
		</ul>
	{:else if !fault}
		<p class="text-quiet">Reading the list…</p>
	{/if}
</main>
