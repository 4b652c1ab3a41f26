<script lang="ts">
	import CornerLeftUp from '@lucide/svelte/icons/corner-left-up';
	import Folder from '@lucide/svelte/icons/folder';
	import { onMount } from 'svelte';
	import { API } from '../../contract/endpoints';
	import { ask } from '../state/request';

	/** Folders are asked of the server, which shows only those it may read. */
	let { path = $bindable(), onfault }: { path: string | undefined; onfault: (fault: string | undefined) => void } =
		$props();

	let roots = $state.raw<readonly string[]>([]);
	let folders = $state.raw<readonly string[]>([]);

	/** Cards and drives show up by themselves. */
	const LOOK_AGAIN_MS = 3000;

	onMount(() => {
		void look(path);
		const timer = setInterval(() => void lookForCards(), LOOK_AGAIN_MS);
		return () => clearInterval(timer);
	});

	/** Without moving who chooses, or taking back what was said. */
	async function lookForCards(): Promise<void> {
		if (path !== undefined) return;
		const answer = await ask(API.folders, {}, undefined).catch(() => undefined);
		if (!answer) return;
		roots = answer.folders;
		if (path === undefined) folders = roots;
	}

	async function look(at: string | undefined): Promise<void> {
		try {
			const answer = await ask(API.folders, at === undefined ? {} : { path: at }, undefined);
			if (at === undefined) roots = answer.folders;
			folders = answer.folders;
			path = at;
			onfault(undefined);
		} catch (error) {
			onfault(error instanceof Error ? error.message : String(error));
		}
	}

	function nameOf(folder: string): string {
		return folder.split('/').at(-1) ?? folder;
	}

	function up(): Promise<void> {
		return look(path === undefined || roots.includes(path) ? undefined : path.slice(0, path.lastIndexOf('/')));
	}
</script>

<div class="rounded-md border border-line" data-testid="folders">
	<div class="flex items-center gap-2 border-b border-line bg-ground px-2 py-1 text-sm">
		<button
			type="button"
			class="inline-flex items-center gap-1 text-accent disabled:opacity-40"
			disabled={path === undefined}
			onclick={up}
		>
			<CornerLeftUp size={15} aria-hidden="true" /> Up
		</button>
		<span class="times truncate">{path ?? 'Folders and cards'}</span>
	</div>
	<ul class="max-h-52 overflow-auto p-1">
		{#each folders as folder (folder)}
			<li>
				<button
					type="button"
					class="flex w-full items-center gap-2 rounded px-2 py-1 text-left hover:bg-ground"
					onclick={() => look(folder)}
				>
					<Folder size={16} class="text-accent" aria-hidden="true" />{path === undefined ? folder : nameOf(folder)}
				</button>
			</li>
		{:else}
			<li class="px-2 py-1 text-sm text-quiet">
				{path === undefined
					? 'No folder for films, music or downloads was found, and no card. Plug one in, or start with --media DIR.'
					: 'No folders in here.'}
			</li>
		{/each}
	</ul>
</div>
