<script lang="ts">
	import { Eye } from '@lucide/svelte';
	import { onMount } from 'svelte';
	import { type PlacedClip, placedEnd } from '../../core/shoot/shoot';
	import { flicksPerFrame } from '../../core/time/flicks';
	import { millisecondsWords, timecodeWords } from '../controls/words';
	import { useTransport } from '../playback/transport.svelte';
	import { useShoot } from '../state/shoot-state.svelte';
	import { drawLane, type Mapping, rulerTicks, type ScoreColours } from './draw-score';
	import LaneHead from './LaneHead.svelte';
	import { PeakStore } from './peak-store';
	import ProgramLane from './ProgramLane.svelte';
	import { useScoreView } from './score-view.svelte';
	import SmallButton from './SmallButton.svelte';
	import StrayShelf from './StrayShelf.svelte';

	const shoot = useShoot();
	const transport = useTransport();
	const view = useScoreView();

	const RULER = 22;
	const OVERVIEW = 16;
	const PROGRAM = 26;
	const SHELF = 34;
	const LEAST_LANE = 21;
	const MOST_LANE = 64;

	let height = $state(0);
	let lanesCanvas = $state<HTMLCanvasElement>();
	let overviewCanvas = $state<HTMLCanvasElement>();
	let arrivals = $state(0);
	let theme = $state(0);
	let hidden = $state.raw<ReadonlySet<string>>(new Set());
	let hovered = $state.raw<PlacedClip>();
	let dragging = $state.raw<'playhead' | 'overview'>();
	const peaks = new PeakStore(() => arrivals++);

	const devices = $derived(
		shoot.shoot.devices.filter((device) => shoot.placed.some((clip) => clip.deviceId === device.id))
	);
	const shown = $derived(devices.filter((device) => !hidden.has(device.id)));
	const programHeight = $derived(shoot.program ? PROGRAM : 0);
	const laneHeight = $derived(
		Math.max(
			LEAST_LANE,
			Math.min(
				MOST_LANE,
				Math.floor(
					(height - RULER - OVERVIEW - programHeight - (shoot.strays.length > 0 ? SHELF : 0) - 4) /
						Math.max(1, shown.length)
				)
			)
		)
	);
	const lanesHeight = $derived(laneHeight * shown.length);
	const whole = $derived(shoot.range.outFlicks - shoot.range.inFlicks);
	const mapping: Mapping = $derived({
		startFlicks: view.startFlicks,
		flicksPerPixel: view.flicksPerPixel,
		width: view.width
	});
	const ticks = $derived(
		rulerTicks(mapping, (flicks) => timecodeWords(flicks, shoot.shoot.rate), flicksPerFrame(shoot.shoot.rate))
	);

	$effect(() => view.fitOnce(shoot.range.inFlicks, shoot.range.outFlicks));
	$effect(() => {
		if (transport.playing) view.reveal(transport.shownFlicks);
	});

	onMount(() => {
		const watcher = new MutationObserver(() => theme++);
		watcher.observe(document.documentElement, { attributes: true, attributeFilter: ['class'] });
		return () => watcher.disconnect();
	});

	function colours(): ScoreColours {
		const style = getComputedStyle(document.documentElement);
		const of = (name: string) => style.getPropertyValue(name).trim();
		return {
			ground: of('--ground'),
			surface: of('--surface'),
			line: of('--line'),
			ink: of('--ink'),
			quiet: of('--quiet'),
			accent: of('--accent')
		};
	}

	function hueOf(deviceId: string): string {
		const name = /var\((--hue-\d)\)/.exec(shoot.hue(deviceId))![1]!;
		return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
	}

	/** Size of a canvas in real picture points; drawn once a frame at most. */
	function prepare(canvas: HTMLCanvasElement, width: number, canvasHeight: number): CanvasRenderingContext2D {
		const ratio = devicePixelRatio;
		if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(canvasHeight * ratio)) {
			canvas.width = Math.round(width * ratio);
			canvas.height = Math.round(canvasHeight * ratio);
		}
		const context = canvas.getContext('2d')!;
		context.setTransform(ratio, 0, 0, ratio, 0, 0);
		context.clearRect(0, 0, width, canvasHeight);
		return context;
	}

	$effect(() => {
		const canvas = lanesCanvas;
		if (!canvas || view.width <= 0 || lanesHeight <= 0) return;
		// What the picture depends on, read here so that a change asks for a new one.
		const wanted = {
			mapping,
			scale: view.waveScale,
			lanes: shown,
			placed: shoot.placed,
			selected: shoot.selectedClipId,
			arrivals,
			theme,
			h: laneHeight
		};
		const frame = requestAnimationFrame(() => {
			const context = prepare(canvas, view.width, lanesHeight);
			const palette = colours();
			for (const [index, device] of wanted.lanes.entries()) {
				context.fillStyle = palette.line;
				context.fillRect(0, (index + 1) * wanted.h - 0.5, view.width, 0.5);
				drawLane(
					context,
					{
						y: index * wanted.h,
						height: wanted.h,
						hue: hueOf(device.id),
						clips: wanted.placed.filter((clip) => clip.deviceId === device.id)
					},
					wanted.mapping,
					peaks,
					wanted.scale,
					palette,
					wanted.selected
				);
			}
		});
		return () => cancelAnimationFrame(frame);
	});

	$effect(() => {
		const canvas = overviewCanvas;
		if (!canvas || view.width <= 0 || whole <= 0) return;
		const wanted = { mapping, placed: shoot.placed, lanes: shown, theme };
		const frame = requestAnimationFrame(() => {
			const context = prepare(canvas, view.width, OVERVIEW);
			const palette = colours();
			const scale = view.width / whole;
			const row = (OVERVIEW - 2) / Math.max(1, wanted.lanes.length);
			for (const [index, device] of wanted.lanes.entries()) {
				context.fillStyle = hueOf(device.id);
				for (const clip of wanted.placed.filter((one) => one.deviceId === device.id)) {
					context.fillRect(
						(clip.placement.startFlicks - shoot.range.inFlicks) * scale,
						1 + index * row,
						Math.max(1, (placedEnd(clip) - clip.placement.startFlicks) * scale),
						Math.max(1, row - 0.6)
					);
				}
			}
			context.strokeStyle = palette.ink;
			context.lineWidth = 1.5;
			context.strokeRect(
				(wanted.mapping.startFlicks - shoot.range.inFlicks) * scale,
				0.75,
				Math.max(3, view.width * wanted.mapping.flicksPerPixel * scale),
				OVERVIEW - 1.5
			);
		});
		return () => cancelAnimationFrame(frame);
	});

	function wheel(event: WheelEvent): void {
		event.preventDefault();
		const x = event.clientX - (event.currentTarget as HTMLElement).getBoundingClientRect().left;
		if (event.altKey) view.waveScale = Math.max(0.5, Math.min(64, view.waveScale * Math.exp(-event.deltaY * 0.002)));
		else if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) view.pan(event.deltaX || event.deltaY);
		else view.zoom(Math.exp(event.deltaY * 0.0022), x, whole);
	}

	function xIn(event: PointerEvent): number {
		return event.clientX - (event.currentTarget as HTMLElement).getBoundingClientRect().left;
	}

	function clipUnder(event: PointerEvent): PlacedClip | undefined {
		const y = event.clientY - (event.currentTarget as HTMLElement).getBoundingClientRect().top;
		const device = shown[Math.floor(y / laneHeight)];
		const flicks = view.flicksAt(xIn(event));
		return shoot.placed.find(
			(one) => one.deviceId === device?.id && flicks >= one.placement.startFlicks && flicks < placedEnd(one)
		);
	}

	function laneDown(event: PointerEvent): void {
		const clip = clipUnder(event);
		if (clip) shoot.selectedClipId = clip.id;
		scrubFrom(event);
	}

	/** Who the clip under the pointer is, and how sure its place. */
	function laneMove(event: PointerEvent): void {
		if (dragging) drag(event);
		else hovered = clipUnder(event);
	}

	function words({ name, placement }: PlacedClip): string {
		if (placement.method === 'sync point') return `${name}: placed by a sync point`;
		const residual = millisecondsWords(placement.residualSeconds);
		const sure = `confidence ${(placement.confidence * 100).toFixed(1)}%, residual ${residual}`;
		return `${name}: by sound, ${sure}${placement.byHand ? ', then moved by hand' : ''}`;
	}

	function scrubFrom(event: PointerEvent): void {
		(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
		dragging = 'playhead';
		transport.goTo(view.flicksAt(xIn(event)));
	}

	function drag(event: PointerEvent): void {
		if (dragging === 'playhead') transport.goTo(view.flicksAt(xIn(event)));
		else if (dragging === 'overview') centre(event);
	}

	function drop(): void {
		dragging = undefined;
	}

	function centre(event: PointerEvent): void {
		view.startFlicks =
			shoot.range.inFlicks + (xIn(event) / view.width) * whole - (view.width * view.flicksPerPixel) / 2;
	}
</script>

<section class="flex h-full flex-col border-t border-line bg-ground" aria-label="Score" bind:clientHeight={height}>
	{#if shoot.placed.length === 0}
		<p class="m-auto max-w-md p-4 text-center text-quiet">
			{#if shoot.shoot.clips.length === 0}The score fills as the files are read.{:else}Nothing is lined up yet. Go to <a
					class="text-accent underline"
					href="/shoots/{shoot.shootId}/line-up">Line up</a
				> and press the button.{/if}
		</p>
	{:else}
		<div class="flex min-h-0 flex-1 overflow-y-auto">
			<div class="w-60 shrink-0 overflow-hidden border-r border-line">
				<div class="flex items-center gap-1 px-2 text-xs text-quiet" style:height="{RULER}px">
					{#if hidden.size > 0}<button class="text-accent underline" onclick={() => (hidden = new Set())}
							>Show {hidden.size} hidden</button
						>{:else}<span class="whitespace-nowrap">{devices.length} lanes</span>{/if}
					<span class="ml-auto flex gap-0.5">
						<SmallButton label="Zoom out (−)" onclick={() => view.zoom(1.6, view.x(transport.shownFlicks), whole)}
							>−</SmallButton
						>
						<SmallButton label="Show all (0)" onclick={() => view.fit(shoot.range.inFlicks, shoot.range.outFlicks)}
							>all</SmallButton
						>
						<SmallButton label="Zoom in (+)" onclick={() => view.zoom(1 / 1.6, view.x(transport.shownFlicks), whole)}
							>+</SmallButton
						>
						<SmallButton label="Lower waveforms" onclick={() => (view.waveScale = Math.max(0.5, view.waveScale / 1.5))}
							>↕−</SmallButton
						>
						<SmallButton label="Taller waveforms" onclick={() => (view.waveScale = Math.min(64, view.waveScale * 1.5))}
							>↕+</SmallButton
						>
					</span>
				</div>
				{#if shoot.program}<div class="flex items-center px-2 text-xs font-semibold" style:height="{PROGRAM}px">
						Program
					</div>{/if}
				{#each shown as device (device.id)}
					<LaneHead {device} height={laneHeight} onhide={() => (hidden = new Set([...hidden, device.id]))} />
				{/each}
			</div>
			<!-- The pointer works here; the same is done by keys from anywhere (see the sheet of keys). -->
			<!-- svelte-ignore a11y_no_static_element_interactions -->
			<div
				class="relative min-w-0 flex-1 overflow-hidden"
				bind:clientWidth={view.width}
				onwheel={wheel}
				data-testid="score-lanes"
			>
				<!-- svelte-ignore a11y_no_static_element_interactions -->
				<div
					class="times relative cursor-pointer overflow-hidden text-[11px] text-quiet select-none"
					style:height="{RULER}px"
					onpointerdown={scrubFrom}
					onpointermove={drag}
					onpointerup={drop}
				>
					{#each ticks as tick (tick.text)}<span
							class="absolute top-1 h-full border-l border-line pl-1"
							style:left="{tick.x}px">{tick.text}</span
						>{/each}
				</div>
				{#if shoot.program}<ProgramLane height={PROGRAM} />{/if}
				<!-- svelte-ignore a11y_no_static_element_interactions -->
				<div
					class="cursor-crosshair"
					style:height="{lanesHeight}px"
					title={hovered ? words(hovered) : undefined}
					onpointerdown={laneDown}
					onpointermove={laneMove}
					onpointerup={drop}
				>
					<canvas bind:this={lanesCanvas} class="block h-full w-full" aria-label="Waveforms of all devices"></canvas>
				</div>
				<div
					class="pointer-events-none absolute top-0 bottom-0 left-0 w-px bg-accent will-change-transform"
					style:transform="translateX({Math.round(view.x(transport.shownFlicks))}px)"
					data-testid="playhead"
					data-flicks={transport.shownFlicks}
				>
					<span class="absolute -left-1 block h-2 w-2 rotate-45 bg-accent"></span>
				</div>
			</div>
		</div>
		<StrayShelf />
		<div class="flex shrink-0 items-stretch">
			<div class="flex w-60 items-center gap-1 px-2 text-[11px] text-quiet"><Eye size={12} /> whole line-up</div>
			<!-- svelte-ignore a11y_no_static_element_interactions -->
			<div
				class="min-w-0 flex-1 cursor-pointer"
				style:height="{OVERVIEW}px"
				onpointerdown={(event) => {
					event.currentTarget.setPointerCapture(event.pointerId);
					dragging = 'overview';
					centre(event);
				}}
				onpointermove={drag}
				onpointerup={drop}
			>
				<canvas bind:this={overviewCanvas} class="block h-full w-full" aria-hidden="true"></canvas>
			</div>
		</div>
	{/if}
</section>
