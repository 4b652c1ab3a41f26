<script lang="ts">
	import Volume2 from '@lucide/svelte/icons/volume-2';
	import VolumeX from '@lucide/svelte/icons/volume-x';
	import type { Device } from '../../core/shoot/device';
	import { ppmWords } from '../controls/words';
	import { useListening } from '../state/listening.svelte';
	import { useShoot } from '../state/shoot-state.svelte';
	import LaneMenu from './LaneMenu.svelte';
	import SmallButton from './SmallButton.svelte';

	let { device, height }: { device: Device; height: number } = $props();

	const shoot = useShoot();
	const listening = useListening();
	/** Two lines of text need this. */
	const TALL = 38;

	const clips = $derived(shoot.placed.filter((clip) => clip.deviceId === device.id));
	const sounds = $derived(clips.some((clip) => clip.parts.some((part) => part.sound)));
	const clockLine = $derived.by(() => {
		if (device.id === shoot.reference?.id) return 'reference clock';
		const ppm = ppmWords(clips[0]?.placement.measuredRatePpm ?? 0);
		return device.correctsDrift ? ppm : `${ppm}, not corrected`;
	});
	const heard = $derived(listening.isHeard(device.id));
</script>

<div
	class="flex items-center gap-1.5 overflow-hidden pr-1 pl-2"
	style:height="{height}px"
	data-testid="lane-{device.badge}"
>
	<span class="badge" style:--hue={shoot.hue(device.id)}>{device.badge}</span>
	<span class="min-w-0 flex-1 leading-tight">
		<span class="block truncate text-sm" title={device.name}>{device.name}</span>
		{#if height >= TALL}
			<span class="times block truncate text-[11px] text-quiet">
				{clockLine}
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
	<LaneMenu {device} />
</div>
