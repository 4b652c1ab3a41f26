<script lang="ts">
	import Pause from '@lucide/svelte/icons/pause';
	import Play from '@lucide/svelte/icons/play';
	import RotateCcw from '@lucide/svelte/icons/rotate-ccw';
	import Upload from '@lucide/svelte/icons/upload';
	import X from '@lucide/svelte/icons/x';
	import { getDroppedFiles } from '@uppy/utils';
	import { Button, Progressbar } from 'flowbite-svelte';
	import { onMount } from 'svelte';
	import { countWords, sizeWords } from '../../controls/words';
	import { API } from '../../../contract/endpoints';
	import type { UnfinishedUpload } from '../../../contract/views';
	import { ask } from '../../state/request';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { Uploads } from './uploads.svelte';

	const shoot = useShoot();
	const uploads = new Uploads(shoot.shootId);
	let isOver = $state(false);
	let unfinished = $state.raw<readonly UnfinishedUpload[]>([]);
	let filesField = $state<HTMLInputElement>();
	let folderField = $state<HTMLInputElement>();

	const sending = $derived(uploads.files.filter((file) => file.state === 'sending' || file.state === 'waiting'));
	const failed = $derived(uploads.files.filter((file) => file.state === 'failed'));
	const done = $derived(uploads.files.filter((file) => file.state === 'done'));
	const total = $derived(uploads.files.reduce((sum, file) => sum + file.sizeBytes, 0));
	const sent = $derived(uploads.files.reduce((sum, file) => sum + file.doneBytes, 0));
	/** Begun before this page was opened. */
	const left = $derived(unfinished.filter((one) => !uploads.files.some((file) => one.relativePath === file.path)));

	onMount(() => {
		void look();
		return () => uploads.close();
	});

	async function look(): Promise<void> {
		await shoot.read(async () => {
			unfinished = await ask(API.uploads, { id: shoot.shootId }, undefined);
		});
	}

	async function forget(): Promise<void> {
		await shoot.attempt(async () => {
			await ask(API.dropUploads, { id: shoot.shootId }, undefined);
			await look();
		});
	}

	function isFiles(event: DragEvent): boolean {
		return event.dataTransfer?.types.includes('Files') ?? false;
	}

	async function drop(event: DragEvent): Promise<void> {
		if (!isFiles(event) || !event.dataTransfer) return;
		event.preventDefault();
		isOver = false;
		uploads.add(await getDroppedFiles(event.dataTransfer));
	}

	function pick(field: HTMLInputElement): void {
		uploads.add([...(field.files ?? [])]);
		field.value = '';
	}
</script>

<svelte:window
	ondragover={(event) => {
		if (!isFiles(event)) return;
		event.preventDefault();
		isOver = true;
	}}
	ondragleave={(event) => {
		if (!event.relatedTarget) isOver = false;
	}}
	ondrop={drop}
/>

<div class="rounded-md border border-dashed border-line p-2" class:over={isOver} data-testid="uploads">
	<p class="flex items-start gap-1.5 text-sm">
		<Upload size={15} class="mt-0.5 shrink-0 text-accent" aria-hidden="true" />
		<span
			>{isOver ? 'Let go to bring them in.' : 'Drop files or folders anywhere here, or choose'}
			{#if !isOver}
				<button class="text-accent underline" onclick={() => filesField?.click()}>files</button> or
				<button class="text-accent underline" onclick={() => folderField?.click()}>a folder</button>.
			{/if}</span
		>
	</p>
	<input
		bind:this={filesField}
		type="file"
		multiple
		class="hidden"
		aria-label="Files to bring in"
		onchange={(event) => pick(event.currentTarget)}
	/>
	<input
		bind:this={folderField}
		type="file"
		webkitdirectory
		class="hidden"
		aria-label="Folder to bring in"
		onchange={(event) => pick(event.currentTarget)}
	/>
	{#if uploads.files.length > 0}
		<div class="mt-2" data-testid="upload-progress">
			<p class="mb-1 text-xs">
				{done.length} of {countWords(uploads.files.length, 'file')}, {sizeWords(sent)} of {sizeWords(
					total
				)}{uploads.isPaused ? ', paused' : ''}
			</p>
			<Progressbar progress={total > 0 ? Math.floor((100 * sent) / total) : 0} size="h-1.5" />
			<ul class="times mt-1 max-h-28 overflow-auto text-xs">
				{#each sending.slice(0, 40) as file (file.id)}
					<li class="flex gap-1">
						<span class="min-w-0 flex-1 truncate" title={file.path}>{file.path}</span>
						<span class="text-quiet">{Math.floor((100 * file.doneBytes) / Math.max(1, file.sizeBytes))}%</span>
					</li>
				{/each}
				{#each failed as file (file.id)}
					<li class="text-attention">
						<span class="break-all">{file.path}</span>: <span class="font-sans">{file.fault}</span>
					</li>
				{/each}
			</ul>
			<div class="mt-1 flex flex-wrap gap-1">
				{#if sending.length > 0}
					{#if uploads.isPaused}
						<Button size="xs" color="alternative" onclick={() => uploads.resume()}
							><Play size={12} class="mr-1" /> Go on</Button
						>
					{:else}
						<Button size="xs" color="alternative" onclick={() => uploads.pause()}
							><Pause size={12} class="mr-1" /> Pause</Button
						>
					{/if}
					<Button size="xs" color="alternative" onclick={() => uploads.stop()}><X size={12} class="mr-1" /> Stop</Button
					>
				{/if}
				{#if failed.length > 0}
					<Button size="xs" color="alternative" onclick={() => uploads.retry()}
						><RotateCcw size={12} class="mr-1" /> Try again</Button
					>
				{/if}
				{#if sending.length === 0 && done.length > 0}
					<Button size="xs" color="alternative" onclick={() => uploads.clear()}>Clear the list</Button>
				{/if}
			</div>
		</div>
	{/if}
	{#if left.length > 0}
		<div class="mt-2 text-xs" data-testid="unfinished-uploads">
			<p class="text-attention">{countWords(left.length, 'upload was', 'uploads were')} not finished.</p>
			<ul class="times max-h-20 overflow-auto">
				{#each left as one (one.id)}
					<li class="truncate" title={one.relativePath}>
						{one.relativePath}
						{Math.floor((100 * one.doneBytes) / Math.max(1, one.sizeBytes))}%
					</li>
				{/each}
			</ul>
			<p class="text-quiet">
				Drop the same files again: they go on where they stopped. Or
				<button class="text-accent underline" onclick={forget}>give them up</button>.
			</p>
		</div>
	{/if}
</div>

<style>
	.over {
		border-color: var(--accent);
		background: color-mix(in srgb, var(--accent-fill) 15%, transparent);
	}
</style>
