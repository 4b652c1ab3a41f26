<script lang="ts">
	import { methodWords } from '../../../core/proof/report';
	import AudioLines from '@lucide/svelte/icons/audio-lines';
	import Pin from '@lucide/svelte/icons/pin';
	import { Button, Progressbar } from 'flowbite-svelte';
	import { lostSamples } from '../../../core/shoot/losses';
	import { SHOWN_CONTRADICTION_SECONDS } from '../../../core/limits/solve';
	import { invertedDevices } from '../../../core/proof/polarity';
	import { timecodePlace } from '../../../core/shoot/timecode-place';
	import type { PlacedClip } from '../../../core/shoot/clip';
	import { clockTimeWords } from '../../../core/time/words';
	import { strayWords } from '../../controls/stray-words';
	import {
		countWords,
		lengthWords,
		millisecondsWords,
		clockRateWords,
		ppmWords,
		progressWords,
		timecodeWords
	} from '../../controls/words';
	import { useTransport } from '../../playback/transport.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';

	const shoot = useShoot();
	const transport = useTransport();

	const WAYS = { best: 'sound and timecode', sound: 'sound alone', timecode: 'timecode alone' } as const;

	let wantedReference = $state('');
	let way = $state<keyof typeof WAYS>('best');

	const running = $derived(shoot.runningJobs.find((job) => job.kind === 'line-up'));
	const failed = $derived(
		!running && shoot.jobs.find((job) => job.kind === 'line-up')?.state === 'failed'
			? shoot.jobs.find((job) => job.kind === 'line-up')
			: undefined
	);
	const reading = $derived(shoot.runningJobs.some((job) => job.kind === 'gather'));
	const audible = $derived(
		shoot.shoot.devices.filter((device) =>
			shoot.shoot.clips.some((clip) => clip.deviceId === device.id && clip.parts[0]?.sound)
		)
	);
	const allPlaced = $derived(shoot.shoot.clips.filter((clip) => clip.placement));
	const worst = $derived(Math.max(0, ...shoot.placed.map((clip) => clip.placement.residualSeconds)));
	const leftAlone = $derived(
		shoot.placed.filter(({ placement }) => placement.ratePpm !== placement.measuredRatePpm).length
	);
	const rates = $derived(shoot.placed.map((clip) => clip.placement.measuredRatePpm));

	const isByTimecode = $derived(
		shoot.placed.length > 0 && shoot.placed.every(({ placement }) => placement.method === 'timecode')
	);
	/** Where all are, it is said once. */
	const unheard = $derived(isByTimecode ? [] : shoot.placed.filter(({ placement }) => placement.method === 'timecode'));
	/** What speaks for the chosen clip, the surest first. */
	const evidence = $derived(
		(shoot.lineUp?.evidence ?? [])
			.filter((one) => one.a === shoot.selectedClipId || one.b === shoot.selectedClipId)
			.map((one) => ({
				...one,
				other: shoot.shoot.clips.find((clip) => clip.id === (one.a === shoot.selectedClipId ? one.b : one.a))
			}))
			.sort((x, y) => y.strength - x.strength)
	);
	const placedById = $derived(new Map(shoot.placed.map((clip) => [clip.id, clip])));
	const inverted = $derived.by(() => {
		const votes = (shoot.lineUp?.evidence ?? []).flatMap(({ a, b, isInverted }) => {
			const [one, other] = [placedById.get(a), placedById.get(b)];
			return one && other && isInverted !== undefined ? [{ a: one.deviceId, b: other.deviceId, isInverted }] : [];
		});
		return invertedDevices(votes, shoot.reference?.id ?? '');
	});
	/** Pairs whose common sound says something else than all others together. */
	const contradictions = $derived(
		(shoot.lineUp?.evidence ?? []).flatMap(({ a, b, offSeconds = 0 }) => {
			const [one, other] = [placedById.get(a), placedById.get(b)];
			return one && other && offSeconds > SHOWN_CONTRADICTION_SECONDS ? [{ one, other, offSeconds }] : [];
		})
	);
	const chosen = $derived(shoot.placed.find((clip) => clip.id === shoot.selectedClipId));
	/** Smaller than this a gap is none that anybody lost. */
	const MIN_LOSS_SECONDS = 0.01;
	const losses = $derived(lostSamples(shoot.placed).filter((loss) => loss.lostSeconds >= MIN_LOSS_SECONDS));
	const canAdd = $derived(allPlaced.length > 0 && shoot.shoot.clips.some((clip) => !clip.placement));

	function start(onlyNew: boolean): void {
		void shoot.startJob({
			kind: 'line-up',
			by: way,
			onlyNew,
			...(wantedReference ? { reference: wantedReference } : {})
		});
	}

	function sureness({ placement }: PlacedClip): string {
		if (placement.byHand) return 'by hand';
		const percent = placement.confidence * 100;
		return placement.confidence < 0.9 ? `${percent.toFixed(0)}% doubtful` : `${percent.toFixed(1)}%`;
	}

	function clockOf({ deviceId, placement }: PlacedClip): string {
		if (deviceId === shoot.reference?.id) return 'reference';
		const rate = clockRateWords({ method: placement.method, ratePpm: placement.measuredRatePpm });
		return placement.measuredBend ? `${rate}, bends` : rate;
	}
</script>

<div class="grid h-full min-h-0 grid-cols-[230px_minmax(0,1fr)_330px] gap-3">
	<section class="panel flex min-h-0 flex-col gap-3 overflow-auto p-3" aria-label="Line up">
		<Button
			size="lg"
			disabled={!!running || reading || shoot.shoot.clips.length === 0}
			onclick={() => start(false)}
			data-testid="line-up"
		>
			<AudioLines size={20} class="mr-2" /> Line up
		</Button>
		{#if canAdd}
			<Button color="alternative" disabled={!!running || reading} onclick={() => start(true)} data-testid="line-up-new"
				>Add only what has no place</Button
			>
		{/if}
		<label class="text-xs text-quiet">
			By
			<select class="mt-1 w-full rounded-md border border-line bg-surface py-1 text-sm text-ink" bind:value={way}>
				{#each Object.entries(WAYS) as [value, words] (value)}
					<option {value}>{words}</option>
				{/each}
			</select>
		</label>
		<label class="text-xs text-quiet">
			Reference clock
			<select
				class="mt-1 w-full rounded-md border border-line bg-surface py-1 text-sm text-ink"
				bind:value={wantedReference}
			>
				<option value="">the best recorder</option>
				{#each audible as device (device.id)}<option value={device.id}>{device.badge} {device.name}</option>{/each}
			</select>
		</label>
		{#if running}
			<div data-testid="line-up-progress">
				<p class="mb-1 text-sm">{running.message || 'Waiting for its turn'}</p>
				<Progressbar progress={Math.round(running.share * 100)} size="h-1.5" />
				<p class="mt-1 text-xs text-quiet">{progressWords(running.share, '', running.secondsLeft)}</p>
				<Button size="xs" color="alternative" class="mt-2" onclick={() => shoot.changeJob(running.id, 'stop')}
					>Stop</Button
				>
			</div>
		{:else if failed}
			<p class="text-sm text-attention">{failed.error}</p>
		{:else}
			<p class="text-sm text-quiet">
				Clips are compared with those of other devices, where timecode proposes and everywhere else. What was set by
				hand stays where it is; what does not belong is left out, with its reason.
			</p>
		{/if}
	</section>

	<section class="panel min-h-0 overflow-auto" aria-label="Placements">
		<table class="w-full text-sm" data-testid="placements">
			<thead class="sticky top-0 z-10 bg-surface text-left text-xs text-quiet">
				<tr>
					<th class="px-3 py-2 font-normal">Clip</th>
					<th class="px-2 font-normal">Starts at</th>
					<th class="px-2 font-normal">Length</th>
					<th class="px-2 font-normal">Clock</th>
					<th class="px-2 font-normal">By</th>
					<th class="px-2 font-normal">Confidence</th>
					<th class="px-2 font-normal">Residual</th>
				</tr>
			</thead>
			<tbody>
				{#each shoot.placed as clip (clip.id)}
					{@const device = shoot.device(clip.deviceId)}
					{@const { placement } = clip}
					<tr
						class="row border-t border-line"
						class:chosen={clip.id === shoot.selectedClipId}
						data-testid="placement"
						data-clip={clip.name}
						data-start={placement.startFlicks}
						data-rate={placement.ratePpm}
					>
						<td class="px-3 py-1">
							<button
								class="flex items-center gap-1.5 text-left"
								onclick={() => {
									shoot.selectedClipId = clip.id;
									transport.goTo(Math.ceil(placement.startFlicks));
								}}
							>
								<span class="badge" style:--hue={shoot.hue(clip.deviceId)}>{device?.badge}</span>
								<span class="max-w-48 truncate">{clip.name}</span>
							</button>
						</td>
						<td class="times px-2">{timecodeWords(placement.startFlicks, shoot.shoot.rate)}</td>
						<td class="times px-2">{lengthWords(clip.durationFlicks)}</td>
						<td class="times px-2 whitespace-nowrap">{clockOf(clip)}</td>
						<td class="px-2 whitespace-nowrap"
							>{methodWords(placement.method)}{#if placement.byHand}<Pin
									size={12}
									class="ml-1 inline text-accent"
									aria-label="set by hand"
								/>{/if}</td
						>
						<td class="times px-2" class:text-attention={placement.confidence < 0.9}>{sureness(clip)}</td>
						<td class="times px-2 whitespace-nowrap"
							>{placement.method === 'audio' ? millisecondsWords(placement.residualSeconds) : '–'}</td
						>
					</tr>
				{:else}
					<tr
						><td class="p-6 text-quiet" colspan="7"
							>Nothing is placed yet. One press of the button listens to all clips and finds where they belong.</td
						></tr
					>
				{/each}
			</tbody>
		</table>
	</section>

	<section class="panel flex min-h-0 flex-col gap-3 overflow-auto p-3" aria-label="Verdict">
		{#if allPlaced.length > 0}
			<p class="font-title text-base" data-testid="verdict">
				{allPlaced.length} of {countWords(shoot.shoot.clips.length, 'clip')} placed{shoot.shoot.lineUps.length > 1
					? ` in ${shoot.shoot.lineUps.length} line-ups`
					: ''}.
			</p>
			<p class="text-sm" data-testid="verdict-detail">
				{#if isByTimecode}By timecode alone a place is right to a frame at best; clocks are not known, and drift is not
					corrected.{:else}Worst residual {millisecondsWords(worst)}. Clocks from {ppmWords(Math.min(...rates))} to {ppmWords(
						Math.max(...rates)
					)} against {shoot.reference?.name}. {leftAlone === 0
						? 'Drift is corrected everywhere.'
						: `The drift of ${countWords(leftAlone, 'clip')} is left as it is.`}{/if}
			</p>
		{:else}
			<p class="text-sm text-quiet">The verdict will stand here.</p>
		{/if}
		{#each shoot.lineUp?.clocks ?? [] as clock (clock.deviceId)}
			<p class="flex items-start gap-1.5 text-sm text-attention" data-testid="clock-off">
				<span class="badge" style:--hue={shoot.hue(clock.deviceId)}>{shoot.device(clock.deviceId)?.badge}</span>
				<span>{clock.words} Sound decides.</span>
			</p>
		{/each}
		{#each losses as loss (loss.nextClipId)}
			{@const clip = shoot.shoot.clips.find((one) => one.id === loss.clipId)}
			<p class="flex items-start gap-1.5 text-sm text-attention" data-testid="lost-samples">
				<span class="badge" style:--hue={shoot.hue(clip?.deviceId ?? '')}
					>{shoot.device(clip?.deviceId ?? '')?.badge}</span
				>
				<span
					>{clip?.name}: {loss.lostSeconds.toFixed(2)} s lost at {clockTimeWords(loss.atSeconds)}. Both parts lie where
					they belong.</span
				>
			</p>
		{/each}
		{#each inverted as deviceId (deviceId)}
			<p class="flex items-start gap-1.5 text-sm" data-testid="inverted">
				<span class="badge" style:--hue={shoot.hue(deviceId)}>{shoot.device(deviceId)?.badge}</span>
				<span
					>Its polarity is the other way round from that of {shoot.reference?.name}: mixed with it, low voices would
					thin out.</span
				>
			</p>
		{/each}
		{#each contradictions as { one, other, offSeconds } (one.id + other.id)}
			<p class="flex items-start gap-1.5 text-sm text-attention" data-testid="contradiction">
				<span class="badge" style:--hue={shoot.hue(one.deviceId)}>{shoot.device(one.deviceId)?.badge}</span>
				<span
					>{one.name} and {other.name}: what both heard contradicts all others by {millisecondsWords(offSeconds)}.
					Listen to them in Prove.</span
				>
			</p>
		{/each}
		{#if unheard.length > 0}
			<section class="text-sm" aria-label="By timecode only" data-testid="by-timecode">
				<h2 class="text-base">{countWords(unheard.length, 'clip')} by timecode only</h2>
				<p class="text-quiet">Not confirmed by sound: look at a clap.</p>
				<ul>
					{#each unheard as clip (clip.id)}
						<li>
							<button
								class="flex items-center gap-1.5 text-left"
								onclick={() => {
									shoot.selectedClipId = clip.id;
									transport.goTo(Math.ceil(clip.placement.startFlicks));
								}}
							>
								<span class="badge" style:--hue={shoot.hue(clip.deviceId)}>{shoot.device(clip.deviceId)?.badge}</span>
								<span class="truncate">{clip.name}</span>
							</button>
						</li>
					{/each}
				</ul>
			</section>
		{/if}
		{#if chosen && evidence.length > 0}
			<section aria-label="Evidence" data-testid="evidence">
				<h2 class="mb-1 text-base">What speaks for {chosen.name}</h2>
				<table class="w-full text-xs">
					<thead class="text-left text-quiet">
						<tr
							><th class="font-normal">Heard with</th><th class="font-normal">Agree</th><th class="font-normal">Over</th
							><th class="font-normal">Within</th></tr
						>
					</thead>
					<tbody>
						{#each evidence as one (one.a + one.b + one.lagSeconds)}
							<tr class="border-t border-line">
								<td class="py-0.5">
									<span class="flex items-center gap-1.5">
										<span class="badge" style:--hue={shoot.hue(one.other?.deviceId ?? '')}
											>{shoot.device(one.other?.deviceId ?? '')?.badge}</span
										>
										<span class="max-w-28 truncate">{one.other?.name ?? 'a clip that is gone'}</span>
									</span>
								</td>
								<td class="times">{one.agreeing} of {one.windows}</td>
								<td class="times">{one.overlapSeconds.toFixed(0)} s</td>
								<td class="times">{millisecondsWords(one.residualSeconds)}</td>
							</tr>
						{/each}
					</tbody>
				</table>
			</section>
		{/if}
		{#if shoot.strays.length > 0}
			<h2 class="text-base text-attention">{countWords(shoot.strays.length, 'stray')}</h2>
			<ul class="flex flex-col gap-3" data-testid="strays">
				{#each shoot.strays as clip (clip.id)}
					{@const device = shoot.device(clip.deviceId)}
					{@const words = strayWords(clip.stray!)}
					{@const isTimed = timecodePlace(clip, shoot.placed, shoot.reference?.id) !== undefined}
					<li data-testid="stray" data-clip={clip.name} data-reason={clip.stray}>
						<p class="flex items-center gap-1.5">
							<span class="badge" style:--hue={shoot.hue(clip.deviceId)}>{device?.badge}</span><span
								class="truncate font-semibold">{clip.name}</span
							>
						</p>
						<p class="text-sm">
							{words.why}
							{clip.strayDetail ?? ''}
							{#if !isTimed}<span class="text-quiet">{words.next}</span>{/if}
						</p>
						{#if isTimed}
							<p class="text-sm">
								By its timecode it was recorded while others were, but nothing proves its clock.
								<button
									class="text-accent underline"
									data-testid="place-by-timecode"
									onclick={() =>
										void shoot.edit({ kind: 'place-by-timecode', clipId: clip.id, lineUpId: shoot.lineUp!.id })}
									>Place it by its timecode</button
								>
							</p>
						{/if}
						{#if shoot.placed.length > 0}
							<a
								class="text-sm text-accent underline"
								href="/shoots/{shoot.shootId}/prove"
								onclick={() => (shoot.selectedClipId = clip.id)}>Mark a sync point in {clip.name}</a
							>
						{/if}
					</li>
				{/each}
			</ul>
		{/if}
	</section>
</div>

<style>
	.row:hover,
	.chosen {
		background: color-mix(in srgb, var(--accent-fill) 12%, transparent);
	}
</style>
