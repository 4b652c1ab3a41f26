<script lang="ts">
	import ChevronDown from '@lucide/svelte/icons/chevron-down';
	import ChevronUp from '@lucide/svelte/icons/chevron-up';
	import Star from '@lucide/svelte/icons/star';
	import { Button } from 'flowbite-svelte';
	import type { Device } from '../../../core/shoot/device';
	import EditableText from '../../controls/EditableText.svelte';
	import { countWords, sizeWords } from '../../controls/words';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { sizeOf } from './clip-rows';

	let { device, onmerged }: { device: Device; onmerged: (intoDeviceId: string) => void } = $props();

	const shoot = useShoot();
	const clips = $derived(shoot.shoot.clips.filter((clip) => clip.deviceId === device.id));
	const place = $derived(shoot.shoot.devices.findIndex((one) => one.id === device.id));
	const others = $derived(shoot.shoot.devices.filter((one) => one.id !== device.id));

	async function merge(select: HTMLSelectElement): Promise<void> {
		const intoDeviceId = select.value;
		select.value = '';
		if (intoDeviceId && (await shoot.edit({ kind: 'merge-devices', deviceId: device.id, intoDeviceId })))
			onmerged(intoDeviceId);
	}
</script>

<h2 class="flex items-center gap-2 text-base">
	<span class="badge" style:--hue={shoot.hue(device.id)}>{device.badge}</span>
	{device.name}
</h2>
<p class="mt-1 text-sm text-quiet">
	{device.kind}, {countWords(clips.length, 'clip')}, {sizeWords(
		clips.reduce((sum, one) => sum + sizeOf(one), 0)
	)}{device.folder ? `, folder ${device.folder}` : ''}
</p>
<h3 class="mt-3 text-sm">Why these clips are one device’s</h3>
<ul class="mt-1 flex list-disc flex-col gap-1 pl-4 text-sm" data-testid="reasons">
	{#each device.reasons as reason (reason)}<li>{reason}</li>{:else}<li>They lie in one folder.</li>{/each}
</ul>
<h3 class="mt-3 text-sm">Change</h3>
<div class="mt-1 flex flex-col items-start gap-2 text-sm">
	{#if device.kind === 'camera' && device.id !== shoot.shoot.mainCameraId}
		<Button size="xs" color="alternative" onclick={() => shoot.edit({ kind: 'set-main-camera', deviceId: device.id })}
			><Star size={13} class="mr-1" /> Make it the main camera</Button
		>
	{/if}
	<select
		class="w-full rounded border border-line bg-surface py-1 pr-7 pl-2 text-sm"
		aria-label="The same device as"
		onchange={(event) => merge(event.currentTarget)}
	>
		<option value="">The same device as…</option>
		{#each others as other (other.id)}<option value={other.id}>{other.badge} · {other.name}</option>{/each}
	</select>
	<span class="flex gap-1">
		<Button
			size="xs"
			color="alternative"
			disabled={place <= 0}
			onclick={() => shoot.edit({ kind: 'reorder-device', deviceId: device.id, place: place - 1 })}
			><ChevronUp size={13} class="mr-0.5" /> Up</Button
		>
		<Button
			size="xs"
			color="alternative"
			disabled={place >= others.length}
			onclick={() => shoot.edit({ kind: 'reorder-device', deviceId: device.id, place: place + 1 })}
			><ChevronDown size={13} class="mr-0.5" /> Down</Button
		>
	</span>
</div>
{#if device.channelNames.length > 0}
	<h3 class="mt-3 text-sm">Who is on which channel</h3>
	<ol class="mt-1 flex flex-col gap-0.5 text-sm" data-testid="channels">
		{#each device.channelNames as name, channel (channel)}
			<li class="flex gap-2">
				<span class="times w-5 text-right text-quiet">{channel + 1}</span>
				<EditableText
					value={name}
					placeholder="no name"
					label="Name of channel {channel + 1}"
					onchange={(wanted) => shoot.edit({ kind: 'name-channel', deviceId: device.id, channel, name: wanted })}
				/>
			</li>
		{/each}
	</ol>
{/if}
