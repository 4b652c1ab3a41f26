import { CLEAR_HEIGHT, CLEAR_RIVAL_SHARE, MAX_RATE_DIFFERENCE } from '../../limits/match';
import { ANALYSIS_SAMPLE_RATE, bandFeatures } from '../../features/band-features';
import type { FftProvider } from '../../signal/fft';
import { type Candidate, type Ground, LONGEST_PASSAGE_SECONDS, passageClass, searchPassage } from './coarse-search';

/** A stretch of a clip, in seconds from its first sample. */
export interface Passage {
	readonly fromSeconds: number;
	readonly toSeconds: number;
}

const PASSAGE_SECONDS = 60;
/** Up to here a clip is looked for as a whole, passage after passage; above it by three of them. */
const WHOLE_SECONDS = 4 * PASSAGE_SECONDS;
const PLACES_OF_THREE = [0.2, 0.5, 0.8] as const;
const COARSE_STEP_SECONDS = 0.06;

/**
 * The passages of a clip that are looked for in another.
 * @param thorough all of the clip, however long: for clips that three passages do not place
 */
export function passagesOf(seconds: number, thorough: boolean): readonly Passage[] {
	if (seconds <= LONGEST_PASSAGE_SECONDS) return [{ fromSeconds: 0, toSeconds: seconds }];
	if (seconds > WHOLE_SECONDS && !thorough) {
		return PLACES_OF_THREE.map((share) => {
			// Whole seconds: a decoder that is sent there starts on a sample of every rate.
			const fromSeconds = Math.floor(share * seconds - PASSAGE_SECONDS / 2);
			return { fromSeconds, toSeconds: fromSeconds + PASSAGE_SECONDS };
		});
	}
	const count = Math.ceil(seconds / PASSAGE_SECONDS);
	const step = (seconds - PASSAGE_SECONDS) / (count - 1);
	return Array.from({ length: count }, (_, index) => {
		const fromSeconds = Math.floor(index * step);
		return { fromSeconds, toSeconds: Math.min(seconds, fromSeconds + PASSAGE_SECONDS) };
	});
}

/**
 * Coarse lags between two clips: passages of the one are looked for in the other, the ground.
 * @param source sound of the clip the passages are taken from @param passages of it
 * @param isFirst whether the source is clip a of the lags that are given back, the ground b; or the other way round
 * @param groundFor the ground, laid for passages of so many frames
 * @returns the best first; what several passages agree on counts more
 */
export function findPlaces(
	source: Int16Array,
	passages: readonly Passage[],
	isFirst: boolean,
	groundFor: (passageFrames: number) => Ground,
	provider: FftProvider,
	most = 6
): readonly Candidate[] {
	const merged: Candidate[] = [];
	for (const { fromSeconds, toSeconds } of middleFirst(passages)) {
		if (isClear(merged)) break;
		const samples = source.subarray(fromSeconds * ANALYSIS_SAMPLE_RATE, Math.floor(toSeconds * ANALYSIS_SAMPLE_RATE));
		const features = bandFeatures(samples, provider);
		if (features.frames < 20) continue;
		const ground = groundFor(passageClass(features.frames));
		for (const { seconds, height } of searchPassage(features, ground, provider, most)) {
			const lagSeconds = isFirst ? fromSeconds - seconds : seconds - fromSeconds;
			const half = (toSeconds - fromSeconds) / 2;
			addTo(merged, { lagSeconds, aroundSeconds: isFirst ? fromSeconds + half : seconds + half, height });
		}
	}
	return merged.sort((x, y) => y.height - x.height).slice(0, most);
}

function isClear(candidates: readonly Candidate[]): boolean {
	const [best = 0, rival = 0] = candidates.map(({ height }) => height).sort((x, y) => y - x);
	return best >= CLEAR_HEIGHT && rival < CLEAR_RIVAL_SHARE * best;
}

/** From the middle outwards: ends are where people set up and pack. */
function middleFirst(passages: readonly Passage[]): readonly Passage[] {
	const middle = ((passages.at(-1)?.toSeconds ?? 0) + (passages[0]?.fromSeconds ?? 0)) / 2;
	const off = ({ fromSeconds, toSeconds }: Passage) => Math.abs((fromSeconds + toSeconds) / 2 - middle);
	return [...passages].sort((x, y) => off(x) - off(y));
}

function addTo(merged: Candidate[], candidate: Candidate): void {
	const index = merged.findIndex(
		(one) =>
			Math.abs(one.lagSeconds - candidate.lagSeconds) <
			COARSE_STEP_SECONDS + MAX_RATE_DIFFERENCE * Math.abs(one.aroundSeconds - candidate.aroundSeconds)
	);
	if (index < 0) {
		merged.push(candidate);
		return;
	}
	const one = merged[index]!;
	const height = Math.hypot(one.height, candidate.height);
	merged[index] = one.height >= candidate.height ? { ...one, height } : { ...candidate, height };
}
