<script lang="ts">
	import EllipsisVertical from '@lucide/svelte/icons/ellipsis-vertical';
	import { Popover } from 'flowbite-svelte';
	import type { Device } from '../../core/shoot/device';
	import { useShoot } from '../state/shoot-state.svelte';
	import { type LaneHeight, useLaneLook } from './lane-look.svelte';
	import { openingMotion } from '../controls/opening-motion';

	let { device }: { device: Device } = $props();

	const shoot = useShoot();
	const look = useLaneLook();
	const HEIGHTS: readonly (readonly [LaneHeight, string])[] = [
		['folded', 'Folded'],
		['normal', 'As high as fits'],
		['tall', 'Tall']
	];
	let open = $state(false);

	const place = $derived(shoot.shoot.devices.findIndex((one) => one.id === device.id));

	function reorder(by: number): void {
		void shoot.edit({ kind: 'reorder-device', deviceId: device.id, place: place + by });
	}
</script>

<button
	id="lane-menu-{device.id}"
	class="opener"
	aria-label="Lane of {device.name}"
	aria-haspopup="true"
	title="Height, place and more"><EllipsisVertical size={13} /></button
>
<Popover
	transitionParams={openingMotion()}
	triggeredBy="#lane-menu-{device.id}"
	trigger="click"
	placement="right-start"
	class="w-52 text-sm"
	arrow={false}
	bind:isOpen={open}
>
	<div class="flex flex-col gap-0.5" role="group" aria-label="Lane of {device.name}">
		{#each HEIGHTS as [height, words] (height)}
			<button
				class="item"
				aria-pressed={look.heightOf(device.id) === height}
				class:font-semibold={look.heightOf(device.id) === height}
				onclick={() => look.setHeight(device.id, height)}>{words}</button
			>
		{/each}
		<hr class="my-1 border-line" />
		<button class="item" disabled={place === 0} onclick={() => reorder(-1)}>Move up</button>
		<button class="item" disabled={place === shoot.shoot.devices.length - 1} onclick={() => reorder(1)}
			>Move down</button
		>
		<button
			class="item"
			onclick={() => {
				open = false;
				look.setHidden(device.id, true);
			}}>Hide, for the eye only</button
		>
		<hr class="my-1 border-line" />
		<label class="item flex items-center gap-2"
			><input
				type="checkbox"
				class="size-3.5 rounded border-line text-accent"
				checked={device.correctsDrift}
				onchange={(event) =>
					shoot.edit({ kind: 'correct-drift', deviceIds: [device.id], corrects: event.currentTarget.checked })}
			/> Correct its drift</label
		>
	</div>
</Popover>

<style>
	.opener {
		display: grid;
		place-content: center;
		width: 18px;
		height: 20px;
		color: var(--quiet);
	}
	.opener:hover {
		color: var(--ink);
	}
	.item {
		border-radius: 4px;
		padding: 2px 6px;
		text-align: left;
	}
	.item:hover:not(:disabled) {
		background: color-mix(in srgb, var(--accent-fill) 18%, transparent);
	}
	.item:disabled {
		opacity: 0.45;
	}
</style>
