<script lang="ts">
	import Circle from '@lucide/svelte/icons/circle';
	import FolderInput from '@lucide/svelte/icons/folder-input';
	import Layers from '@lucide/svelte/icons/layers';
	import ListOrdered from '@lucide/svelte/icons/list-ordered';
	import Scissors from '@lucide/svelte/icons/scissors';
	import X from '@lucide/svelte/icons/x';
	import type { SvelteSet } from 'svelte/reactivity';
	import { countWords } from '../../controls/words';
	import type { CommandInput } from '../../../contract/commands/commands';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { isJoined } from './clip-words';
	import NamePattern from './NamePattern.svelte';

	/** What can be done with several clips at once. */
	let { chosen }: { chosen: SvelteSet<string> } = $props();

	const shoot = useShoot();
	let naming = $state(false);

	const clips = $derived(shoot.shoot.clips.filter((clip) => chosen.has(clip.id)));
	const devices = $derived([...new Set(clips.map((clip) => clip.deviceId))]);
	const allCircled = $derived(clips.every((clip) => clip.circled));

	async function carryOut(command: CommandInput): Promise<void> {
		if (await shoot.edit(command)) chosen.clear();
	}

	function ids(): readonly string[] {
		return clips.map((clip) => clip.id);
	}

	function moveTo(select: HTMLSelectElement): void {
		const deviceId = select.value;
		select.value = '';
		if (deviceId === 'new') void carryOut({ kind: 'split-device', clipIds: ids(), name: newName() });
		else if (deviceId) void carryOut({ kind: 'move-clips', clipIds: ids(), deviceId });
	}

	function newName(): string {
		const isCamera = clips.some((clip) => clip.parts[0]?.picture);
		return `New ${isCamera ? 'camera' : 'recorder'}`;
	}
</script>

<div
	class="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-t border-line bg-ground px-3 py-1.5 text-sm"
	role="toolbar"
	aria-label="Selected clips"
	data-testid="bulk"
>
	<strong class="font-semibold">{countWords(clips.length, 'clip')}</strong>
	<label class="flex items-center gap-1">
		<FolderInput size={14} aria-hidden="true" />
		<select
			class="rounded border border-line bg-surface py-0.5 pr-7 pl-2 text-sm"
			aria-label="Move to a device"
			onchange={(event) => moveTo(event.currentTarget)}
		>
			<option value="">Move to…</option>
			{#each shoot.shoot.devices as device (device.id)}
				{#if devices.length > 1 || devices[0] !== device.id}<option value={device.id}
						>{device.badge} · {device.name}</option
					>{/if}
			{/each}
			<option value="new">A new device</option>
		</select>
	</label>
	<button
		class="tool"
		disabled={clips.length < 2 || devices.length > 1}
		onclick={() => carryOut({ kind: 'join-clips', clipIds: ids() })}
		><Layers size={14} aria-hidden="true" /> Join</button
	>
	<button
		class="tool"
		disabled={clips.length !== 1 || !isJoined(clips[0]!)}
		onclick={() => carryOut({ kind: 'take-apart', clipId: clips[0]!.id })}
		><Scissors size={14} aria-hidden="true" /> Take apart</button
	>
	<button class="tool" onclick={() => (naming = true)}><ListOrdered size={14} aria-hidden="true" /> Name…</button>
	<button
		class="tool"
		onclick={() =>
			carryOut({ kind: 'note-clips', notes: clips.map((clip) => ({ clipId: clip.id, circled: !allCircled })) })}
		><Circle size={14} aria-hidden="true" /> {allCircled ? 'Not circled' : 'Circled'}</button
	>
	<button class="tool ml-auto" onclick={() => chosen.clear()}
		><X size={14} aria-hidden="true" /> Clear the selection</button
	>
</div>
{#if naming}<NamePattern {clips} onclose={() => (naming = false)} />{/if}

<style>
	.tool {
		display: inline-flex;
		align-items: center;
		gap: 0.25rem;
		border-radius: 4px;
		padding: 0.1rem 0.4rem;
	}

	.tool:hover:not(:disabled) {
		background: color-mix(in srgb, var(--accent-fill) 18%, transparent);
	}

	.tool:disabled {
		opacity: 0.45;
	}
</style>
