<script lang="ts">
	import { onMount } from 'svelte';
	import { asPicture } from '../../core/shoot/air-delay';
	import { clipAt } from '../../core/shoot/lookup';
	import { useShoot } from '../state/shoot-state.svelte';
	import { useStrips } from '../score/strips/strips.svelte';
	import { useTransport } from './transport.svelte';
	import { pictureOnAir } from '../../core/program/compile';
	import { onAirWords } from '../controls/plan-words';
	import { countWords } from '../controls/words';
	import { angleWords } from './angle-words';
	import AngleTile from './AngleTile.svelte';
	import PictureState from './PictureState.svelte';
	import { GAP, LABEL, wallCells } from './wall-cells';
	import { wallAir, wallFiles } from './wall-files';
	import { useWallLook } from './wall-look.svelte';
	import type { WallMessage, WallReport, WallTile } from './wall-messages';
	import WallWorker from './wall.worker?worker';

	/** The angles in a grid; with `air`, the picture on air large beside them. */
	let {
		air = false,
		oncall,
		only,
		verb = 'Call'
	}: {
		air?: boolean;
		oncall?: (deviceId: string) => void;
		/** The one angle that is shown. */
		only?: string | undefined;
		/** What a click on an angle does. */
		verb?: string;
	} = $props();

	const shoot = useShoot();
	const transport = useTransport();
	const look = useWallLook();
	const strips = useStrips();

	/** The angles come first: strips go on when all has been well for so long. */
	const STRIPS_AFTER_MS = 1000;
	const EVERY: Readonly<Record<number, string>> = {
		2: 'every second',
		3: 'every third',
		4: 'every fourth',
		5: 'every fifth'
	};

	let canvas = $state<HTMLCanvasElement>();
	let airCanvas = $state<HTMLCanvasElement>();
	let worker = $state.raw<Worker>();
	let report = $state.raw<WallReport>();
	let width = $state(0);
	let height = $state(0);
	const supported = typeof VideoDecoder !== 'undefined' && typeof OffscreenCanvas !== 'undefined';
	/** Where a click calls, one is enlarged by a button of its own. */
	const enlarges = $derived(verb === 'Call');

	const aspect = $derived(shoot.shoot.width / shoot.shoot.height);
	/** On air takes the left, as large as fits; the grid takes what is left. */
	const airSize = $derived.by(() => {
		if (!air) return undefined;
		const w = Math.min(width * 0.54, (height - LABEL) * aspect);
		return { width: w, height: w / aspect };
	});
	/** Where the grid begins. */
	const left = $derived(airSize ? airSize.width + 2 * GAP : 0);
	/** Angles that are shown, with their numbers among all. */
	const shown = $derived(
		shoot.angles.flatMap((angle, index) =>
			(only ? angle.id === only : !look.isHidden(angle.id)) ? [{ angle, number: index + 1 }] : []
		)
	);
	const hiddenCount = $derived(only ? 0 : shoot.angles.length - shown.length);
	const cells = $derived(
		wallCells(
			shown.map(({ angle }) => angle.id),
			{ width: width - left, height: height - (hiddenCount > 0 ? LABEL : 0) },
			aspect,
			enlarges ? look.largeId : undefined
		)
	);
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
			strips.store.setHeld(false);
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
			height: Math.round(cell.height * ratio),
			isLarge: cell.isLarge
		}));
		send({
			kind: 'size',
			width: Math.max(1, Math.round((width - left) * ratio)),
			height: Math.round(height * ratio),
			tiles: scaled
		});
	});
	$effect(() => send({ kind: 'files', files }));
	$effect(() => {
		if (supported && (report?.isBusy ?? true)) {
			strips.store.setHeld(true);
			return;
		}
		const timer = setTimeout(() => strips.store.setHeld(false), STRIPS_AFTER_MS);
		return () => clearTimeout(timer);
	});
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
		data-every={report?.every}
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
			{:else if airing.shown.kind !== 'held' && behindWords(onAirId)}<PictureState
					words={behindWords(onAirId)!}
					testId="air-state"
				/>{/if}
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
		{@const { angle, number } = shown[index]!}
		<AngleTile
			{angle}
			{cell}
			{left}
			{verb}
			{number}
			isOnAir={air && cell.deviceId === onAirId}
			wanting={wanting(cell.deviceId)}
			state={behindWords(cell.deviceId)}
			oncall={oncall && (() => oncall(cell.deviceId))}
			onenlarge={enlarges ? () => look.enlarge(cell.isLarge ? undefined : cell.deviceId) : undefined}
			onhide={only ? undefined : () => look.hide(cell.deviceId)}
		/>
	{/each}
	{#if transport.playing && report && report.every > 1}
		<p
			class="absolute right-1 rounded-sm bg-surface px-1 text-xs text-attention"
			style:bottom="{hiddenCount > 0 ? LABEL : 0}px"
		>
			The machine is busy: the angles show {EVERY[report.every]} picture, in time.
		</p>
	{/if}
	{#if hiddenCount > 0}
		<p class="absolute right-1 bottom-0 text-xs text-quiet">
			{countWords(hiddenCount, 'angle')} hidden, for the eye only ·
			<button class="text-accent underline" onclick={() => look.showAll()}>show all angles</button>
		</p>
	{/if}
</div>
