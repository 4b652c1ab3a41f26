<script lang="ts">
	import Archive from '@lucide/svelte/icons/archive';
	import ArchiveRestore from '@lucide/svelte/icons/archive-restore';
	import Copy from '@lucide/svelte/icons/copy';
	import FolderOpen from '@lucide/svelte/icons/folder-open';
	import Pencil from '@lucide/svelte/icons/pencil';
	import Trash2 from '@lucide/svelte/icons/trash-2';
	import { Button } from 'flowbite-svelte';
	import { onMount } from 'svelte';
	import EditableText from '../controls/EditableText.svelte';
	import { countWords } from '../controls/words';
	import { API } from '../../contract/endpoints';
	import type { ErrorAnswer } from '../../contract/errors';
	import type { ShootSummary } from '../../contract/views';
	import { ask, RequestError } from '../state/request';
	import NewShoot from './NewShoot.svelte';

	let all = $state.raw<readonly ShootSummary[]>();
	let fault = $state<string>();
	let making = $state(false);
	let renaming = $state<string>();
	let archiveField = $state<HTMLInputElement>();

	const shoots = $derived(all?.filter((shoot) => shoot.endsAt === null));
	const deleted = $derived(all?.filter((shoot) => shoot.endsAt !== null) ?? []);

	onMount(() => attempt(() => Promise.resolve()));

	/** Does something, then reads the list anew; what fails is said. */
	async function attempt(work: () => Promise<unknown>): Promise<void> {
		try {
			await work();
			fault = undefined;
			all = await ask(API.shoots, {}, undefined);
		} catch (error) {
			fault = error instanceof Error ? error.message : String(error);
		}
	}

	function rename(shoot: ShootSummary, name: string): Promise<void> {
		renaming = undefined;
		return attempt(() => ask(API.edit, { id: shoot.id }, { kind: 'rename-shoot', name }));
	}

	async function takeArchive(field: HTMLInputElement): Promise<void> {
		const file = field.files?.[0];
		field.value = '';
		if (!file) return;
		await attempt(async () => {
			const response = await fetch('/api/archives', { method: 'POST', body: file });
			if (response.ok) return;
			const { message, code } = (await response.json().catch(() => ({}))) as Partial<ErrorAnswer>;
			throw new RequestError(message ?? 'The archive could not be read.', code);
		});
	}
</script>

<main class="mx-auto flex max-w-4xl flex-col gap-6 px-6 py-10">
	<header class="flex items-end gap-4">
		<div class="flex-1">
			<h1 class="text-4xl">Open Choir</h1>
			<p class="mt-1 text-base text-quiet">Many cameras, many recorders, one timeline.</p>
		</div>
		<Button color="alternative" onclick={() => archiveField?.click()}
			><ArchiveRestore size={16} class="mr-1.5" /> Open an archive</Button
		>
		<input
			bind:this={archiveField}
			type="file"
			accept=".gz"
			class="hidden"
			aria-label="Archive of a shoot"
			onchange={(event) => takeArchive(event.currentTarget)}
		/>
		<Button onclick={() => (making = !making)} aria-expanded={making}>New shoot</Button>
	</header>
	{#if making}<NewShoot />{/if}
	{#if fault}<p class="text-attention" role="alert">{fault}</p>{/if}
	{#if shoots}
		<ul class="panel divide-y divide-line" aria-label="Shoots">
			{#each shoots as shoot (shoot.id)}
				<li class="flex items-center gap-3 px-4 py-3 hover:bg-ground">
					<FolderOpen size={20} class="shrink-0 text-accent" aria-hidden="true" />
					<span class="min-w-0 flex-1">
						{#if renaming === shoot.id}
							<EditableText
								value={shoot.name}
								label="Name of the shoot"
								isOpen
								onchange={(name) => rename(shoot, name)}
								onend={() => (renaming = undefined)}
								class="font-title text-lg"
							/>
						{:else}
							<a href="/shoots/{shoot.id}" class="block truncate font-title text-lg">{shoot.name}</a>
						{/if}
						<span class="block truncate text-xs text-quiet" title={shoot.folder}>{shoot.folder}</span>
					</span>
					<span class="text-sm text-quiet">{countWords(shoot.clips, 'clip')}{shoot.isDemo ? ' · demo' : ''}</span>
					<span class="flex">
						<button class="icon" aria-label="Rename {shoot.name}" title="Rename" onclick={() => (renaming = shoot.id)}
							><Pencil size={16} /></button
						>
						<button
							class="icon"
							aria-label="Duplicate {shoot.name}"
							title="Duplicate: a second shoot with all that is decided, of the same files"
							onclick={() => attempt(() => ask(API.duplicate, { id: shoot.id }, undefined))}><Copy size={16} /></button
						>
						<a
							class="icon"
							aria-label="Archive {shoot.name}"
							title="Archive: all that is decided as one file, without the media"
							href="/api/shoots/{shoot.id}/archive"
							download="{shoot.name.replace(/[^\p{L}\p{N} _-]+/gu, '')}.open-choir.gz"><Archive size={16} /></a
						>
						<button
							class="icon"
							aria-label="Delete {shoot.name}"
							title="Delete; it can be brought back for two weeks"
							onclick={() => attempt(() => ask(API.deleteShoot, { id: shoot.id }, undefined))}
							><Trash2 size={16} /></button
						>
					</span>
				</li>
			{:else}
				<li class="p-6 text-quiet">There is no shoot yet. Press “New shoot” and choose the folder with your cards.</li>
			{/each}
		</ul>
		{#if deleted.length > 0}
			<section aria-label="Deleted shoots">
				<h2 class="text-base">Deleted</h2>
				<ul class="mt-1 flex flex-col gap-1 text-sm">
					{#each deleted as shoot (shoot.id)}
						<li class="flex gap-3">
							<span class="truncate">{shoot.name}</span>
							<span class="text-quiet">kept until {shoot.endsAt}</span>
							<button
								class="text-accent underline"
								onclick={() => attempt(() => ask(API.bringBack, { id: shoot.id }, undefined))}>Bring back</button
							>
						</li>
					{/each}
				</ul>
			</section>
		{/if}
	{:else if !fault}
		<p class="text-quiet">Reading the list…</p>
	{/if}
</main>

<style>
	.icon {
		display: grid;
		place-content: center;
		width: 2rem;
		height: 2rem;
		border-radius: 6px;
		color: var(--quiet);
	}

	.icon:hover {
		color: var(--accent);
		background: color-mix(in srgb, var(--accent-fill) 15%, transparent);
	}
</style>
