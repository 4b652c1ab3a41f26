<script lang="ts">
	import { goto } from '$app/navigation';
	import { CornerLeftUp, Folder } from '@lucide/svelte';
	import { Button, Input, Label } from 'flowbite-svelte';
	import { onMount } from 'svelte';
	import { request } from '../state/request';

	/** Folders are asked of the server, which shows only those it may read. */
	let path = $state<string>();
	let roots = $state.raw<readonly string[]>([]);
	let folders = $state.raw<readonly string[]>([]);
	let name = $state('');
	let named = $state(false);
	let fault = $state<string>();
	let busy = $state(false);

	onMount(() => look(undefined));

	async function look(at: string | undefined): Promise<void> {
		try {
			const query = at === undefined ? '' : `?path=${encodeURIComponent(at)}`;
			const answer = await request<{ folders: string[] }>(`/api/folders${query}`);
			if (at === undefined) roots = answer.folders;
			folders = answer.folders;
			path = at;
			if (!named && at !== undefined) name = nameOf(at);
			fault = undefined;
		} catch (error) {
			fault = error instanceof Error ? error.message : String(error);
		}
	}

	function nameOf(folder: string): string {
		return folder.split('/').at(-1) ?? folder;
	}

	function up(): Promise<void> {
		return look(path === undefined || roots.includes(path) ? undefined : path.slice(0, path.lastIndexOf('/')));
	}

	async function create(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		busy = true;
		try {
			const { id } = await request<{ id: string }>('/api/shoots', { name, folder: path });
			await goto(`/shoots/${id}/gather`);
		} catch (error) {
			fault = error instanceof Error ? error.message : String(error);
		}
		busy = false;
	}
</script>

<form class="panel flex flex-col gap-4 p-4" onsubmit={create} aria-label="New shoot">
	<div>
		<h2 class="text-lg">Which folder holds the recordings?</h2>
		<p class="text-sm text-quiet">
			Each folder in it is taken as one device. Files stay where they are and are never changed. Only the folders Open
			Choir was started with can be reached (<code>--media DIR</code>).
		</p>
	</div>
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
			<span class="times truncate">{path ?? 'Allowed folders'}</span>
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
				<li class="px-2 py-1 text-sm text-quiet">No folders in here.</li>
			{/each}
		</ul>
	</div>
	<Label>
		Name of the shoot
		<Input
			class="mt-1"
			bind:value={name}
			maxlength={100}
			oninput={() => (named = true)}
			placeholder="Spring concert"
			required
		/>
	</Label>
	{#if fault}<p class="text-sm text-attention" role="alert">{fault}</p>{/if}
	<div><Button type="submit" disabled={path === undefined || !name.trim() || busy}>Gather this folder</Button></div>
</form>
