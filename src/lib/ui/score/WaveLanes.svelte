<script lang="ts">
	import { onMount } from 'svelte';
	import { asSound } from '../../core/shoot/air-delay';
	import type { Device } from '../../core/shoot/device';
	import { toTimeline } from '../../core/shoot/placement';
	import { type PlacedClip, placedEnd } from '../../core/shoot/clip';
	import { methodWords } from '../../core/proof/report';
	import { snapShift } from '../../core/proof/snapping';
	import { flicksToSeconds } from '../../core/time/flicks';
	import { millisecondsWords } from '../controls/words';
	import { useTransport } from '../playback/transport.svelte';
	import { useListening } from '../state/listening.svelte';
	import { useProof } from '../state/proof-state.svelte';
	import { useSources } from '../state/sources-state.svelte';
	import { useShoot } from '../state/shoot-state.svelte';
	import { colourOf, onThemeChange, prepareCanvas, themeColours } from './canvas-tools';
	import { drawOpenings } from './draw-openings';
	import { drawLane } from './draw-score';
	import type { Mapping } from './mapping';
	import { usePeaks } from './peak-store.svelte';
	import { useScoreView } from './score-view.svelte';
	import { useStrips } from './strips/strips.svelte';

	/** Lanes with their places from the top. */
	let {
		lanes,
		height
	}: { lanes: readonly { readonly device: Device; readonly y: number; readonly height: number }[]; height: number } =
		$props();

	const shoot = useShoot();
	const transport = useTransport();
	const listening = useListening();
	const proof = useProof();
	const sources = useSources();
	const view = useScoreView();
	const peaks = usePeaks();
	const strips = useStrips();
	const pictures = strips.store.drawing();

	/** A dragged moment snaps to another one from this near. */
	const SNAP_PIXELS = 7;

	let canvas = $state<HTMLCanvasElement>();
	let theme = $state(0);
	let hovered = $state.raw<PlacedClip>();
	let scrubbing = $state(false);
	/** A clip that is being dragged: from where, and how far by now. */
	let dragged = $state.raw<{
		readonly ids: readonly string[];
		readonly moments: ReturnType<typeof momentsOf>;
		readonly grabbedFlicks: number;
		readonly byFlicks: number;
		readonly ontoFlicks?: number;
	}>();

	const whole = $derived(shoot.range.outFlicks - shoot.range.inFlicks);
	const sounding = $derived(shoot.placed.map(asSound));
	const shown = $derived.by(() => {
		const now = dragged;
		if (!now) return sounding;
		return sounding.map((clip) =>
			now.ids.includes(clip.id)
				? { ...clip, placement: { ...clip.placement, startFlicks: clip.placement.startFlicks + now.byFlicks } }
				: clip
		);
	});
	/** Microphones that open by who speaks, where one works with them. */
	const openings = $derived(
		listening.stage === 'master'
			? sources.mixed.intervals.filter((one) => one.turn === 0 && one.channels.some((channel) => channel.curve))
			: []
	);
	const mapping: Mapping = $derived({
		startFlicks: view.startFlicks,
		flicksPerPixel: view.flicksPerPixel,
		width: view.width
	});

	onMount(() => onThemeChange(() => theme++));
	onMount(() => () => pictures.close());

	$effect(() => {
		const target = canvas;
		if (!target || view.width <= 0 || height <= 0) return;
		// What the picture depends on, read here so that a change asks for a new one.
		const wanted = {
			mapping,
			scale: view.waveScale,
			lanes,
			clips: shown,
			openings,
			selected: shoot.selectedClipId,
			arrivals: peaks.arrivals,
			pictures: strips.arrivals,
			theme
		};
		const frame = requestAnimationFrame(() => {
			const context = prepareCanvas(target, view.width, height);
			const palette = themeColours();
			pictures.begin();
			const byDevice = Map.groupBy(wanted.clips, (clip) => clip.deviceId);
			for (const lane of wanted.lanes) {
				context.fillStyle = palette.line;
				context.fillRect(0, lane.y + lane.height - 0.5, view.width, 0.5);
				drawLane(
					context,
					{
						y: lane.y,
						height: lane.height,
						hue: colourOf(shoot.hue(lane.device.id)),
						clips: byDevice.get(lane.device.id) ?? []
					},
					wanted.mapping,
					peaks.store,
					wanted.scale,
					palette,
					wanted.selected,
					pictures
				);
				drawOpenings(
					context,
					wanted.openings.filter((one) => one.run.deviceId === lane.device.id),
					lane,
					wanted.mapping,
					palette.ink
				);
			}
			pictures.end();
			// For whoever measures: when it was drawn, and whether all of it was there.
			target.dataset['drawn'] = `${performance.now()}`;
			target.dataset['whole'] = `${peaks.store.waiting === 0}`;
			target.dataset['pictures'] = `${strips.store.waiting === 0}`;
		});
		return () => cancelAnimationFrame(frame);
	});

	function xIn(event: PointerEvent): number {
		return event.clientX - (event.currentTarget as HTMLElement).getBoundingClientRect().left;
	}

	function clipUnder(event: PointerEvent): PlacedClip | undefined {
		const y = event.clientY - (event.currentTarget as HTMLElement).getBoundingClientRect().top;
		const lane = lanes.find((one) => y >= one.y && y < one.y + one.height);
		const flicks = view.flicksAt(xIn(event));
		return sounding.find(
			(one) => one.deviceId === lane?.device.id && flicks >= one.placement.startFlicks && flicks < placedEnd(one)
		);
	}

	function down(event: PointerEvent): void {
		const clip = clipUnder(event);
		if (clip) shoot.selectedClipId = clip.id;
		(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
		const at = view.flicksAt(xIn(event));
		if (clip && proof.drags && listening.stage === 'prove') {
			const ids = proof.movedIds(transport.shownFlicks);
			dragged = { ids, moments: momentsOf(ids), grabbedFlicks: at, byFlicks: 0 };
			return;
		}
		scrubbing = true;
		transport.goTo(at);
	}

	function move(event: PointerEvent): void {
		const at = view.flicksAt(xIn(event));
		if (dragged)
			dragged = { ...dragged, ontoFlicks: undefined, ...restOf(at - dragged.grabbedFlicks, dragged.moments) };
		else if (scrubbing) transport.goTo(at);
		else hovered = clipUnder(event);
	}

	async function up(): Promise<void> {
		scrubbing = false;
		const done = dragged;
		if (done && done.byFlicks !== 0 && done.ids.length > 0)
			await shoot.edit({ kind: 'shift-clips', clipIds: done.ids, byFlicks: done.byFlicks });
		dragged = undefined;
	}

	/** Moments that may meet: of what is dragged, and of all that stands; gathered once a drag. */
	function momentsOf(ids: readonly string[]) {
		const moments = (clip: PlacedClip) => [
			clip.placement.startFlicks,
			placedEnd(clip),
			...[...clip.sharpSounds, ...clip.syncPoints.map((point) => point.mediaFlicks)].map((flicks) =>
				toTimeline(clip.placement, flicks)
			)
		];
		const sorted = (times: readonly number[]) => [...times].sort((a, b) => a - b);
		const markers = shoot.shoot.markers.filter((one) => one.lineUpId === shoot.lineUpId).map((one) => one.atFlicks);
		return {
			own: sorted(sounding.filter((clip) => ids.includes(clip.id)).flatMap(moments)),
			still: sorted([
				...sounding.filter((clip) => !ids.includes(clip.id)).flatMap(moments),
				...markers,
				transport.shownFlicks
			])
		};
	}

	/** Where what is dragged comes to rest: on a sharp sound, a marker, a start, or the playhead. */
	function restOf(byFlicks: number, { own, still }: ReturnType<typeof momentsOf>) {
		const rounded = Math.round(byFlicks);
		return proof.snaps ? snapShift(rounded, own, still, SNAP_PIXELS * view.flicksPerPixel) : { byFlicks: rounded };
	}

	/** Who the clip under the pointer is, and how sure its place. */
	function words({ name, placement }: PlacedClip): string {
		const by = `${name}: by ${methodWords(placement.method)}`;
		const moved = placement.byHand && placement.method === 'audio' ? ', then moved by hand' : '';
		const locked = placement.isLocked ? ', locked' : '';
		if (placement.method !== 'audio') return `${by}${locked}`;
		const residual = millisecondsWords(placement.residualSeconds);
		// What was moved by hand has no confidence of the engine's.
		const confidence = placement.byHand ? '' : `, confidence ${(placement.confidence * 100).toFixed(1)}%`;
		return `${by}${confidence}, residual ${residual}${moved}${locked}`;
	}

	/** Two fingers: what lies under them stays under them. */
	const fingers = new Map<number, number>();
	function touch(event: PointerEvent): boolean {
		if (event.pointerType !== 'touch') return false;
		const before = [...fingers.values()];
		fingers.set(event.pointerId, xIn(event));
		const after = [...fingers.values()];
		if (before.length < 2 || after.length !== 2) return after.length > 1;
		const spread = (xs: readonly number[]) => Math.max(10, Math.abs(xs[0]! - xs[1]!));
		const middle = (xs: readonly number[]) => (xs[0]! + xs[1]!) / 2;
		view.pan(middle(before) - middle(after));
		view.zoom(spread(before) / spread(after), middle(after), whole);
		return true;
	}
</script>

<svelte:window
	onkeydowncapture={(event) => {
		if (event.key !== 'Escape' || !dragged) return;
		dragged = undefined;
		event.stopPropagation();
	}}
/>

<!-- The pointer works here; the same is done by keys from anywhere (see the sheet of keys). -->
<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
	class="relative touch-none"
	class:cursor-crosshair={!proof.drags || listening.stage !== 'prove'}
	class:cursor-grab={proof.drags && listening.stage === 'prove'}
	style:height="{height}px"
	title={hovered && !dragged ? words(hovered) : undefined}
	onpointerdown={(event) => {
		if (!touch(event)) down(event);
	}}
	onpointermove={(event) => {
		if (!fingers.has(event.pointerId) || !touch(event)) move(event);
	}}
	onpointerup={(event) => {
		fingers.delete(event.pointerId);
		void up();
	}}
	onpointercancel={(event) => {
		fingers.delete(event.pointerId);
		dragged = undefined;
	}}
>
	<canvas bind:this={canvas} class="block h-full w-full" data-testid="waves" aria-label="Waveforms of all devices"
	></canvas>
	{#if dragged}
		{#if dragged.ontoFlicks !== undefined}<div
				class="pointer-events-none absolute top-0 bottom-0 w-px bg-ink"
				style:left="{view.x(dragged.ontoFlicks)}px"
			></div>{/if}
		<span
			class="times pointer-events-none absolute top-1 rounded border border-line bg-surface px-1.5 text-xs"
			style:left="{Math.max(4, Math.min(view.width - 130, view.x(dragged.grabbedFlicks + dragged.byFlicks)))}px"
			>{(1000 * flicksToSeconds(dragged.byFlicks)).toFixed(2)} ms{dragged.ontoFlicks === undefined
				? ''
				: ' · snapped'}</span
		>
	{/if}
</div>
