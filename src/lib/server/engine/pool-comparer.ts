import { MAX_REPEATED_SECONDS, SPANNED_OVERLAP_SECONDS } from '../../core/limits/match';
import pMap from 'p-map';
import { ANALYSIS_SAMPLE_RATE, BAND_COUNT, type BandFeatures, frameCount } from '../../core/features/band-features';
import { passagesOf } from '../../core/match/search/find-places';
import { rangeOfStep } from '../../core/match/loss/leap-course';
import type { Place } from '../../core/match/search/looks';
import { spansOf } from '../../core/match/fit/pair-evidence';
import { type Span } from '../../core/match/windows/listening-windows';

import { type Comparer, groundOfTwo, type Sound } from '../../core/solve/links/comparer';
import type { LazySound } from '../media/lazy-sound';
import type { EnginePool } from './engine-pool';

/** Beyond what is listened to, for the clocks' drift, windows at the edge and lags looked at. */
const MARGIN_SECONDS = 2;
const FEATURE_FRAMES_A_TASK = 30_000;
const SILENCE_STEP_SECONDS = 120;

let comparers = 0;

/**
 * Compares in worker threads, and reads of each sound only what is listened to.
 * @param soundOf nothing for a sound that cannot be read; asked again each time
 */
export function poolComparer(
	soundOf: (sound: Sound) => LazySound | undefined,
	pool: EnginePool,
	signal?: AbortSignal
): Comparer {
	const prefix = `${comparers++}`;
	const features = new Map<string, Promise<BandFeatures>>();
	const key = ({ clip, channel }: Sound) => `${prefix} ${clip} ${channel ?? 'mix'}`;
	const featuresOf = (sound: Sound, lazy: LazySound): Promise<BandFeatures> => {
		let own = features.get(key(sound));
		if (!own) features.set(key(sound), (own = makeFeatures(lazy, pool, signal)));
		return own;
	};
	const readBoth = async (a: LazySound, b: LazySound, spans: readonly Span[], lagSeconds: number) => {
		const inA = spans.map((span) => widened(span, 0));
		const inB = spans.map((span) => widened(span, -lagSeconds));
		await Promise.all([a.need(...inA), b.need(...inB)]);
	};
	return {
		async search(a, b, thorough) {
			const [soundA, soundB] = [soundOf(a), soundOf(b)];
			if (!soundA || !soundB) return [];
			const groundIsA = groundOfTwo(soundA.samples.length, soundB.samples.length) === 'a';
			const [ground, source] = groundIsA ? [soundA, soundB] : [soundB, soundA];
			const passages = passagesOf(source.samples.length / ANALYSIS_SAMPLE_RATE, thorough);
			const [groundFeatures] = await Promise.all([featuresOf(groundIsA ? a : b, ground), source.need(...passages)]);
			return pool.run(
				{
					kind: 'search',
					ground: groundFeatures,
					groundKey: key(groundIsA ? a : b),
					source: source.samples,
					passages,
					sourceIsFirst: !groundIsA
				},
				signal
			);
		},
		async examine(a, b, place) {
			const [soundA, soundB] = [soundOf(a), soundOf(b)];
			if (!soundA || !soundB) return undefined;
			const spans = spansOf(soundA.samples.length, soundB.samples.length, place);
			if (!spans) return undefined;
			const both = { a: soundA.samples, b: soundB.samples, place };
			if (spans.skim.length > 0 && !place.limits) {
				await readBoth(soundA, soundB, spans.skim, place.lagSeconds);
				const skimmed = await pool.run({ kind: 'skim', ...both }, signal);
				if (skimmed) return skimmed;
			}
			if (isLong(soundA.samples.length, soundB.samples.length, place)) {
				await readBoth(soundA, soundB, [spans.first], place.lagSeconds);
				if (!(await pool.run({ kind: 'glance', ...both }, signal))) return undefined;
			}
			await readBoth(soundA, soundB, spans.all, place.lagSeconds);
			return pool.run({ kind: 'examine', ...both }, signal);
		},
		async hearCommon(a, b, meeting) {
			const [soundA, soundB] = [soundOf(a), soundOf(b)];
			if (!soundA || !soundB) return undefined;
			const { gridSeconds, limits } = meeting;
			const lagSeconds = meeting.aSeconds - meeting.bSeconds;
			const place = { lagSeconds, gridSeconds, ...(limits ? { limits } : {}) };
			const spans = spansOf(soundA.samples.length, soundB.samples.length, place);
			if (!spans) return undefined;
			await readBoth(soundA, soundB, meeting.isSkimmed && spans.skim.length > 0 ? spans.skim : spans.all, lagSeconds);
			return pool.run({ kind: 'common', a: soundA.samples, b: soundB.samples, meeting }, signal);
		},
		async leapCourse(a, b, step, bracket) {
			const [soundA, soundB] = [soundOf(a), soundOf(b)];
			if (!soundA || !soundB) return undefined;
			const range = rangeOfStep(step, bracket);
			await Promise.all([soundA.need(range.a), soundB.need(range.b)]);
			return pool.run({ kind: 'leap', a: soundA.samples, b: soundB.samples, step, bracket }, signal);
		},
		async repeated(a, b) {
			const [soundA, soundB] = [soundOf(a), soundOf(b)];
			if (!soundA || !soundB) return undefined;
			const seconds = soundA.samples.length / ANALYSIS_SAMPLE_RATE;
			const from = seconds - MAX_REPEATED_SECONDS;
			await Promise.all([
				soundA.need({ fromSeconds: from, toSeconds: seconds }),
				soundB.need({ fromSeconds: 0, toSeconds: MAX_REPEATED_SECONDS })
			]);
			const tail = soundA.samples.subarray(Math.max(0, Math.floor(from * ANALYSIS_SAMPLE_RATE)));
			const head = soundB.samples.subarray(0, MAX_REPEATED_SECONDS * ANALYSIS_SAMPLE_RATE);
			return pool.run({ kind: 'seam', a: tail, b: head }, signal);
		},
		async isSilent(sound) {
			const lazy = soundOf(sound);
			if (!lazy) return false;
			const seconds = lazy.samples.length / ANALYSIS_SAMPLE_RATE;
			for (let from = 0; from < seconds; from += SILENCE_STEP_SECONDS) {
				await lazy.need({ fromSeconds: from, toSeconds: from + SILENCE_STEP_SECONDS });
				const part = lazy.samples.subarray(
					from * ANALYSIS_SAMPLE_RATE,
					(from + SILENCE_STEP_SECONDS) * ANALYSIS_SAMPLE_RATE
				);
				if (!(await pool.run({ kind: 'silence', samples: part }, signal))) return false;
			}
			return true;
		}
	};
}

function widened({ fromSeconds, toSeconds }: Span, by: number): Span {
	return { fromSeconds: fromSeconds + by - MARGIN_SECONDS, toSeconds: toSeconds + by + MARGIN_SECONDS };
}

/** Whether a first look spares the reading of much. */
function isLong(samplesA: number, samplesB: number, { lagSeconds }: Place): boolean {
	const seconds =
		Math.min(samplesA / ANALYSIS_SAMPLE_RATE, samplesB / ANALYSIS_SAMPLE_RATE + lagSeconds) - Math.max(0, lagSeconds);
	return seconds > SPANNED_OVERLAP_SECONDS;
}

/** Features of all of a sound, in shared memory, piece by piece on all threads. */
async function makeFeatures(sound: LazySound, pool: EnginePool, signal?: AbortSignal): Promise<BandFeatures> {
	const { samples } = sound;
	const frames = frameCount(samples.length);
	const shared = () => new Float32Array(new SharedArrayBuffer(4 * BAND_COUNT * frames));
	const target: BandFeatures = { frames, energy: shared(), flux: shared() };
	const starts = Array.from(
		{ length: Math.ceil(frames / FEATURE_FRAMES_A_TASK) },
		(_, index) => index * FEATURE_FRAMES_A_TASK
	);
	const secondsOf = (frame: number) => (frame / frames) * (samples.length / ANALYSIS_SAMPLE_RATE);
	await pMap(
		starts,
		async (from) => {
			const to = Math.min(frames, from + FEATURE_FRAMES_A_TASK);
			await sound.need(widened({ fromSeconds: secondsOf(from), toSeconds: secondsOf(to) }, 0));
			await pool.run({ kind: 'features', samples, target, from, to }, signal);
		},
		{ concurrency: pool.threads }
	);
	return target;
}
