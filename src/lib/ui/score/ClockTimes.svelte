<script lang="ts">
	import { scaleLinear } from 'd3-scale';
	import { clockTimes } from '../../core/gather/clock-days';
	import type { Clip } from '../../core/shoot/clip';
	import { flicksToSeconds } from '../../core/time/flicks';
	import { countWords, dayClockWords } from '../controls/words';
	import { useShoot } from '../state/shoot-state.svelte';

	/** Before anything is lined up: clips where their own clocks put them, dashed, for nothing is proved yet. */
	const shoot = useShoot();
	const HEAD = 240;
	const LANE = 20;
	const RULER = 20;
	let width = $state(0);

	interface Timed {
		readonly clip: Clip;
		readonly from: number;
		readonly to: number;
	}
	const timed = $derived.by((): readonly Timed[] => {
		const clips = shoot.shoot.clips.flatMap((clip) => {
			const clockSeconds = clip.clockSeconds ?? clip.heardTimecode?.seconds;
			return clockSeconds === undefined
				? []
				: [{ clip, deviceId: clip.deviceId, clockSeconds, recordedAt: clip.recordedAt }];
		});
		const times = clockTimes(clips);
		return clips.map(({ clip }, index) => ({
			clip,
			from: times[index]!,
			to: times[index]! + flicksToSeconds(clip.durationFlicks)
		}));
	});
	const lanes = $derived(shoot.shoot.devices.filter((device) => timed.some((one) => one.clip.deviceId === device.id)));
	const untimed = $derived(shoot.shoot.clips.length - timed.length);
	const scale = $derived(
		scaleLinear()
			.domain([Math.min(...timed.map((one) => one.from)), Math.max(...timed.map((one) => one.to))])
			.range([8, Math.max(9, width - HEAD - 8)])
			.nice()
	);
	const ticks = $derived(scale.ticks(Math.max(2, Math.floor((width - HEAD) / 120))));
</script>

<div class="flex h-full flex-col overflow-auto" bind:clientWidth={width} data-testid="clock-times">
	{#if timed.length > 0}
		<svg {width} height={RULER + lanes.length * LANE + 4} role="img" aria-label="Clips at their clock times">
			<g transform="translate({HEAD},0)">
				{#each ticks as tick (tick)}
					<line x1={scale(tick)} x2={scale(tick)} y1="0" y2={RULER + lanes.length * LANE} class="stroke-line" />
					<text x={scale(tick) + 4} y="13" class="times fill-quiet text-[11px]">{dayClockWords(tick)}</text>
				{/each}
			</g>
			{#each lanes as device, index (device.id)}
				<g transform="translate(0,{RULER + index * LANE})">
					<text x="10" y="14" class="fill-ink text-xs"
						><tspan class="font-semibold">{device.badge}</tspan> {device.name}</text
					>
					{#each timed.filter((one) => one.clip.deviceId === device.id) as one (one.clip.id)}
						<rect
							x={HEAD + scale(one.from)}
							y="3"
							width={Math.max(2, scale(one.to) - scale(one.from))}
							height={LANE - 6}
							rx="3"
							class="dashed fill-surface"
							style:stroke={shoot.hue(device.id)}
							><title>{one.clip.name}: {dayClockWords(one.from)}, by its own clock</title></rect
						>
					{/each}
				</g>
			{/each}
		</svg>
	{/if}
	<p class="px-3 py-1 text-sm text-quiet">
		{#if shoot.shoot.clips.length === 0}The score fills as the files are read.{:else}
			{#if timed.length > 0}Where the devices’ clocks put the clips; nothing is proved yet.{/if}
			{#if untimed > 0}{countWords(untimed, 'clip')} {untimed === 1 ? 'tells' : 'tell'} no clock time.{/if}
			Go to <a class="text-accent underline" href="/shoots/{shoot.shootId}/line-up">Line up</a> and press the button.
		{/if}
	</p>
</div>

<style>
	.dashed {
		stroke-dasharray: 4 3;
		stroke-width: 1.5;
	}
</style>
