<script lang="ts">
	import Flag from '@lucide/svelte/icons/flag';
	import { Button } from 'flowbite-svelte';
	import { untrack } from 'svelte';
	import type { Clip } from '../../../core/shoot/clip';
	import { flicksToSeconds, flicksToVideoFrame, videoFrameToFlicks } from '../../../core/time/flicks';
	import ClipPicture from '../../playback/ClipPicture.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';

	/** Looks through a clip that has no place, to find an event in its picture. */
	let { clip }: { clip: Clip } = $props();

	const shoot = useShoot();
	let picture = $state(0);
	let name = $state('Clap');

	const rate = $derived(clip.parts[0]?.picture?.rate ?? shoot.shoot.rate);
	const last = $derived(Math.max(0, flicksToVideoFrame(clip.durationFlicks, rate) - 1));
	/** When the picture begins, in the clip's own time. */
	const mediaFlicks = $derived(videoFrameToFlicks(picture, rate) + (clip.parts[0]?.picture?.startFlicks ?? 0));
	const aspect = $derived((clip.parts[0]?.picture?.width ?? 16) / (clip.parts[0]?.picture?.height ?? 9));

	$effect(() => {
		const { id } = clip;
		untrack(() => (picture = Number(sessionStorage.getItem(`open-choir.stray.${id}`) ?? 0)));
	});
	$effect(() => sessionStorage.setItem(`open-choir.stray.${clip.id}`, `${picture}`));

	function step(by: number): void {
		picture = Math.max(0, Math.min(last, picture + by));
	}
</script>

<div class="flex min-h-0 flex-col gap-2" data-testid="stray-viewer">
	<h2 class="flex items-center gap-1.5 text-base">
		<span class="badge" style:--hue={shoot.hue(clip.deviceId)}>{shoot.device(clip.deviceId)?.badge}</span>
		{clip.name}, not placed
	</h2>
	<div class="min-h-0 flex-1">
		<ClipPicture {clip} mediaFlicks={mediaFlicks + videoFrameToFlicks(1, rate) / 2} {aspect} />
	</div>
	<input
		type="range"
		min="0"
		max={last}
		bind:value={picture}
		aria-label="Picture of {clip.name}"
		class="w-full accent-accent"
		data-testid="stray-slider"
	/>
	<div class="flex flex-wrap items-center gap-1.5">
		<Button size="xs" color="alternative" onclick={() => step(-10)}>−10</Button>
		<Button size="xs" color="alternative" onclick={() => step(-1)}>−1</Button>
		<Button size="xs" color="alternative" onclick={() => step(1)} data-testid="stray-next">+1</Button>
		<Button size="xs" color="alternative" onclick={() => step(10)}>+10</Button>
		<span class="times text-sm text-quiet" data-testid="stray-picture"
			>{flicksToSeconds(mediaFlicks).toFixed(2)} s · picture {picture}</span
		>
		<input
			class="ml-auto w-20 rounded-md border border-line bg-surface px-2 py-1 text-sm"
			aria-label="Name of the point in {clip.name}"
			bind:value={name}
			maxlength="100"
		/>
		<Button
			size="xs"
			onclick={() => shoot.edit({ kind: 'add-sync-point', clipId: clip.id, mediaFlicks, name: name.trim() || 'Point' })}
			data-testid="stray-mark"><Flag size={13} class="mr-1" />Mark</Button
		>
	</div>
</div>
