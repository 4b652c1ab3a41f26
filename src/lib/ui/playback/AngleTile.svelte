<script lang="ts">
	import EyeOff from '@lucide/svelte/icons/eye-off';
	import Maximize2 from '@lucide/svelte/icons/maximize-2';
	import Minimize2 from '@lucide/svelte/icons/minimize-2';
	import type { Device } from '../../core/shoot/device';
	import { useShoot } from '../state/shoot-state.svelte';
	import PictureState from './PictureState.svelte';
	import { type Cell, LABEL } from './wall-cells';

	/** What stands over an angle's picture on the wall: its name, what it shows, and what can be done with it. */
	let {
		angle,
		cell,
		left,
		verb,
		number,
		isOnAir,
		wanting,
		state,
		oncall,
		onenlarge,
		onhide
	}: {
		angle: Device;
		cell: Cell;
		/** Where the grid begins. */
		left: number;
		/** What a click does. */
		verb: string;
		/** Its digit, from 1. */
		number: number;
		isOnAir: boolean;
		/** Why there is no picture now. */
		wanting: string | undefined;
		/** What is shown instead of the picture of this very time. */
		state: string | undefined;
		oncall: (() => void) | undefined;
		onenlarge: (() => void) | undefined;
		onhide: (() => void) | undefined;
	} = $props();

	const shoot = useShoot();
	const LAST_DIGIT = 9;
</script>

<div
	class="tile absolute"
	style:left="{left + cell.x}px"
	style:top="{cell.y}px"
	style:width="{cell.width}px"
	style:height="{cell.height + LABEL}px"
	style:--hue={shoot.hue(angle.id)}
>
	<svelte:element
		this={oncall ? 'button' : 'div'}
		role={oncall ? undefined : 'group'}
		type={oncall ? 'button' : undefined}
		class="main absolute inset-0 rounded-b-md border text-left"
		class:on-air={isOnAir}
		data-testid="tile-{angle.badge}"
		data-x={cell.x}
		data-y={cell.y}
		data-width={cell.width}
		data-height={cell.height}
		aria-label={oncall ? `${verb} ${angle.badge}, ${angle.name}` : `${angle.badge}, ${angle.name}`}
		onclick={oncall}
	>
		{#if wanting}<span
				class="absolute inset-x-0 top-0 grid place-content-center bg-ground px-1 text-center text-xs text-quiet"
				style:height="{cell.height}px">{wanting}</span
			>{/if}
		{#if state}<PictureState words={state} bottomPixels={LABEL + 2} testId="state-{angle.badge}" />{/if}
		<span class="absolute inset-x-1 bottom-0 flex items-center gap-1 text-xs leading-[22px]">
			<span class="badge">{angle.badge}</span><span class="truncate">{angle.name}</span>
			{#if isOnAir}<span
					class="ml-auto rounded-sm bg-accent-fill px-1 leading-4 font-semibold whitespace-nowrap"
					style:color="var(--on-accent)">On air</span
				>
			{:else if oncall && verb === 'Call' && number <= LAST_DIGIT}<kbd class="times ml-auto text-quiet">{number}</kbd
				>{/if}
		</span>
	</svelte:element>
	<span class="tools">
		{#if onenlarge}
			{@const words = cell.isLarge ? `Show ${angle.name} like the others` : `Show ${angle.name} large`}
			<button aria-label={words} title={words} onclick={onenlarge}
				>{#if cell.isLarge}<Minimize2 size={13} />{:else}<Maximize2 size={13} />{/if}</button
			>
		{/if}
		{#if onhide}
			{@const words = `Hide ${angle.name}, for the eye only`}
			<button aria-label={words} title={words} onclick={onhide}><EyeOff size={13} /></button>
		{/if}
	</span>
</div>

<style>
	button.main {
		cursor: pointer;
	}
	button.main:hover {
		border-color: var(--accent);
	}
	.main.on-air {
		border-color: var(--accent-fill);
	}
	/* Over the picture only while one is there: it is looked at. */
	.tools {
		position: absolute;
		top: 3px;
		right: 3px;
		display: flex;
		gap: 2px;
		opacity: 0;
	}
	.tile:hover .tools,
	.tools:focus-within {
		opacity: 1;
	}
	@media (hover: none) {
		.tools {
			opacity: 1;
		}
	}
	.tools button {
		display: grid;
		place-content: center;
		width: 22px;
		height: 20px;
		border: 1px solid var(--line);
		border-radius: 4px;
		background: var(--surface);
		color: var(--ink);
		cursor: pointer;
	}
	.tools button:hover {
		border-color: var(--accent);
	}
</style>
