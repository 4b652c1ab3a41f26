<script lang="ts">
	import { onMount } from 'svelte';
	import { asPicture } from '../../core/shoot/air-delay';
	import { clipAt } from '../../core/shoot/lookup';
	import { useShoot } from '../state/shoot-state.svelte';
	import { useTransport } from './transport.svelte';
	import { pictureOnAir } from '../../core/program/compile';
	import { onAirWords } from '../controls/plan-words';
	import { angleWords } from './angle-words';
	import { wallAir, wallFiles } from './wall-files';
	import type { WallMessage, WallReport, WallTile } from './wall-messages';
	import WallWorker from './wall.worker?worker';

	/** The angles in a grid; with `air`, the picture on air large beside them. */
	let {
		air = false,
		oncall,
		names = true,
		only,
		verb = 'Call'
	}: {
		air?: boolean;
		oncall?: (deviceId: string) => void;
		names?: boolean;
		/** The one angle that is shown. */
		only?: string | undefined;
		/** What a click on an angle does. */
		verb?: string;
	} = $props();

	const shoot = useShoot();
	const transport = useTransport();

	let canvas = $state<HTMLCanvasElement>();
	let airCanvas = $state<HTMLCanvasElement>();
	let worker = $state.raw<Worker>();
	let report = $state.raw<WallReport>();
	let width = $state(0);
	let height = $state(0);
	const supported = typeof VideoDecoder !== 'undefined' && typeof OffscreenCanvas !== 'undefined';
	const GAP = 8;
	const LABEL = 22;

	interface Cell {
		readonly deviceId: string;
		readonly x: number;
		readonly y: number;
		readonly width: number;
		readonly height: number;
	}

	const aspect = $derived(shoot.shoot.width / shoot.shoot.height);
	/** On air takes the left, as large as fits; the grid takes what is left. */
	const airSize = $derived.by(() => {
		if (!air) return undefined;
		const w = Math.min(width * 0.54, (height - LABEL) * aspect);
		return { width: w, height: w / aspect };
	});
	/** Where the grid begins. */
	const left = $derived(airSize ? airSize.width + 2 * GAP : 0);
	/** Places of the angles within the grid. */
	const cells = $derived.by((): Cell[] => {
		const room = { width: width - left, height };
		const angles = shoot.angles.filter((angle) => !only || angle.id === only);
		const count = Math.max(1, angles.length);
		let best = { columns: 1, width: 0 };
		for (let columns = 1; columns <= count; columns++) {
			const rows = Math.ceil(count / columns);
			const w = Math.min(
				(room.width - (columns - 1) * GAP) / columns,
				((room.height - (rows - 1) * GAP) / rows - LABEL) * aspect
			);
			if (w > best.width) best = { columns, width: w };
		}
		return angles.map((angle, index) => ({
			deviceId: angle.id,
			x: (index % best.columns) * (best.width + GAP),
			y: Math.floor(index / best.columns) * (best.width / aspect + LABEL + GAP),
			width: best.width,
			height: best.width / aspect
		}));
	});
	/** What the audience sees at this moment, from the compiled plan. */
	const airing = $derived(shoot.plan && pictureOnAir(shoot.plan, transport.shownFlicks));
	const onAirId = $derived(airing?.shown.kind === 'black' ? undefined : airing?.shown.source.deviceId);
	const onAir = $derived(onAirId ? shoot.device(onAirId) : undefined);
	/** Where the pictures lie. */
	const pictures = $derived(shoot.placed.map(asPicture));
	const files = $derived(wallFiles(shoot.placed, shoot.coverage));

	/** What stands in an angle's place when it has no picture at this moment. */
	function wanting(deviceId: string): string | undefined {
		return clipAt(pictures, deviceId, transport.shownFlicks) ? undefined : 'not recording now';
	}

	/** What an angle shows, where that is not the picture of this very time. */
	function behindWords(deviceId: string): string | undefined {
		const state = report?.behind.find((one) => one.deviceId === deviceId);
		return state && !wanting(deviceId) ? angleWords(state) : undefined;
	}

	function send(message: WallMessage, transfer: Transferable[] = []): void {
		worker?.postMessage(message, transfer);
	}

	onMount(() => {
		if (!supported || !canvas) return;
		const made = new WallWorker();
		made.onmessage = ({ data }: MessageEvent<WallReport>) => (report = data);
		worker = made;
		const offscreen = canvas.transferControlToOffscreen();
		const airOffscreen = airCanvas?.transferControlToOffscreen();
		send(
			{ kind: 'canvas', canvas: offscreen, ...(airOffscreen ? { air: airOffscreen } : {}) },
			airOffscreen ? [offscreen, airOffscreen] : [offscreen]
		);
		const unfollow = transport.follow((anchor) => send({ kind: 'clock', anchor }));
		return () => {
			unfollow();
			made.terminate();
		};
	});

	$effect(() => {
		if (!worker || width === 0) return;
		const ratio = devicePixelRatio;
		const scaled = cells.map((cell): WallTile => ({
			deviceId: cell.deviceId,
			x: Math.round(cell.x * ratio),
			y: Math.round(cell.y * ratio),
			width: Math.round(cell.width * ratio),
			height: Math.round(cell.height * ratio)
		}));
		send({
			kind: 'size',
			width: Math.max(1, Math.round((width - left) * ratio)),
			height: Math.round(height * ratio),
			tiles: scaled
		});
	});
	$effect(() => send({ kind: 'files', files }));
	$effect(() => send({ kind: 'air', air: shoot.plan ? wallAir(shoot.plan) : [] }));
</script>

<div class="relative h-full w-full overflow-hidden" bind:clientWidth={width} bind:clientHeight={height}>
	{#if !supported}
		<p class="p-4 text-attention">
			This browser cannot show the angles: it lacks WebCodecs. A current Chromium, Firefox or Safari can.
		</p>
	{/if}
	<canvas
		bind:this={canvas}
		class="absolute top-0 h-full"
		style:left="{left}px"
		style:width="{width - left}px"
		data-testid="wall"
		aria-label="Pictures of all angles"
		data-exact={report?.exact}
		data-by-one={report?.byOne}
		data-worse={report?.worse}
		data-stills={report?.stills}
		data-shown={report?.shown}
		data-behind={report?.behind.length}
		data-open={report?.open}
	></canvas>
	{#if airSize}
		<div
			class="pointer-events-none absolute top-0 left-0 border border-line"
			style:width="{airSize.width}px"
			style:height="{airSize.height}px"
		>
			<canvas bind:this={airCanvas} class="h-full w-full object-contain" data-testid="air" aria-label="Picture on air"
			></canvas>
			{#if !airing}<span class="absolute inset-0 grid place-content-center text-quiet">outside the program</span>
			{:else if !onAirId}<span class="absolute inset-0 grid place-content-center text-attention"
					>No camera has a picture anywhere in the program.</span
				>
			{:else if airing.shown.kind !== 'held' && wanting(onAirId)}<span
					class="absolute inset-0 grid place-content-center bg-surface/80 text-center text-attention"
					>{onAir?.badge}: {wanting(onAirId)}</span
				>
			{:else if airing.shown.kind !== 'held' && behindWords(onAirId)}<span class="state" data-testid="air-state"
					>{behindWords(onAirId)}</span
				>{/if}
		</div>
		<div
			class="absolute flex items-center gap-2"
			style:left="0"
			style:top="{airSize.height + 3}px"
			style:width="{airSize.width}px"
			data-testid="on-air"
			data-device={onAirId}
			data-shown={airing?.shown.kind}
		>
			{#if onAir}
				<span class="rounded-sm bg-accent-fill px-2 text-sm font-semibold" style:color="var(--on-accent)">On air</span>
				<span class="badge" style:--hue={shoot.hue(onAir.id)}>{onAir.badge}</span><span class="whitespace-nowrap"
					>{onAir.name}</span
				>
				{#if airing && airing.shown.kind !== 'called'}<span
						class="min-w-0 truncate text-sm text-attention"
						data-testid="on-air-why"
						title={onAirWords(airing, shoot)}>{onAirWords(airing, shoot)}</span
					>{/if}
			{/if}
		</div>
	{/if}
	{#each cells as cell, index (cell.deviceId)}
		{@const angle = shoot.device(cell.deviceId)!}
		{@const reason = wanting(cell.deviceId)}
		<svelte:element
			this={oncall ? 'button' : 'div'}
			role={oncall ? undefined : 'group'}
			type={oncall ? 'button' : undefined}
			class="tile absolute rounded-b-md border text-left"
			class:on-air={air && cell.deviceId === onAirId}
			style:left="{left + cell.x}px"
			style:top="{cell.y}px"
			style:width="{cell.width}px"
			style:height="{cell.height + LABEL}px"
			style:--hue={shoot.hue(cell.deviceId)}
			data-testid="tile-{angle.badge}"
			data-x={cell.x}
			data-y={cell.y}
			data-width={cell.width}
			data-height={cell.height}
			aria-label={oncall ? `${verb} ${angle.badge}, ${angle.name}` : `${angle.badge}, ${angle.name}`}
			onclick={oncall ? () => oncall(cell.deviceId) : undefined}
		>
			{#if reason}<span
					class="absolute inset-x-0 top-0 grid place-content-center bg-ground px-1 text-center text-xs text-quiet"
					style:height="{cell.height}px">{reason}</span
				>{/if}
			{#if behindWords(cell.deviceId)}<span class="state" style:bottom="{LABEL + 2}px" data-testid="state-{angle.badge}"
					>{behindWords(cell.deviceId)}</span
				>{/if}
			{#if names}
				<span class="absolute inset-x-1 bottom-0 flex items-center gap-1 text-xs leading-[22px]">
					<span class="badge">{angle.badge}</span><span class="truncate">{angle.name}</span>
					{#if air && cell.deviceId === onAirId}<span
							class="ml-auto rounded-sm bg-accent-fill px-1 leading-4 font-semibold"
							style:color="var(--on-accent)">On air</span
						>
					{:else if oncall && verb === 'Call' && index < 9}<kbd class="times ml-auto text-quiet">{index + 1}</kbd>{/if}
				</span>
			{/if}
		</svelte:element>
	{/each}
</div>

<style>
	.tile {
		cursor: inherit;
	}
	button.tile {
		cursor: pointer;
	}
	button.tile:hover {
		border-color: var(--accent);
	}
	.state {
		position: absolute;
		left: 2px;
		bottom: 2px;
		max-width: calc(100% - 4px);
		overflow: hidden;
		border-radius: 2px;
		background: var(--surface);
		padding: 0 4px;
		color: var(--attention);
		font-size: 0.75rem;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	.on-air {
		border-color: var(--accent-fill);
	}
</style>
