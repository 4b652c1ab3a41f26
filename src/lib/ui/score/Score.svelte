<script lang="ts">
	import { Eye, EyeOff, Volume2, VolumeX } from '@lucide/svelte';
	import { onMount } from 'svelte';
	import { type PlacedClip, placedEnd } from '../../core/shoot/shoot';
	import { flicksPerFrame } from '../../core/time/flicks';
	import { ppmWords, timecodeWords } from '../controls/words';
	import { useTransport } from '../playback/transport.svelte';
	import { useListening } from '../state/listening.svelte';
	import { useShoot } from '../state/shoot-state.svelte';
	import { drawLane, type Mapping, rulerTicks, type ScoreColours } from './draw-score';
	import { PeakStore } from './peak-store';
	import { useScoreView } from './score-view.svelte';

	const shoot = useShoot();
	const transport = useTransport();
	const listening = useListening();
	const view = useScoreView();

	const RULER = 22;
	const OVERVIEW = 16;
	const PROGRAM = 26;
	const LEAST_LANE = 26;
	const MOST_LANE = 64;

	let height = $state(0);
	let lanesCanvas = $state<HTMLCanvasElement>();
	let overviewCanvas = $state<HTMLCanvasElement>();
	let arrivals = $state(0);
	let theme = $state(0);
	let hidden = $state.raw<ReadonlySet<string>>(new Set());
	let dragging = $state.raw<{ kind: 'playhead' } | { kind: 'call'; callId: string; flicks: number } | { kind: 'overview' }>();
	const peaks = new PeakStore(() => arrivals++);

	const devices = $derived(shoot.shoot.devices.filter((device) => shoot.placed.some((clip) => clip.deviceId === device.id)));
	const shown = $derived(devices.filter((device) => !hidden.has(device.id)));
	const programHeight = $derived(shoot.program ? PROGRAM : 0);
	const laneHeight = $derived(Math.max(LEAST_LANE, Math.min(MOST_LANE, Math.floor((height - RULER - OVERVIEW - programHeight - 4) / Math.max(1, shown.length)))));
	const lanesHeight = $derived(laneHeight * shown.length);
	const whole = $derived(shoot.range.outFlicks - shoot.range.inFlicks);
	const mapping: Mapping = $derived({ startFlicks: view.startFlicks, flicksPerPixel: view.flicksPerPixel, width: view.width });
	const ticks = $derived(rulerTicks(mapping, (flicks) => timecodeWords(flicks, shoot.shoot.rate), flicksPerFrame(shoot.shoot.rate)));

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
		return { ground: of('--ground'), surface: of('--surface'), line: of('--line'), ink: of('--ink'), quiet: of('--quiet'), accent: of('--accent') };
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
		const wanted = { mapping, scale: view.waveScale, lanes: shown, placed: shoot.placed, selected: shoot.selectedClipId, arrivals, theme, h: laneHeight };
		const frame = requestAnimationFrame(() => {
			const context = prepare(canvas, view.width, lanesHeight);
			const palette = colours();
			for (const [index, device] of wanted.lanes.entries()) {
				context.fillStyle = palette.line;
				context.fillRect(0, (index + 1) * wanted.h - 0.5, view.width, 0.5);
				drawLane(context, { y: index * wanted.h, height: wanted.h, hue: hueOf(device.id), clips: wanted.placed.filter((clip) => clip.deviceId === device.id), dimmed: false }, wanted.mapping, peaks, wanted.scale, palette, wanted.selected);
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
					context.fillRect((clip.placement.startFlicks - shoot.range.inFlicks) * scale, 1 + index * row, Math.max(1, (placedEnd(clip) - clip.placement.startFlicks) * scale), Math.max(1, row - 0.6));
				}
			}
			context.strokeStyle = palette.ink;
			context.lineWidth = 1.5;
			context.strokeRect((wanted.mapping.startFlicks - shoot.range.inFlicks) * scale, 0.75, Math.max(3, view.width * wanted.mapping.flicksPerPixel * scale), OVERVIEW - 1.5);
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

	function laneDown(event: PointerEvent): void {
		const x = xIn(event);
		const y = event.clientY - (event.currentTarget as HTMLElement).getBoundingClientRect().top;
		const device = shown[Math.floor(y / laneHeight)];
		const flicks = view.flicksAt(x);
		const clip = shoot.placed.find((one: PlacedClip) => one.deviceId === device?.id && flicks >= one.placement.startFlicks && flicks < placedEnd(one));
		if (clip) shoot.selectedClipId = clip.id;
		scrubFrom(event);
	}

	function scrubFrom(event: PointerEvent): void {
		(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
		dragging = { kind: 'playhead' };
		transport.goTo(view.flicksAt(xIn(event)));
	}

	function drag(event: PointerEvent): void {
		if (dragging?.kind === 'playhead') transport.goTo(view.flicksAt(xIn(event)));
		else if (dragging?.kind === 'call') dragging = { ...dragging, flicks: view.flicksAt(xIn(event)) };
		else if (dragging?.kind === 'overview') centre(event);
	}

	async function drop(): Promise<void> {
		const done = dragging;
		dragging = undefined;
		if (done?.kind === 'call' && shoot.lineUpId) await shoot.edit({ kind: 'move-call', lineUpId: shoot.lineUpId, callId: done.callId, atFlicks: Math.round(done.flicks) });
	}

	function centre(event: PointerEvent): void {
		view.startFlicks = shoot.range.inFlicks + (xIn(event) / view.width) * whole - (view.width * view.flicksPerPixel) / 2;
	}

	function shotX(callId: string, flicks: number): number {
		return view.x(dragging?.kind === 'call' && dragging.callId === callId ? dragging.flicks : flicks);
	}
</script>

<section class="border-line bg-ground flex h-full flex-col border-t" aria-label="Score" bind:clientHeight={height}>
	{#if shoot.placed.length === 0}
		<p class="text-quiet m-auto max-w-md p-4 text-center">
			{#if shoot.shoot.clips.length === 0}The score fills as the files are read.{:else}Nothing is lined up yet. Go to <a class="text-accent underline" href="/shoots/{shoot.shootId}/line-up">Line up</a> and press the button.{/if}
		</p>
	{:else}
		<div class="flex min-h-0 flex-1">
			<div class="border-line w-52 shrink-0 overflow-hidden border-r">
				<div class="text-quiet flex items-center gap-1 px-2 text-xs" style:height="{RULER}px">
					{#if hidden.size > 0}<button class="text-accent underline" onclick={() => (hidden = new Set())}>Show {hidden.size} hidden</button>{:else}{devices.length} devices{/if}
					<span class="ml-auto flex gap-0.5">
						<button class="small" aria-label="Zoom out" title="Zoom out (−)" onclick={() => view.zoom(1.6, view.x(transport.shownFlicks), whole)}>−</button>
						<button class="small" aria-label="Show all" title="Show all" onclick={() => view.fit(shoot.range.inFlicks, shoot.range.outFlicks)}>all</button>
						<button class="small" aria-label="Zoom in" title="Zoom in (+)" onclick={() => view.zoom(1 / 1.6, view.x(transport.shownFlicks), whole)}>+</button>
						<button class="small" aria-label="Lower waveforms" title="Lower waveforms" onclick={() => (view.waveScale = Math.max(0.5, view.waveScale / 1.5))}>↕−</button>
						<button class="small" aria-label="Taller waveforms" title="Taller waveforms" onclick={() => (view.waveScale = Math.min(64, view.waveScale * 1.5))}>↕+</button>
					</span>
				</div>
				{#if shoot.program}<div class="flex items-center px-2 text-xs font-semibold" style:height="{PROGRAM}px">Program</div>{/if}
				{#each shown as device (device.id)}
					{@const rate = shoot.placed.find((clip) => clip.deviceId === device.id)?.placement.ratePpm ?? 0}
					{@const sounds = shoot.placed.some((clip) => clip.deviceId === device.id && clip.parts.some((part) => part.sound))}
					<div class="flex items-center gap-1.5 px-2" style:height="{laneHeight}px" data-testid="lane-{device.badge}">
						<span class="badge" style:--hue={shoot.hue(device.id)}>{device.badge}</span>
						<span class="min-w-0 flex-1 leading-tight">
							<span class="block truncate text-sm">{device.name}</span>
							{#if laneHeight >= 38}<span class="times text-quiet block truncate text-[11px]">{device.id === shoot.shoot.lineUps.find((one) => one.id === shoot.lineUpId)?.referenceDeviceId ? 'reference clock' : ppmWords(rate)}</span>{/if}
						</span>
						{#if listening.stage === 'prove' && sounds}
							<button class="small" class:chosen={!listening.isHeard(device.id)} aria-pressed={listening.isMuted(device.id)} aria-label="Mute {device.name}" title="Mute" onclick={() => listening.toggleMute(device.id)}>{#if listening.isHeard(device.id)}<Volume2 size={13} />{:else}<VolumeX size={13} />{/if}</button>
							<button class="small" class:chosen={listening.isSoloed(device.id)} aria-pressed={listening.isSoloed(device.id)} aria-label="Only {device.name}" title="Hear only this" onclick={() => listening.toggleSolo(device.id)}>solo</button>
						{/if}
						<button class="small" aria-label="Hide {device.name}" title="Hide the lane (for the eye only)" onclick={() => (hidden = new Set([...hidden, device.id]))}><EyeOff size={13} /></button>
					</div>
				{/each}
			</div>
			<!-- The pointer works here; the same is done by keys from anywhere (see the sheet of keys). -->
			<!-- svelte-ignore a11y_no_static_element_interactions -->
			<div class="relative min-w-0 flex-1 overflow-hidden" bind:clientWidth={view.width} onwheel={wheel} data-testid="score-lanes">
				<!-- svelte-ignore a11y_no_static_element_interactions -->
				<div class="times text-quiet relative cursor-pointer overflow-hidden text-[11px] select-none" style:height="{RULER}px" onpointerdown={scrubFrom} onpointermove={drag} onpointerup={drop}>
					{#each ticks as tick (tick.text)}<span class="border-line absolute top-1 h-full border-l pl-1" style:left="{tick.x}px">{tick.text}</span>{/each}
				</div>
				{#if shoot.program}
					<!-- svelte-ignore a11y_no_static_element_interactions -->
					<div class="relative overflow-hidden" style:height="{PROGRAM}px" onpointermove={drag} onpointerup={drop} data-testid="program-lane">
						{#each shoot.shots as shot, index (shot.callId)}
							{@const device = shoot.device(shot.deviceId)}
							{@const next = shoot.shots[index + 1]}
							{@const from = shotX(shot.callId, shot.inFlicks)}
							{@const to = next ? shotX(next.callId, next.inFlicks) : view.x(shot.outFlicks)}
							<button
								class="shot absolute top-0.5 flex h-[22px] items-center gap-1 overflow-hidden rounded-sm border px-1 text-xs"
								class:chosen-shot={shoot.selectedCallId === shot.callId}
								style:--hue={shoot.hue(shot.deviceId)}
								style:left="{from}px"
								style:width="{Math.max(2, to - from)}px"
								aria-label="Shot {index + 1}: {device?.badge} {device?.name}, from {timecodeWords(shot.inFlicks, shoot.shoot.rate)}"
								aria-pressed={shoot.selectedCallId === shot.callId}
								data-testid="shot"
								data-angle={device?.badge}
								data-in={shot.inFlicks}
								onclick={() => {
									shoot.selectedCallId = shot.callId;
									if (!transport.playing) transport.goTo(shot.inFlicks);
								}}
							>
								<span class="badge">{device?.badge}</span>{#if to - from > 90}<span class="truncate">{device?.name}</span>{/if}
							</button>
							{#if index > 0}
								<!-- svelte-ignore a11y_no_static_element_interactions -->
								<span
									class="absolute top-0 h-full w-2 -translate-x-1 cursor-ew-resize"
									style:left="{from}px"
									title="Drag to move this call"
									onpointerdown={(event) => {
										event.stopPropagation();
										(event.currentTarget.parentElement as HTMLElement).setPointerCapture(event.pointerId);
										shoot.selectedCallId = shot.callId;
										dragging = { kind: 'call', callId: shot.callId, flicks: shot.inFlicks };
									}}
								></span>
							{/if}
						{/each}
					</div>
				{/if}
				<!-- svelte-ignore a11y_no_static_element_interactions -->
				<div class="cursor-crosshair" style:height="{lanesHeight}px" onpointerdown={laneDown} onpointermove={drag} onpointerup={drop}>
					<canvas bind:this={lanesCanvas} class="block h-full w-full" aria-label="Waveforms of all devices"></canvas>
				</div>
				<div class="bg-accent pointer-events-none absolute top-0 bottom-0 w-px" style:left="{view.x(transport.shownFlicks)}px" data-testid="playhead" data-flicks={transport.shownFlicks}><span class="bg-accent absolute -left-1 block h-2 w-2 rotate-45"></span></div>
			</div>
		</div>
		<div class="flex shrink-0 items-stretch">
			<div class="text-quiet flex w-52 items-center gap-1 px-2 text-[11px]"><Eye size={12} /> whole line-up</div>
			<!-- svelte-ignore a11y_no_static_element_interactions -->
			<div
				class="min-w-0 flex-1 cursor-pointer"
				style:height="{OVERVIEW}px"
				onpointerdown={(event) => {
					event.currentTarget.setPointerCapture(event.pointerId);
					dragging = { kind: 'overview' };
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

<style>
	.small {
		display: inline-grid;
		place-content: center;
		min-width: 22px;
		height: 20px;
		padding: 0 3px;
		border: 1px solid var(--line);
		border-radius: 4px;
		background: var(--surface);
		color: var(--quiet);
		font-size: 11px;
		cursor: pointer;
	}
	.small:hover {
		color: var(--ink);
		border-color: var(--accent);
	}
	.chosen {
		background: var(--accent-fill);
		color: var(--on-accent);
	}
	.shot {
		background: color-mix(in srgb, var(--hue) 22%, var(--surface));
		border-color: var(--hue);
		cursor: pointer;
	}
	.chosen-shot {
		outline: 2px solid var(--accent);
		outline-offset: -2px;
		font-weight: 600;
	}
</style>
