<script lang="ts">
	import { onMount } from 'svelte';
	import type { Clip } from '../../core/shoot/clip';
	import { angleWords } from './angle-words';
	import type { Transport } from './transport.svelte';
	import { clipFiles } from './wall-files';
	import type { WallMessage, WallReport } from './wall-messages';
	import WallWorker from './wall.worker?worker';

	/**
	 * The picture of one clip in its own time, whether it has a place on the line-up or not: at a moment, or as a player of its
	 * own goes.
	 */
	let { clip, aspect, ...time }: { clip: Clip; aspect: number } & ({ mediaFlicks: number } | { transport: Transport }) =
		$props();

	let canvas = $state<HTMLCanvasElement>();
	let worker = $state.raw<Worker>();
	let width = $state(0);
	let height = $state(0);

	let report = $state.raw<WallReport>();
	const hasPicture = $derived(clip.parts.some((part) => part.picture));
	const behind = $derived(report?.behind[0]);
	const cell = $derived.by(() => {
		const w = Math.min(width, height * aspect);
		return { width: w, height: w / aspect };
	});

	function send(message: WallMessage, transfer: Transferable[] = []): void {
		worker?.postMessage(message, transfer);
	}

	onMount(() => {
		if (!canvas || typeof VideoDecoder === 'undefined') return;
		const made = new WallWorker();
		made.onmessage = ({ data }: MessageEvent<WallReport>) => (report = data);
		worker = made;
		const offscreen = canvas.transferControlToOffscreen();
		send({ kind: 'canvas', canvas: offscreen }, [offscreen]);
		return () => made.terminate();
	});

	$effect(() => {
		if (!worker || cell.width <= 0) return;
		const ratio = devicePixelRatio;
		const [w, h] = [Math.round(cell.width * ratio), Math.round(cell.height * ratio)];
		send({
			kind: 'size',
			width: w,
			height: h,
			tiles: [{ deviceId: clip.deviceId, x: 0, y: 0, width: w, height: h, isLarge: true }]
		});
	});
	$effect(() => send({ kind: 'files', files: clipFiles(clip) }));
	$effect(() => {
		if (!worker) return;
		if ('transport' in time) return time.transport.follow((anchor) => send({ kind: 'clock', anchor }));
		send({ kind: 'clock', anchor: { playing: false, flicks: time.mediaFlicks, atMs: 0 } });
		return;
	});
</script>

<div class="relative h-full w-full overflow-hidden" bind:clientWidth={width} bind:clientHeight={height}>
	<canvas
		bind:this={canvas}
		style:width="{cell.width}px"
		style:height="{cell.height}px"
		aria-label="Picture of {clip.name}"
		data-testid="clip-picture"
	></canvas>
	{#if !hasPicture}<span class="absolute inset-0 grid place-content-center text-quiet">This clip has no picture.</span>
	{:else if behind}<span
			class="absolute bottom-1 left-1 rounded-sm bg-surface px-1 text-xs text-attention"
			data-testid="clip-picture-state">{angleWords(behind)}</span
		>{/if}
</div>
