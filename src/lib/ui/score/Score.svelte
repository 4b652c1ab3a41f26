<script lang="ts">
	import Eye from '@lucide/svelte/icons/eye';
	import { untrack } from 'svelte';
	import type { Device } from '../../core/shoot/device';
	import { flicksPerFrame } from '../../core/time/flicks';
	import { useTransport } from '../playback/transport.svelte';
	import { useProof } from '../state/proof-state.svelte';
	import { useListening } from '../state/listening.svelte';
	import { useShoot } from '../state/shoot-state.svelte';
	import { gapsOf, useSources } from '../state/sources-state.svelte';
	import PersonMark from '../controls/PersonMark.svelte';
	import ClockTimes from './ClockTimes.svelte';
	import { rulerTicks } from './draw-score';
	import LaneHead from './LaneHead.svelte';
	import { useLaneLook } from './lane-look.svelte';
	import Overview from './Overview.svelte';
	import PeopleLanes from './PeopleLanes.svelte';
	import { PERSON_LANE_PIXELS } from './people-lanes';
	import ProgramLane from './ProgramLane.svelte';
	import SoundTurns from './SoundTurns.svelte';
	import ProgramStrip from './strips/ProgramStrip.svelte';
	import { clockOfZero, TIMES_SHOWN, type TimeShown, timeWords } from './score-times';
	import { useScoreView } from './score-view.svelte';
	import SmallButton from './SmallButton.svelte';
	import StrayShelf from './StrayShelf.svelte';
	import WaveLanes from './WaveLanes.svelte';

	const shoot = useShoot();
	const transport = useTransport();
	const view = useScoreView();
	const look = useLaneLook();
	const proof = useProof();
	const listening = useListening();
	const sources = useSources();

	const RULER = 22;
	const OVERVIEW = 16;
	const PROGRAM = 26;
	/** What is heard when. */
	const TURNS = 15;
	const PROGRAM_PICTURES = 36;
	const SHELF = 34;
	const MIN_LANE = 21;
	const MAX_LANE = 64;
	const MIN_TICK_PIXELS: Readonly<Record<TimeShown, number>> = {
		timecode: 90,
		'clock time': 90,
		seconds: 90,
		samples: 100
	};

	let height = $state(0);
	let scrubbing = $state(false);
	/** A lane that is being dragged to another place. */
	let carried = $state<string>();
	let over = $state<string>();

	const devices = $derived(
		shoot.shoot.devices.filter((device) => shoot.placed.some((clip) => clip.deviceId === device.id))
	);
	const shown = $derived(devices.filter((device) => !look.isHidden(device.id)));
	const fixedHeights = $derived(shown.map((device) => look.fixedPixels(device.id)));
	/** Lanes that have no height of their own share what is left. */
	const sharing = $derived(Math.max(1, fixedHeights.filter((one) => one === undefined).length));
	/** Shown where one works with who speaks. */
	const people = $derived(
		(listening.stage === 'master' || listening.stage === 'call') && sources.speech.length > 0 ? shoot.shoot.people : []
	);
	const peopleHeight = $derived(people.length * PERSON_LANE_PIXELS);
	/** Only where what is heard changes: else it would say the same from end to end. */
	const turnsHeight = $derived.by(() => {
		if (listening.stage !== 'master' && listening.stage !== 'call' && listening.stage !== 'hand-off') return 0;
		const range = shoot.program ?? shoot.range;
		const isOther = sources.mixed.turns.some(
			(one) => one.turn > 0 && one.outFlicks > range.inFlicks && one.inFlicks < range.outFlicks
		);
		return isOther || (shoot.master.length > 0 && gapsOf(sources.mixed, range).length > 0) ? TURNS : 0;
	});
	const room = $derived.by(() => {
		const taken = fixedHeights.reduce<number>((sum, one) => sum + (one ?? 0), 0);
		const program = shoot.program ? PROGRAM : 0;
		return (
			height -
			RULER -
			OVERVIEW -
			program -
			turnsHeight -
			peopleHeight -
			(shoot.strays.length > 0 ? SHELF : 0) -
			4 -
			taken
		);
	});
	const programPictures = $derived.by(() => {
		if (!shoot.program || look.programPictures === 'hidden') return 0;
		const fits = room - PROGRAM_PICTURES >= sharing * MIN_LANE;
		return fits || look.programPictures === 'shown' ? PROGRAM_PICTURES : 0;
	});
	const sharedHeight = $derived(Math.max(MIN_LANE, Math.min(MAX_LANE, Math.floor((room - programPictures) / sharing))));
	const lanes = $derived.by(() => {
		let y = 0;
		return shown.map((device) => {
			const own = look.fixedPixels(device.id) ?? sharedHeight;
			y += own;
			return { device, y: y - own, height: own };
		});
	});
	const lanesHeight = $derived(lanes.reduce((sum, lane) => sum + lane.height, 0));
	const whole = $derived(shoot.range.outFlicks - shoot.range.inFlicks);
	const clock = $derived(clockOfZero(shoot.placed, shoot.reference?.id, view.startFlicks));
	const ticks = $derived(
		rulerTicks(
			{ startFlicks: view.startFlicks, flicksPerPixel: view.flicksPerPixel, width: view.width },
			(flicks) => timeWords(flicks, look.time, shoot.shoot.rate, clock),
			flicksPerFrame(shoot.shoot.rate),
			MIN_TICK_PIXELS[look.time]
		)
	);
	const markers = $derived(shoot.shoot.markers.filter((one) => one.lineUpId === shoot.lineUpId));

	$effect(() => {
		const { inFlicks, outFlicks } = shoot.range;
		const { width } = view;
		untrack(() => width > 0 && view.fitOnce(inFlicks, outFlicks));
	});
	$effect(() => {
		if (transport.playing) view.reveal(transport.shownFlicks);
	});

	function wheel(event: WheelEvent): void {
		event.preventDefault();
		const x = event.clientX - (event.currentTarget as HTMLElement).getBoundingClientRect().left;
		if (event.altKey) view.waveScale = Math.max(0.5, Math.min(64, view.waveScale * Math.exp(-event.deltaY * 0.002)));
		else if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) view.pan(event.deltaX || event.deltaY);
		// A pinch comes as a wheel with Ctrl, in smaller steps.
		else view.zoom(Math.exp(event.deltaY * (event.ctrlKey ? 0.01 : 0.0022)), x, whole);
	}

	/** A wheel must not scroll the page: that needs a listener of its own kind. */
	function zoomable(element: HTMLElement): { destroy(): void } {
		element.addEventListener('wheel', wheel, { passive: false });
		return { destroy: () => element.removeEventListener('wheel', wheel) };
	}

	function scrub(event: PointerEvent): void {
		const x = event.clientX - (event.currentTarget as HTMLElement).getBoundingClientRect().left;
		transport.goTo(view.flicksAt(x));
	}

	function put(onto: Device): void {
		const place = shoot.shoot.devices.findIndex((one) => one.id === onto.id);
		if (carried && carried !== onto.id) void shoot.edit({ kind: 'reorder-device', deviceId: carried, place });
		carried = undefined;
		over = undefined;
	}
</script>

<section class="flex h-full flex-col border-t border-line bg-ground" aria-label="Score" bind:clientHeight={height}>
	{#if shoot.placed.length === 0}
		<ClockTimes />
	{:else}
		<div class="flex min-h-0 flex-1 items-start overflow-y-auto">
			<div class="min-h-full w-60 shrink-0 overflow-clip border-r border-line">
				<div
					class="sticky top-0 z-10 flex items-center gap-1 bg-ground px-2 text-xs text-quiet"
					style:height="{RULER}px"
				>
					{#if look.hiddenCount > 0}<button
							class="shrink-0 whitespace-nowrap text-accent underline"
							title="Show all lanes"
							onclick={() => look.showAll()}>{look.hiddenCount} hidden</button
						>{/if}
					<select
						class="time-shown"
						aria-label="Times are shown as"
						value={look.time}
						onchange={(event) => look.showTimeAs(event.currentTarget.value as TimeShown)}
					>
						{#each TIMES_SHOWN as shownAs (shownAs)}<option
								value={shownAs}
								disabled={shownAs === 'clock time' && clock === undefined}>{shownAs}</option
							>{/each}
					</select>
					<span class="ml-auto flex shrink-0 gap-0.5">
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
				{#if shoot.program}<div
						class="flex items-start gap-1 px-2 text-xs font-semibold"
						style:height="{PROGRAM + programPictures}px"
					>
						<span class="leading-[26px]">Program</span>
						<span class="mt-[3px] ml-auto font-normal">
							<SmallButton
								label="Pictures of the program"
								pressed={programPictures > 0}
								chosen={programPictures > 0}
								onclick={() => look.showProgramPictures(programPictures === 0)}>pictures</SmallButton
							>
						</span>
					</div>{/if}
				{#if turnsHeight > 0}<div
						class="overflow-hidden px-2 text-[11px] leading-none text-quiet"
						style:height="{turnsHeight}px"
					>
						Sound
					</div>{/if}
				{#each people as person (person.id)}<div
						class="flex items-center gap-1.5 overflow-hidden px-2 text-[11px]"
						style:height="{PERSON_LANE_PIXELS}px"
					>
						<PersonMark mark={person.mark} size={10} /><span class="truncate">{person.name}</span>
					</div>{/each}
				{#each lanes as { device, height: own } (device.id)}
					<!-- Dragged by the pointer; by keys the lane's menu does the same. -->
					<!-- svelte-ignore a11y_no_static_element_interactions -->
					<div
						draggable="true"
						class:over={over === device.id}
						ondragstart={() => (carried = device.id)}
						ondragover={(event) => {
							if (!carried) return;
							event.preventDefault();
							over = device.id;
						}}
						ondragend={() => (carried = over = undefined)}
						ondrop={() => put(device)}
					>
						<LaneHead {device} height={own} />
					</div>
				{/each}
			</div>
			<div
				class="relative min-h-full min-w-0 flex-1 overflow-clip"
				bind:clientWidth={view.width}
				use:zoomable
				data-testid="score-lanes"
				data-start={view.startFlicks}
				data-flicks-per-pixel={view.flicksPerPixel}
			>
				<!-- svelte-ignore a11y_no_static_element_interactions -->
				<div
					class="times sticky top-0 z-10 cursor-pointer overflow-hidden bg-ground text-[11px] text-quiet select-none"
					style:height="{RULER}px"
					onpointerdown={(event) => {
						event.currentTarget.setPointerCapture(event.pointerId);
						scrubbing = true;
						scrub(event);
					}}
					onpointermove={(event) => {
						if (scrubbing) scrub(event);
					}}
					onpointerup={() => (scrubbing = false)}
				>
					{#each ticks as tick (tick.x)}<span
							class="absolute top-1 h-full border-l border-line pl-1 whitespace-nowrap"
							style:left="{tick.x}px">{tick.text}</span
						>{/each}
					{#if proof.loop}<span
							class="pointer-events-none absolute bottom-0 h-1 bg-accent-fill"
							style:left="{view.x(proof.loop.inFlicks)}px"
							style:width="{view.x(proof.loop.outFlicks) - view.x(proof.loop.inFlicks)}px"
						></span>{/if}
				</div>
				{#if shoot.program}<ProgramLane height={PROGRAM} />
					{#if programPictures > 0}<ProgramStrip height={programPictures} />{/if}{/if}
				{#if turnsHeight > 0}<SoundTurns height={turnsHeight} />{/if}
				{#if people.length > 0}<PeopleLanes />{/if}
				<WaveLanes {lanes} height={lanesHeight} />
				{#each markers as marker (marker.id)}
					{@const x = view.x(marker.atFlicks)}
					{#if x > -2 && x < view.width}<span
							class="pointer-events-none absolute top-0 bottom-0 border-l border-dashed border-ink"
							style:left="{x}px"><span class="bg-ground px-1 text-[11px]">{marker.name}</span></span
						>{/if}
				{/each}
				<div
					class="pointer-events-none absolute top-0 bottom-0 left-0 z-20 w-px bg-accent will-change-transform"
					style:transform="translateX({Math.round(view.x(transport.shownFlicks))}px)"
					data-testid="playhead"
					data-flicks={transport.shownFlicks}
				>
					<span class="sticky top-0 -ml-1 block h-2 w-2 rotate-45 bg-accent"></span>
				</div>
			</div>
		</div>
		<StrayShelf />
		<div class="flex shrink-0 items-stretch">
			<div class="flex w-60 items-center gap-1 px-2 text-[11px] text-quiet"><Eye size={12} /> whole line-up</div>
			<Overview devices={shown} height={OVERVIEW} />
		</div>
	{/if}
</section>

<style>
	.time-shown {
		height: 20px;
		flex: 1 1 40px;
		min-width: 0;
		max-width: 84px;
		text-overflow: ellipsis;
		border: none;
		background: transparent;
		padding: 0 16px 0 0;
		font-size: 11px;
		background-position: right 0 center;
	}
	.over {
		outline: 2px solid var(--accent);
		outline-offset: -2px;
	}
</style>
