<script lang="ts">
	import { SvelteSet } from 'svelte/reactivity';
	import { useShoot } from '../../state/shoot-state.svelte';
	import BulkBar from './BulkBar.svelte';
	import ClipFacts from './ClipFacts.svelte';
	import ClipTable from './ClipTable.svelte';
	import DeviceFacts from './DeviceFacts.svelte';
	import Sources from './Sources.svelte';

	const shoot = useShoot();
	const chosen = new SvelteSet<string>();
	/** The device that is looked at; otherwise the selected clip is. */
	let deviceId = $state<string>();

	const reading = $derived(shoot.runningJobs.some((job) => job.kind === 'gather'));
	const device = $derived(deviceId === undefined ? undefined : shoot.device(deviceId));
	const clip = $derived(shoot.selectedClip);
	const some = $derived(shoot.shoot.clips.some((one) => chosen.has(one.id)));
</script>

<div class="grid h-full min-h-0 grid-cols-[220px_minmax(0,1fr)_270px] gap-3">
	<section class="panel min-h-0 overflow-auto" aria-label="Sources"><Sources /></section>
	<section class="panel flex min-h-0 flex-col" aria-label="Devices and clips">
		<div class="min-h-0 flex-1"><ClipTable {chosen} bind:deviceId {reading} /></div>
		{#if some}<BulkBar {chosen} />{/if}
	</section>
	<section class="panel min-h-0 overflow-auto p-3" aria-label={device ? 'Selected device' : 'Selected clip'}>
		{#if device}
			<DeviceFacts {device} onmerged={(into) => (deviceId = into)} />
		{:else if clip}
			<ClipFacts {clip} onabout={() => (deviceId = clip.deviceId)} />
		{:else}
			<p class="text-sm text-quiet">
				Choose a clip to see what its file tells, or “About” of a device to see why its clips are taken for its own.
			</p>
		{/if}
	</section>
</div>
