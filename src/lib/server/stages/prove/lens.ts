import { ANALYSIS_SAMPLE_RATE } from '../../../core/features/band-features';
import type { LagPeak } from '../../../core/match/search/passage-lag';
import type { LensView } from '../../../core/proof/lens-view';
import { asSound } from '../../../core/shoot/air-delay';
import { toMedia, toTimeline } from '../../../core/shoot/placement';
import { type PlacedClip } from '../../../core/shoot/clip';
import type { Shoot } from '../../../core/shoot/shoot';
import { flicksToSeconds, secondsToFlicks } from '../../../core/time/flicks';
import type { Runtime } from '../../runtime';
import type { SoundSource } from '../line-up/align-recordings';
import type { LensRequest } from '../../../contract/views';
import { clipOf, placedClip } from '../../shoots/found';
import { ShootError } from '../../shoots/shoot-error';
import { type StoredFile, storedFiles, storedSound } from '../line-up/stored-sound';

const MIN_SECONDS = 0.2;

/**
 * Measures the lag between two placed clips at one passage only.
 * @throws ShootError one of them has no place, no sound, or both never sound together there
 */
export async function lookClosely(runtime: Runtime, shootId: string, request: LensRequest): Promise<LensView> {
	const { shoot } = await runtime.shoots.current(shootId);
	const clip = soundingClip(shoot, request.clipId);
	const onto = soundingClip(shoot, request.ontoClipId);
	if (clip.placement.lineUpId !== onto.placement.lineUpId)
		throw new ShootError('two-line-ups', 'These two clips lie on two different line-ups.');
	const { inFlicks, outFlicks } = commonPassage(clip, onto, request);
	const files = await storedFiles(runtime.database, shootId);
	const source = storedSound(runtime, files);
	const factor = (one: PlacedClip) => 1 + one.placement.ratePpm * 1e-6;
	const [a, b] = await Promise.all([
		readPassage(onto, inFlicks, outFlicks, request.reachSeconds, source, files),
		readPassage(clip, inFlicks, outFlicks, request.reachSeconds, source, files)
	]);
	const found = await runtime.pool.run({
		kind: 'passage',
		a: a.samples,
		aFrom: a.from,
		aStep: factor(clip) / factor(onto),
		b: b.samples,
		bFrom: Math.round(b.from),
		samples: Math.floor((flicksToSeconds(outFlicks - inFlicks) / factor(clip)) * ANALYSIS_SAMPLE_RATE),
		reachSamples: Math.round(request.reachSeconds * ANALYSIS_SAMPLE_RATE)
	});
	if (!found) throw new ShootError('silent-passage', 'One of the two clips is silent at this passage.');
	// b was read from a whole sample on: what that left over belongs to the lag.
	const left = (Math.round(b.from) - b.from) / ANALYSIS_SAMPLE_RATE;
	const corrected = ({ lagSeconds, height }: LagPeak) => ({ lagSeconds: lagSeconds + left, height });
	const peak = corrected(found.peak);
	return {
		...found,
		peak,
		runnerUp: corrected(found.runnerUp),
		curve: Array.from(found.curve, (value) => Math.round(value * 100) / 100),
		byFlicks: -secondsToFlicks(peak.lagSeconds * factor(clip)),
		atFlicks: Math.round((inFlicks + outFlicks) / 2),
		seconds: flicksToSeconds(outFlicks - inFlicks)
	};
}

function soundingClip(shoot: Shoot, id: string): PlacedClip {
	const clip = placedClip(clipOf(shoot, id));
	if (!clip.parts.some((part) => part.sound)) throw new ShootError('no-sound', `${clip.name} has no sound to compare.`);
	return asSound(clip);
}

function commonPassage(clip: PlacedClip, onto: PlacedClip, { atFlicks, seconds }: LensRequest) {
	const ends = [clip, onto].map((one) => ({
		from: one.placement.startFlicks,
		to: toTimeline(one.placement, one.durationFlicks)
	}));
	const half = secondsToFlicks(seconds) / 2;
	const inFlicks = Math.max(atFlicks - half, ...ends.map((end) => end.from));
	const outFlicks = Math.min(atFlicks + half, ...ends.map((end) => end.to));
	if (outFlicks - inFlicks < secondsToFlicks(MIN_SECONDS))
		throw new ShootError('not-together', 'The two clips do not sound together at this moment.');
	return { inFlicks, outFlicks };
}

/** A clip's sound around a passage. `from` is where the passage begins in it, in samples. */
async function readPassage(
	clip: PlacedClip,
	inFlicks: number,
	outFlicks: number,
	reachSeconds: number,
	source: SoundSource,
	files: ReadonlyMap<string, StoredFile>
): Promise<{ readonly samples: Int16Array; readonly from: number }> {
	const beginsSeconds = flicksToSeconds(toMedia(clip.placement, inFlicks));
	const endsSeconds = flicksToSeconds(toMedia(clip.placement, outFlicks));
	const fromSeconds = Math.floor(beginsSeconds - reachSeconds) - 1;
	const toSeconds = Math.ceil(endsSeconds + reachSeconds) + 1;
	const samples = new Int16Array((toSeconds - fromSeconds) * ANALYSIS_SAMPLE_RATE);
	for (const part of clip.parts) {
		const file = files.get(part.fileId);
		if (!part.sound || !file) continue;
		// From the clip's time to seconds of the file's sound.
		const zeroSeconds = flicksToSeconds(part.offsetFlicks + part.sound.startFlicks);
		const stretch = {
			fromSeconds: Math.max(0, Math.floor(fromSeconds - zeroSeconds)),
			toSeconds: Math.min(Math.ceil(file.facts.durationSeconds), Math.ceil(toSeconds - zeroSeconds))
		};
		if (stretch.toSeconds <= stretch.fromSeconds) continue;
		const joinable = { id: part.fileId, device: clip.deviceId, path: part.relativePath, facts: file.facts };
		const [sound] = await source.read(joinable, [stretch]);
		const at = Math.round((zeroSeconds + stretch.fromSeconds - fromSeconds) * ANALYSIS_SAMPLE_RATE);
		const own = sound!.subarray(Math.max(0, -at), Math.max(0, samples.length - at));
		samples.set(own, Math.max(0, at));
	}
	return { samples, from: (beginsSeconds - fromSeconds) * ANALYSIS_SAMPLE_RATE };
}
