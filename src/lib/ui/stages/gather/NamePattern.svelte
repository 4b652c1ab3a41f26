<script lang="ts">
	import { Button, Input, Label, Modal } from 'flowbite-svelte';
	import { NAME_FIELDS, nameFromPattern } from '../../../core/gather/name-pattern';
	import type { Clip } from '../../../core/shoot/clip';
	import { countWords } from '../../controls/words';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { openingMotion } from '../../controls/opening-motion';

	/** Names for clips from a pattern, seen before they are given. Files keep their names. */
	let { clips, onclose }: { clips: readonly Clip[]; onclose: () => void } = $props();

	const shoot = useShoot();
	let open = $state(true);
	let pattern = $state('{scene} {take} {angle} {counter:2}');

	const preview = $derived.by(() => {
		try {
			return { names: clips.map((clip, index) => ({ clip, name: nameOf(clip, index + 1) })) };
		} catch (error) {
			return { names: [], fault: error instanceof Error ? error.message : String(error) };
		}
	});
	const given = $derived(preview.names.filter((one) => one.name !== ''));
	const twice = $derived(given.length - new Set(given.map((one) => one.name)).size);

	function nameOf(clip: Clip, count: number): string {
		const device = shoot.device(clip.deviceId);
		const { scene, shot, take, name } = clip;
		const parts = {
			scene,
			shot,
			take,
			name,
			device: device?.name ?? '',
			angle: device?.badge ?? '',
			date: clip.date ?? ''
		};
		return nameFromPattern(pattern, parts, count);
	}

	async function give(): Promise<void> {
		const names = given.map(({ clip, name }) => ({ clipId: clip.id, name }));
		if (await shoot.edit({ kind: 'name-clips', names })) open = false;
	}
</script>

<Modal
	transitionParams={openingMotion()}
	bind:open
	title="Name {countWords(clips.length, 'clip')} by a pattern"
	size="md"
	{onclose}
>
	<div class="flex flex-col gap-3">
		<Label>
			Pattern
			<Input class="times mt-1" bind:value={pattern} maxlength={100} />
		</Label>
		<p class="text-xs text-quiet">
			Fields:
			{#each NAME_FIELDS as field (field)}
				<button class="times mr-1 rounded border border-line px-1" onclick={() => (pattern += `{${field}}`)}
					>{`{${field}}`}</button
				>
			{/each}
			{'{counter:3}'} is filled up to three digits. Only the names in this shoot change, never the files’.
		</p>
		{#if preview.fault}<p class="text-sm text-attention" role="alert">{preview.fault}</p>{/if}
		<table class="w-full table-fixed text-sm">
			<thead class="text-left text-xs text-quiet"
				><tr><th class="font-normal">Now</th><th class="font-normal">Then</th></tr></thead
			>
		</table>
		<div class="max-h-56 overflow-auto">
			<table class="w-full table-fixed text-sm" data-testid="name-preview">
				<tbody>
					{#each preview.names.slice(0, 300) as { clip, name } (clip.id)}
						<tr class="border-t border-line">
							<td class="truncate py-0.5 pr-2 text-quiet">{clip.name}</td>
							<td class="truncate py-0.5">{name || 'stays: nothing of the pattern is known'}</td>
						</tr>
					{/each}
				</tbody>
			</table>
		</div>
		{#if preview.names.length > 300}<p class="text-xs text-quiet">And {preview.names.length - 300} more.</p>{/if}
		{#if twice > 0}<p class="text-sm text-attention">
				{countWords(twice, 'name')} would be given twice. Add {'{counter}'} to tell them apart.
			</p>{/if}
		<div class="flex gap-2">
			<Button size="sm" disabled={given.length === 0} onclick={give}>Name {countWords(given.length, 'clip')}</Button>
			<Button size="sm" color="alternative" onclick={() => (open = false)}>Leave them</Button>
		</div>
	</div>
</Modal>
