<script lang="ts">
	import { goto } from '$app/navigation';
	import { Button, Input, Label } from 'flowbite-svelte';
	import FolderChooser from '../controls/FolderChooser.svelte';
	import { API } from '../../contract/endpoints';
	import { ask } from '../state/request';

	let path = $state<string>();
	let name = $state('');
	let named = $state(false);
	let fault = $state<string>();
	let busy = $state(false);

	$effect(() => {
		if (!named && path !== undefined) name = path.split('/').at(-1) ?? path;
	});

	async function create(folder: string | undefined): Promise<void> {
		busy = true;
		try {
			const { id } = await ask(API.newShoot, {}, { name, folder });
			await goto(`/shoots/${id}/gather`);
		} catch (error) {
			fault = error instanceof Error ? error.message : String(error);
		}
		busy = false;
	}
</script>

<form
	class="panel flex flex-col gap-4 p-4"
	onsubmit={(event) => {
		event.preventDefault();
		void create(path);
	}}
	aria-label="New shoot"
>
	<div>
		<h2 class="text-lg">Which folder holds the recordings?</h2>
		<p class="text-sm text-quiet">
			Files are sorted into devices by themselves: a folder for each device, whole cards or one heap. They stay where
			they are and are never changed. Cards and drives appear here as they are plugged in.
		</p>
	</div>
	<FolderChooser bind:path onfault={(said) => (fault = said)} />
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
	<div class="flex items-center gap-3">
		<Button type="submit" disabled={path === undefined || !name.trim() || busy}>Gather this folder</Button>
		<Button color="alternative" disabled={!name.trim() || busy} onclick={() => create(undefined)}
			>Begin empty, drop files in later</Button
		>
	</div>
</form>
