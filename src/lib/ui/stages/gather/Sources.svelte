<script lang="ts">
	import FileSpreadsheet from '@lucide/svelte/icons/file-spreadsheet';
	import FolderPlus from '@lucide/svelte/icons/folder-plus';
	import RefreshCw from '@lucide/svelte/icons/refresh-cw';
	import Search from '@lucide/svelte/icons/search';
	import { Button, Modal, Progressbar } from 'flowbite-svelte';
	import FolderChooser from '../../controls/FolderChooser.svelte';
	import { countWords, timeLeftWords } from '../../controls/words';
	import { API } from '../../../contract/endpoints';
	import { ask } from '../../state/request';
	import { useShoot } from '../../state/shoot-state.svelte';
	import LineUpRate from './LineUpRate.svelte';
	import SoundReport from './SoundReport.svelte';
	import Uploads from './Uploads.svelte';
	import { openingMotion } from '../../controls/opening-motion';

	const shoot = useShoot();

	const reading = $derived(shoot.runningJobs.find((job) => job.kind === 'gather'));
	const preparing = $derived(shoot.runningJobs.find((job) => job.kind === 'prepare'));
	const files = $derived(shoot.shoot.clips.reduce((sum, one) => sum + one.parts.length, 0));
	const bad = $derived(shoot.shoot.badFiles.filter((file) => !file.isMissing));
	const missing = $derived(shoot.shoot.badFiles.filter((file) => file.isMissing));

	/** What a folder is being chosen for. */
	let choosing = $state<'add' | 'find'>();
	let open = $state(false);
	let path = $state<string>();
	let fault = $state<string>();
	let said = $state<string>();
	let reporting = $state(false);

	function choose(what: 'add' | 'find'): void {
		choosing = what;
		fault = undefined;
		open = true;
	}

	async function take(): Promise<void> {
		if (path === undefined) return;
		try {
			if (choosing === 'add') {
				await ask(API.addSource, { id: shoot.shootId }, { folder: path });
				said = undefined;
			} else {
				const { found, missing: left } = await ask(API.findAgain, { id: shoot.shootId }, { folder: path });
				said = `${countWords(found, 'file')} found again${left > 0 ? `, ${left} still missing` : ''}.`;
			}
			open = false;
		} catch (error) {
			fault = error instanceof Error ? error.message : String(error);
		}
	}
</script>

<div class="flex flex-col gap-3 p-3">
	<div>
		<h2 class="text-base">Sources</h2>
		<ul class="mt-1 flex flex-col gap-1">
			{#each shoot.shoot.sources as source (source.id)}
				<li class="times text-xs break-all">
					{source.kind === 'upload' ? 'dropped into this page' : source.path}
				</li>
			{/each}
		</ul>
		<p class="mt-1 text-sm text-quiet">
			{countWords(files, 'file')} in {countWords(shoot.shoot.devices.length, 'device')}. They stay where they are and
			are never changed.
		</p>
	</div>
	{#if reading}
		<div data-testid="gather-progress">
			<p class="mb-1 text-sm">Reading the files: {reading.message || 'looking through the folder'}</p>
			<Progressbar progress={Math.round(reading.share * 100)} size="h-1.5" />
			<p class="mt-1 text-xs text-quiet">
				{timeLeftWords(reading.secondsLeft)}
				<button class="text-accent underline" onclick={() => shoot.changeJob(reading.id, 'stop')}>Stop</button>
			</p>
		</div>
	{:else}
		<div class="flex flex-col gap-1.5">
			<Button size="xs" color="alternative" onclick={() => shoot.startJob({ kind: 'gather' })}
				><RefreshCw size={14} class="mr-1" /> Look again for new files</Button
			>
			<Button size="xs" color="alternative" onclick={() => choose('add')}
				><FolderPlus size={14} class="mr-1" /> Add a folder</Button
			>
			<Button size="xs" color="alternative" onclick={() => (reporting = true)}
				><FileSpreadsheet size={14} class="mr-1" /> Take in a sound report</Button
			>
		</div>
	{/if}
	<Uploads />
	{#if preparing}
		<div>
			<p class="mb-1 text-sm">Preparing waveforms and small pictures</p>
			<Progressbar progress={Math.round(preparing.share * 100)} size="h-1.5" />
			<p class="mt-1 text-xs text-quiet">
				{[preparing.message, timeLeftWords(preparing.secondsLeft)].filter(Boolean).join(' · ')}
			</p>
		</div>
	{/if}
	{#if missing.length > 0}
		<div>
			<h3 class="text-sm text-attention">{countWords(missing.length, 'file')} missing</h3>
			<ul class="times mt-1 max-h-24 overflow-auto text-xs" data-testid="missing-files">
				{#each missing as file (file.fileId)}<li class="break-all">{file.relativePath}</li>{/each}
			</ul>
			<p class="mt-1 text-xs text-quiet">Gone from their place. What was decided about them is kept.</p>
			<Button size="xs" class="mt-1" onclick={() => choose('find')}
				><Search size={14} class="mr-1" /> Find them again</Button
			>
		</div>
	{/if}
	{#if said}<p class="text-sm" role="status">{said}</p>{/if}
	{#if bad.length > 0}
		<div>
			<h3 class="text-sm text-attention">{countWords(bad.length, 'file')} cannot be used</h3>
			<ul class="mt-1 flex flex-col gap-1 text-xs" data-testid="bad-files">
				{#each bad as file (file.fileId)}
					<li>
						<span class="times break-all">{file.relativePath}</span><br /><span class="text-quiet">{file.reason}</span>
					</li>
				{/each}
			</ul>
		</div>
	{/if}
	<LineUpRate />
</div>

<Modal
	transitionParams={openingMotion()}
	bind:open
	title={choosing === 'find' ? 'Where are the missing files now?' : 'Which folder is to be added?'}
	size="md"
>
	<div class="flex flex-col gap-3">
		<p class="text-sm text-quiet">
			{choosing === 'find'
				? 'They are known by their size and content, whatever they are called and however deep they lie.'
				: 'Its files are sorted to the devices that are there, or make new ones.'}
		</p>
		{#key open}<FolderChooser bind:path onfault={(words) => (fault = words)} />{/key}
		{#if fault}<p class="text-sm text-attention" role="alert">{fault}</p>{/if}
		<div>
			<Button size="sm" disabled={path === undefined} onclick={take}
				>{choosing === 'find' ? 'Look in this folder' : 'Add this folder'}</Button
			>
		</div>
	</div>
</Modal>
{#if reporting}<SoundReport onclose={() => (reporting = false)} />{/if}
