<script lang="ts">
	import { onMount } from 'svelte';
	import type { Device } from '../../core/shoot/device';
	import { placedEnd } from '../../core/shoot/clip';
	import { useShoot } from '../state/shoot-state.svelte';
	import { colourOf, onThemeChange, prepareCanvas, themeColours } from './canvas-tools';
	import { useScoreView } from './score-view.svelte';

	/** The whole line-up in a strip, with the part that is seen framed. */
	let { devices, height }: { devices: readonly Device[]; height: number } = $props();

	const shoot = useShoot();
	const view = useScoreView();
	let canvas = $state<HTMLCanvasElement>();
	let theme = $state(0);
	let dragging = $state(false);
	const whole = $derived(shoot.range.outFlicks - shoot.range.inFlicks);

	onMount(() => onThemeChange(() => theme++));

	$effect(() => {
		const target = canvas;
		if (!target || view.width <= 0 || whole <= 0) return;
		const wanted = { placed: shoot.placed, devices, theme };
		const frame = requestAnimationFrame(() => {
			const context = prepareCanvas(target, view.width, height);
			const scale = view.width / whole;
			const row = (height - 2) / Math.max(1, wanted.devices.length);
			for (const [index, device] of wanted.devices.entries()) {
				context.fillStyle = colourOf(shoot.hue(device.id));
				for (const clip of wanted.placed.filter((one) => one.deviceId === device.id)) {
					context.fillRect(
						(clip.placement.startFlicks - shoot.range.inFlicks) * scale,
						1 + index * row,
						Math.max(1, (placedEnd(clip) - clip.placement.startFlicks) * scale),
						Math.max(1, row - 0.6)
					);
				}
			}
			context.fillStyle = themeColours().ink;
			for (const marker of shoot.shoot.markers)
				if (marker.lineUpId === shoot.lineUpId)
					context.fillRect((marker.atFlicks - shoot.range.inFlicks) * scale - 0.5, 0, 1, height);
		});
		return () => cancelAnimationFrame(frame);
	});

	const frameLeft = $derived(whole > 0 ? ((view.startFlicks - shoot.range.inFlicks) / whole) * view.width : 0);
	const frameWidth = $derived(whole > 0 ? Math.max(4, (view.width * view.flicksPerPixel * view.width) / whole) : 0);

	function centre(event: PointerEvent): void {
		const x = event.clientX - (event.currentTarget as HTMLElement).getBoundingClientRect().left;
		view.startFlicks = shoot.range.inFlicks + (x / view.width) * whole - (view.width * view.flicksPerPixel) / 2;
	}
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
	class="relative min-w-0 flex-1 cursor-pointer overflow-hidden"
	style:height="{height}px"
	data-testid="overview"
	onpointerdown={(event) => {
		event.currentTarget.setPointerCapture(event.pointerId);
		dragging = true;
		centre(event);
	}}
	onpointermove={(event) => {
		if (dragging) centre(event);
	}}
	onpointerup={() => (dragging = false)}
>
	<canvas bind:this={canvas} class="block h-full w-full" aria-hidden="true"></canvas>
	<div
		class="pointer-events-none absolute top-0 bottom-0 border-[1.5px] border-ink"
		style:left="{frameLeft}px"
		style:width="{frameWidth}px"
	></div>
</div>
