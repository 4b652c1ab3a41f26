<script lang="ts">
	import { scaleLinear } from 'd3-scale';
	import { driftOf, type DriftPoint, type PairMoments, residualsOf } from '../../../core/proof/drift';
	import { lostSamples } from '../../../core/shoot/losses';
	import { toTimeline } from '../../../core/shoot/placement';
	import { courseAt, greatestBend } from '../../../core/time/course';
	import { flicksPerFrame, flicksToSeconds, secondsToFlicks } from '../../../core/time/flicks';
	import { lengthWords, ppmWords, signedWords } from '../../controls/words';
	import { useTransport } from '../../playback/transport.svelte';
	import { useScoreView } from '../../score/score-view.svelte';
	import { API } from '../../../contract/endpoints';
	import { ask } from '../../state/request';
	import { useShoot } from '../../state/shoot-state.svelte';

	/** What the engine measured along a clip, the line of its clock through it, and what that leaves over. */
	const shoot = useShoot();
	const transport = useTransport();
	const view = useScoreView();

	const LEFT = 44;
	const RIGHT = 18;
	const GAP = 26;
	const MAX_POINTS = 1200;

	let width = $state(0);
	let height = $state(0);
	let pairs = $state.raw<readonly PairMoments[]>([]);
	let of = $state('');

	const clip = $derived(shoot.placed.find((one) => one.id === shoot.selectedClipId));
	const device = $derived(clip && shoot.device(clip.deviceId));
	/** A line-up that is made anew has other moments. */
	const wanted = $derived(clip ? `${clip.id} ${shoot.lineUpId} ${clip.placement.measuredRatePpm}` : '');

	$effect(() => {
		const own = wanted;
		const clipId = clip?.id;
		const { lineUpId } = shoot;
		if (!clipId || !lineUpId) return;
		void shoot.read(async () => {
			const found = await ask(API.moments, { id: shoot.shootId, lineUp: lineUpId, clip: clipId }, undefined);
			if (own !== wanted) return;
			pairs = found;
			of = own;
		});
	});

	const points = $derived.by((): readonly DriftPoint[] => {
		if (!clip || of !== wanted) return [];
		const all = driftOf(clip, pairs, new Map(shoot.placed.map((one) => [one.id, one])));
		const every = Math.ceil(all.length / MAX_POINTS);
		return all.filter((_, index) => index % every === 0);
	});
	const hues = $derived(new Map(shoot.placed.map((one) => [one.id, shoot.hue(one.deviceId)])));
	const seconds = $derived(clip ? flicksToSeconds(clip.durationFlicks) : 1);
	const residuals = $derived(residualsOf(points, seconds));
	const frameMs = $derived(1000 * flicksToSeconds(flicksPerFrame(shoot.shoot.rate)));
	const isCorrected = $derived(device?.correctsDrift ?? true);
	const own = $derived(new Set(shoot.placed.filter((one) => one.deviceId === clip?.deviceId).map((one) => one.id)));
	const losses = $derived(lostSamples(shoot.placed).filter((one) => own.has(one.clipId)));

	const half = $derived(Math.max(20, (height - GAP - 18) / 2));
	const x = $derived(
		scaleLinear()
			.domain([0, seconds])
			.range([LEFT, Math.max(LEFT + 1, width - RIGHT)])
	);
	const padded = (values: readonly number[], least: number): [number, number] => {
		const [low, high] = [Math.min(0, ...values), Math.max(0, ...values)];
		const room = Math.max(least, 0.12 * (high - low));
		return [low - room, high + room];
	};
	const rate = $derived(clip?.placement.measuredRatePpm ?? 0);
	const bend = $derived(clip?.placement.measuredBend);
	/** The measured clock: media seconds, and milliseconds that it adds up to. */
	const course = $derived.by((): readonly (readonly [number, number])[] => {
		const later = { startFlicks: 0, rateFactor: rate * 1e-6, ...(bend ? { bend } : {}) };
		const moments = bend?.map(({ ownFlicks }) => flicksToSeconds(ownFlicks)) ?? [];
		return [0, ...moments.filter((at) => at > 0 && at < seconds), seconds].map(
			(at) => [at, 1000 * flicksToSeconds(courseAt(later, secondsToFlicks(at)))] as const
		);
	});
	const clockWords = $derived(
		bend ? `${ppmWords(rate)}, bends by ${(1000 * flicksToSeconds(greatestBend(bend))).toFixed(1)} ms` : ppmWords(rate)
	);
	const yOffset = $derived(
		scaleLinear()
			.domain(padded([...points.map((point) => 1000 * point.offsetSeconds), ...course.map(([, ms]) => ms)], 1))
			.range([half, 4])
	);
	const yResidual = $derived(
		scaleLinear()
			.domain(
				padded(
					points.map((point) => 1000 * point.residualSeconds),
					1
				)
			)
			.range([half * 2 + GAP, half + GAP + 4])
	);
	const ticks = $derived(x.ticks(Math.max(2, Math.floor(width / 110))));

	function minutesWords(tick: number): string {
		return `${Math.floor(tick / 60)}:${`${Math.round(tick % 60)}`.padStart(2, '0')}`;
	}

	function goTo(event: MouseEvent): void {
		if (!clip) return;
		const at = event.clientX - (event.currentTarget as Element).getBoundingClientRect().left;
		transport.goTo(Math.round(toTimeline(clip.placement, secondsToFlicks(x.invert(at)))));
		view.reveal(transport.shownFlicks);
	}

	function words(value: number | undefined): string {
		return value === undefined
			? 'not measured'
			: `${signedWords(1000 * value)} ms, ${signedWords((1000 * value) / frameMs)} frames`;
	}

	function correct(deviceIds: readonly string[], corrects: boolean): void {
		void shoot.edit({ kind: 'correct-drift', deviceIds, corrects });
	}
</script>

{#if !clip}
	<p class="m-auto max-w-xs p-4 text-center text-quiet">Choose a clip in the score to see its drift.</p>
{:else}
	<div class="flex h-full min-h-0 flex-col gap-1" data-testid="drift" data-points={points.length} data-rate={rate}>
		<div class="flex flex-wrap items-center gap-x-3 gap-y-1 text-sm">
			<span class="badge" style:--hue={shoot.hue(clip.deviceId)}>{device?.badge}</span>
			<span class="truncate">{clip.name}</span>
			<span class="times" data-testid="clock">{clockWords}</span>
			<label class="ml-auto flex items-center gap-1.5 text-xs"
				><input
					type="checkbox"
					class="size-3.5 rounded border-line text-accent"
					checked={isCorrected}
					onchange={(event) => correct([clip.deviceId], event.currentTarget.checked)}
				/> corrected</label
			>
			<button
				class="text-xs text-accent underline"
				onclick={() =>
					correct(
						shoot.shoot.devices.map((one) => one.id),
						!shoot.shoot.devices.every((one) => one.correctsDrift)
					)}>{shoot.shoot.devices.every((one) => one.correctsDrift) ? 'correct none' : 'correct all'}</button
			>
		</div>
		<div class="min-h-0 flex-1" bind:clientWidth={width} bind:clientHeight={height}>
			{#if points.length === 0}
				<p class="p-2 text-sm text-quiet">
					{of === wanted
						? 'No moment of this clip was compared by sound. Line up by sound to measure its clock.'
						: 'Reading…'}
				</p>
			{:else}
				<!-- A click goes to that moment; the score does the same by keys. -->
				<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
				<svg {width} {height} role="img" aria-label="Drift of {clip.name}: {clockWords}" onclick={goTo}>
					{#each ticks as tick (tick)}
						<line x1={x(tick)} x2={x(tick)} y1="2" y2={half * 2 + GAP} class="stroke-line" />
						<text x={x(tick)} y={height - 4} text-anchor="middle" class="times fill-quiet text-[10px]"
							>{minutesWords(tick)}</text
						>
					{/each}
					{#each yOffset.ticks(4) as tick (tick)}
						<text x={LEFT - 6} y={yOffset(tick) + 3} text-anchor="end" class="times fill-quiet text-[10px]">{tick}</text
						>
					{/each}
					{#each yResidual.ticks(3) as tick (tick)}
						<text x={LEFT - 6} y={yResidual(tick) + 3} text-anchor="end" class="times fill-quiet text-[10px]"
							>{tick}</text
						>
					{/each}
					<text x="2" y="11" class="fill-quiet text-[10px]">ms</text>
					<text x={LEFT + 4} y={half + GAP - 6} class="fill-quiet text-[11px]"
						>what {isCorrected ? 'the correction' : 'no correction'} leaves over, in ms; the band is half a frame</text
					>
					<rect
						x={LEFT}
						y={Math.max(half + GAP, yResidual(frameMs / 2))}
						width={Math.max(0, width - RIGHT - LEFT)}
						height={Math.max(
							0,
							Math.min(half * 2 + GAP, yResidual(-frameMs / 2)) - Math.max(half + GAP, yResidual(frameMs / 2))
						)}
						class="fill-good"
						opacity="0.08"
					/>
					{#each points as point, index (index)}
						<circle
							cx={x(point.mediaSeconds)}
							cy={yOffset(1000 * point.offsetSeconds)}
							r="2"
							fill={hues.get(point.otherClipId)}
							opacity={0.25 + 0.6 * point.weight}
						/>
						<circle
							cx={x(point.mediaSeconds)}
							cy={yResidual(1000 * point.residualSeconds)}
							r="2"
							fill={hues.get(point.otherClipId)}
							opacity={0.25 + 0.6 * point.weight}
						/>
					{/each}
					<polyline
						points={course.map(([at, ms]) => `${x(at)},${yOffset(ms)}`).join(' ')}
						class="stroke-accent"
						fill="none"
						stroke-width="1.5"
					/>
					<line x1={x(0)} x2={x(seconds)} y1={yResidual(0)} y2={yResidual(0)} class="stroke-accent" />
					{#each losses as loss (loss.nextClipId)}
						{@const at = loss.clipId === clip.id ? seconds : loss.nextClipId === clip.id ? 0 : undefined}
						{#if at !== undefined}
							<line
								x1={x(at)}
								x2={x(at)}
								y1="2"
								y2={half * 2 + GAP}
								class="stroke-attention"
								stroke-width="1.5"
								stroke-dasharray="4 3"
							/>
							<text
								x={x(at) + (at === 0 ? 5 : -5)}
								y="14"
								text-anchor={at === 0 ? 'start' : 'end'}
								class="fill-attention text-[11px]"
								>{at === 0 ? 'after' : 'before'} a step of {(1000 * loss.lostSeconds).toFixed(0)} ms: lost samples</text
							>
						{/if}
					{/each}
				</svg>
			{/if}
		</div>
		<dl class="flex flex-wrap gap-x-4 text-xs" data-testid="residuals">
			{#each [['Head', residuals.headSeconds], ['Middle', residuals.middleSeconds], ['Tail', residuals.tailSeconds]] as const as [name, value] (name)}
				<div class="flex gap-1">
					<dt class="text-quiet">{name}</dt>
					<dd class="times">{words(value)}</dd>
				</div>
			{/each}
			{#each losses as loss (loss.nextClipId)}
				<div class="text-attention">
					lost {(1000 * loss.lostSeconds).toFixed(0)} ms at {lengthWords(secondsToFlicks(loss.atSeconds))}
				</div>
			{/each}
		</dl>
	</div>
{/if}
