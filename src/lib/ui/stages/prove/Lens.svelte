<script lang="ts">
	import { scaleLinear } from 'd3-scale';
	import { area, line } from 'd3-shape';
	import { onMount } from 'svelte';
	import { asSound } from '../../../core/shoot/air-delay';
	import type { PlacedClip } from '../../../core/shoot/clip';
	import { flicksPerFrame, FLICKS_PER_SECOND, secondsToFlicks } from '../../../core/time/flicks';
	import { useTransport } from '../../playback/transport.svelte';
	import { colourOf, onThemeChange, prepareCanvas, themeColours } from '../../score/canvas-tools';
	import { drawWave } from '../../score/draw-score';
	import { usePeaks } from '../../score/peak-store.svelte';
	import { useProof } from '../../state/proof-state.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';

	/** Two clips laid over each other around the playhead, and how well they agree at every lag. */
	const shoot = useShoot();
	const transport = useTransport();
	const proof = useProof();
	const peaks = usePeaks();

	const WIDTHS = [0.05, 0.2, 0.5, 1, 2, 5, 10];
	const REACHES = [0.02, 0.05, 0.25, 1];
	/** The engine measures again when the playhead has stood still for so long. */
	const SETTLED_MS = 200;
	const CURVE_HEIGHT = 96;
	/** A click means the peak that is this near, in points of the screen. */
	const CLICK_PIXELS = 14;

	let canvas = $state<HTMLCanvasElement>();
	let width = $state(0);
	let height = $state(0);
	let theme = $state(0);

	const clip = $derived(proof.clip);
	const onto = $derived(proof.onto);
	const key = $derived(proof.keyOf(transport.shownFlicks));
	const finding = $derived(proof.findingKey === key ? proof.finding : undefined);
	const frameMs = $derived((1000 * flicksPerFrame(shoot.shoot.rate)) / FLICKS_PER_SECOND);

	onMount(() => onThemeChange(() => theme++));

	$effect(() => {
		if (!key || !clip || !onto || transport.playing) return;
		const at = transport.shownFlicks;
		const timer = setTimeout(() => void proof.measure(at), SETTLED_MS);
		return () => clearTimeout(timer);
	});

	$effect(() => {
		const target = canvas;
		if (!target || width <= 0 || height <= 0) return;
		const flicksPerPixel = secondsToFlicks(proof.lensSeconds) / width;
		const wanted = {
			clips: [onto, clip].filter((one): one is PlacedClip => one !== undefined).map(asSound),
			view: { startFlicks: transport.shownFlicks - (flicksPerPixel * width) / 2, flicksPerPixel, width },
			arrivals: peaks.arrivals,
			theme
		};
		const frame = requestAnimationFrame(() => {
			const context = prepareCanvas(target, width, height);
			const palette = themeColours();
			context.fillStyle = palette.line;
			context.fillRect(0, height / 2 - 0.5, width, 1);
			for (const [index, one] of wanted.clips.entries()) {
				// The one below shows through.
				context.globalAlpha = index === 0 ? 0.9 : 0.6;
				const lane = { y: 0, height, hue: colourOf(shoot.hue(one.deviceId)), clips: [one] };
				drawWave(context, lane, one, wanted.view, peaks.store, 1);
			}
			context.globalAlpha = 1;
			context.fillStyle = palette.accent;
			context.fillRect(width / 2 - 0.5, 0, 1, height);
		});
		return () => cancelAnimationFrame(frame);
	});

	const x = $derived(
		scaleLinear()
			.domain([
				-(finding?.reachSeconds ?? proof.reachSeconds) * 1000,
				(finding?.reachSeconds ?? proof.reachSeconds) * 1000
			])
			.range([8, Math.max(9, width - 8)])
	);
	const y = $derived(
		scaleLinear()
			.domain([0, Math.max(8, 1.1 * (finding?.peak.height ?? 8))])
			.range([CURVE_HEIGHT - 16, 6])
	);
	/** As many points as the screen has, the greatest of those that share one. */
	const points = $derived.by(() => {
		if (!finding) return [];
		const { curve, reachSeconds } = finding;
		const each = Math.max(1, Math.floor(curve.length / Math.max(1, 2 * width)));
		const out: { readonly lagMs: number; readonly value: number }[] = [];
		for (let from = 0; from < curve.length; from += each) {
			let best = from;
			for (let i = from; i < Math.min(curve.length, from + each); i++)
				if (Math.abs(curve[i]!) > Math.abs(curve[best]!)) best = i;
			const lagMs = 1000 * ((best / (curve.length - 1)) * 2 - 1) * reachSeconds;
			out.push({ lagMs, value: Math.abs(curve[best]!) });
		}
		return out;
	});
	interface Point {
		readonly lagMs: number;
		readonly value: number;
	}
	const outline = $derived(
		line<Point>(
			(point) => x(point.lagMs),
			(point) => y(point.value)
		)([...points])
	);
	const filled = $derived(
		area<Point>()
			.x((point) => x(point.lagMs))
			.y0(y(0))
			.y1((point) => y(point.value))([...points])
	);
	const ticks = $derived(x.ticks(7));

	function lagWords(seconds: number): string {
		const side = seconds > 0 ? 'late' : 'early';
		const ms = Math.abs(1000 * seconds);
		const samples = Math.round(Math.abs(seconds) * 48_000);
		return `${ms.toFixed(2)} ms ${side} · ${samples} samples · ${(ms / frameMs).toFixed(2)} frames`;
	}

	/** Takes the lag of the peak that was clicked: the nearest high point of the curve. */
	function takeAt(event: MouseEvent): void {
		if (!finding) return;
		const at = event.clientX - (event.currentTarget as Element).getBoundingClientRect().left;
		const near = points.filter((point) => Math.abs(x(point.lagMs) - at) <= CLICK_PIXELS);
		const best = near.reduce<Point | undefined>(
			(one, other) => (one && one.value >= other.value ? one : other),
			undefined
		);
		if (!best) return;
		// The two that were measured between the samples, or the curve's own point.
		const measured = [finding.peak, finding.runnerUp].find(
			(peak) => Math.abs(1000 * peak.lagSeconds - best.lagMs) < 0.3
		);
		const lagSeconds = measured?.lagSeconds ?? best.lagMs / 1000;
		void proof.fit(-secondsToFlicks(lagSeconds * (1 + (clip?.placement.ratePpm ?? 0) * 1e-6)));
	}

	function wheel(event: WheelEvent): void {
		event.preventDefault();
		const at = WIDTHS.findIndex((one) => one >= proof.lensSeconds);
		proof.lensSeconds = WIDTHS[Math.max(0, Math.min(WIDTHS.length - 1, at + Math.sign(event.deltaY)))]!;
	}
</script>

{#if !clip}
	<p class="m-auto max-w-xs p-4 text-center text-quiet">
		Choose a clip in the score, with the pointer or with ↑ ↓, to hold it against another one.
	</p>
{:else}
	<div class="flex h-full min-h-0 flex-col gap-1.5">
		<div class="flex items-center gap-1.5 text-sm">
			<span class="badge" style:--hue={shoot.hue(clip.deviceId)}>{shoot.device(clip.deviceId)?.badge}</span>
			<span class="truncate">{clip.name}</span>
			<span class="text-quiet">over</span>
			{#if onto}
				<span class="badge" style:--hue={shoot.hue(onto.deviceId)}>{shoot.device(onto.deviceId)?.badge}</span>
				<select
					class="max-w-40 min-w-0 rounded border border-line bg-surface py-0.5 pr-6 pl-1.5 text-sm"
					aria-label="Held against"
					value={onto.id}
					onchange={(event) => (proof.chosenOntoId = event.currentTarget.value)}
				>
					{#each proof.partners as one (one.id)}<option value={one.id}
							>{shoot.device(one.deviceId)?.badge} · {one.name}</option
						>{/each}
				</select>
			{:else}<span class="text-quiet">nothing that runs at the same time</span>{/if}
			<select
				class="ml-auto rounded border border-line bg-surface py-0.5 pr-6 pl-1.5 text-xs"
				aria-label="Width of the lens"
				value={proof.lensSeconds}
				onchange={(event) => (proof.lensSeconds = Number(event.currentTarget.value))}
			>
				{#each WIDTHS as one (one)}<option value={one}>{one < 1 ? `${1000 * one} ms` : `${one} s`}</option>{/each}
			</select>
		</div>
		<div
			class="min-h-16 flex-1 rounded border border-line bg-ground"
			bind:clientWidth={width}
			bind:clientHeight={height}
			onwheel={wheel}
		>
			<canvas
				bind:this={canvas}
				class="block h-full w-full"
				aria-label="Waveforms of {clip.name} and {onto?.name ?? 'nothing'} over each other"
				data-testid="lens"
			></canvas>
		</div>
		<div class="relative shrink-0" style:height="{CURVE_HEIGHT}px">
			{#if finding}
				<!-- The pointer takes any peak; Enter, or the button below, the highest. -->
				<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
				<svg
					{width}
					height={CURVE_HEIGHT}
					class="cursor-pointer"
					role="img"
					aria-label="Agreement over lags: highest at {lagWords(finding.peak.lagSeconds)}"
					data-testid="lag-curve"
					data-lag={finding.peak.lagSeconds}
					onclick={takeAt}
				>
					{#each ticks as tick (tick)}
						<line x1={x(tick)} x2={x(tick)} y1="4" y2={CURVE_HEIGHT - 14} class="stroke-line" />
						<text x={x(tick)} y={CURVE_HEIGHT - 3} text-anchor="middle" class="times fill-quiet text-[10px]"
							>{tick} ms</text
						>
					{/each}
					<path d={filled} fill={shoot.hue(clip.deviceId)} opacity="0.25" />
					<path d={outline} fill="none" stroke={shoot.hue(clip.deviceId)} stroke-width="1" />
					<line x1={x(0)} x2={x(0)} y1="4" y2={CURVE_HEIGHT - 14} class="stroke-accent" />
					<circle cx={x(1000 * finding.peak.lagSeconds)} cy={y(finding.peak.height)} r="4" class="fill-ink" />
					<circle
						cx={x(1000 * finding.runnerUp.lagSeconds)}
						cy={y(finding.runnerUp.height)}
						r="4"
						fill="none"
						class="stroke-ink"
					/>
				</svg>
			{:else}<p class="p-2 text-sm text-quiet">
					{#if transport.playing}The engine measures when the playhead stands.{:else}{proof.fault ?? 'Measuring…'}{/if}
				</p>{/if}
		</div>
		<div class="flex shrink-0 items-center gap-2 text-sm">
			{#if finding}
				<p class="min-w-0 flex-1 leading-tight" data-testid="finding">
					<span class="times">{lagWords(finding.peak.lagSeconds)}</span><br />
					<span class="text-xs" class:text-attention={!finding.isClear} class:text-quiet={finding.isClear}>
						{#if finding.isSteady}only steady noise here: go to where somebody speaks{:else}{finding.isClear
								? 'clear'
								: 'not clear'}, confidence {(100 * Math.min(0.999, finding.confidence)).toFixed(1)}%: {finding.peak.height.toFixed(
								1
							)} against {finding.runnerUp.height.toFixed(1)}, over {finding.seconds.toFixed(1)} s{/if}
					</span>
				</p>
				<button
					class="take"
					disabled={clip.placement.isLocked}
					onclick={() => proof.fit(finding.byFlicks)}
					data-testid="fit">Fit here</button
				>
			{:else}<span class="flex-1"></span>{/if}
			<select
				class="rounded border border-line bg-surface py-0.5 pr-6 pl-1.5 text-xs"
				aria-label="How far lags are looked for"
				bind:value={proof.reachSeconds}
			>
				{#each REACHES as one (one)}<option value={one}>± {1000 * one} ms</option>{/each}
			</select>
		</div>
	</div>
{/if}

<style>
	.take {
		border-radius: 6px;
		background: var(--accent-fill);
		color: var(--on-accent);
		padding: 4px 10px;
		white-space: nowrap;
	}
	.take:disabled {
		opacity: 0.45;
	}
</style>
