<script lang="ts">
	import { EyeOff, Volume2, VolumeX } from '@lucide/svelte';
	import type { Device } from '../../core/shoot/shoot';
	import { ppmWords } from '../controls/words';
	import { useListening } from '../state/listening.svelte';
	import { useShoot } from '../state/shoot-state.svelte';
	import SmallButton from './SmallButton.svelte';

	let { device, height, onhide }: { device: Device; height: number; onhide: () => void } = $props();

	const shoot = useShoot();
	const listening = useListening();
	/** Two lines of text need this. */
	const TALL = 38;

	const clips = $derived(shoot.placed.filter((clip) => clip.deviceId === device.id));
	const sounds = $derived(clips.some((clip) => clip.parts.some((part) => part.sound)));
	const heard = $derived(listening.isHeard(device.id));
</script>

<div class="flex items-center gap-1.5 px-2" style:height="{height}px" data-testid="lane-{device.badge}">
	<span class="badge" style:--hue={shoot.hue(device.id)}>{device.badge}</span>
	<span class="min-w-0 flex-1 leading-tight">
		<span class="block truncate text-sm" title={device.name}>{device.name}</span>
		{#if height >= TALL}
			<span class="times block truncate text-[11px] text-quiet">
				{device.id === shoot.reference?.id ? 'reference clock' : ppmWords(clips[0]?.placement.ratePpm ?? 0)}
			</span>
		{/if}
	</span>
	{#if listening.stage === 'prove' && sounds}
		<SmallButton
			label="Mute {device.name}"
			pressed={listening.isMuted(device.id)}
			chosen={!heard}
			onclick={() => listening.toggleMute(device.id)}
		>
			{#if heard}<Volume2 size={13} />{:else}<VolumeX size={13} />{/if}
		</SmallButton>
		<SmallButton
			label="Hear only {device.name}"
			pressed={listening.isSoloed(device.id)}
			chosen={listening.isSoloed(device.id)}
			onclick={() => listening.toggleSolo(device.id)}>solo</SmallButton
		>
	{/if}
	<SmallButton label="Hide the lane of {device.name} (for the eye only)" onclick={onhide}
		><EyeOff size={13} /></SmallButton
	>
</div>
