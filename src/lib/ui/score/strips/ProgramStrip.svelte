<script lang="ts">
	import { onMount } from 'svelte';
	import { ownTimeAt } from '../../../core/time/course';
	import { FLICKS_PER_SECOND } from '../../../core/time/flicks';
	import { wallAir, wallFiles } from '../../playback/wall-files';
	import type { WallAir } from '../../playback/wall-messages';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { prepareCanvas } from '../canvas-tools';
	import { type Mapping, xOf } from '../mapping';
	import { useScoreView } from '../score-view.svelte';
	import { drawStrip } from './draw-strip';
	import { useStrips } from './strips.svelte';

	/** Pictures of what the audience sees, shot by shot. */
	let { height }: { height: number } = $props();

	const shoot = useShoot();
	const view = useScoreView();
	const strips = useStrips();
	const drawing = strips.store.drawing();
	const EDGE = 2;

	let canvas = $state<HTMLCanvasElement>();

	const byDevice = $derived(Map.groupBy(wallFiles(shoot.placed, shoot.coverage), (file) => file.deviceId));
	const airs = $derived(shoot.plan ? wallAir(shoot.plan) : []);
	const aspect = $derived(shoot.shoot.width / shoot.shoot.height);

	onMount(() => () => drawing.close());

	$effect(() => {
		const target = canvas;
		if (!target || view.width <= 0) return;
		const mapping: Mapping = {
			startFlicks: view.startFlicks,
			flicksPerPixel: view.flicksPerPixel,
			width: view.width
		};
		// Read here, so that a change asks for a new picture.
		const wanted = { airs, byDevice, aspect, height, arrivals: strips.arrivals };
		const frame = requestAnimationFrame(() => {
			const context = prepareCanvas(target, mapping.width, wanted.height);
			drawing.begin();
			for (const air of wanted.airs) draw(context, air, mapping);
			drawing.end();
		});
		return () => cancelAnimationFrame(frame);
	});

	function draw(context: CanvasRenderingContext2D, air: WallAir, mapping: Mapping): void {
		const [x, toX] = [xOf(mapping, air.inFlicks), xOf(mapping, air.outFlicks)];
		if (toX < 0 || x > mapping.width) return;
		const shownFlicks = air.heldFlicks ?? air.inFlicks;
		const file = byDevice
			.get(air.deviceId ?? '')
			?.find((one) => shownFlicks >= one.beginFlicks && shownFlicks < one.endFlicks);
		if (!file) return;
		const seconds = ownTimeAt(file.course, shownFlicks) / FLICKS_PER_SECOND;
		const stretch = {
			file,
			x,
			toX: toX - 1,
			y: EDGE,
			height: height - 2 * EDGE,
			aspect,
			seconds,
			secondsPerPixel: mapping.flicksPerPixel / FLICKS_PER_SECOND / file.course.rateFactor,
			...(air.heldFlicks === undefined ? {} : { heldSeconds: seconds })
		};
		drawStrip(context, stretch, mapping.width, drawing);
	}
</script>

<canvas
	bind:this={canvas}
	class="pointer-events-none block w-full"
	style:height="{height}px"
	data-testid="program-strip"
	aria-label="Pictures of the program"
></canvas>
