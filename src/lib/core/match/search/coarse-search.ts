import { MIN_COARSE_HEIGHT } from '../../limits/match';
import { BAND_COUNT, type BandFeatures, FEATURE_RATE } from '../../features/band-features';
import { type FftProvider, fftSizeFor } from '../../signal/fft';

/** A lag worth a closer look. */
export interface Candidate {
	/** Positive when b starts after a; to about 20 ms near `aroundSeconds`, worse away from it by the clocks' drift. */
	readonly lagSeconds: number;
	/** Time in a at which it was found. */
	readonly aroundSeconds: number;
	/** Height of the correlation peak over the mean of all lags, in standard deviations. */
	readonly height: number;
}

/** A clip laid out so that passages can be looked for in it: spectra of overlapping blocks, whitened half way. */
export interface Ground {
	readonly frames: number;
	readonly passageFrames: number;
	readonly size: number;
	/** Block after block, in each a row a band for energy and for flux. */
	readonly blocks: readonly Views[];
}

/** Spectra of both views of a stretch, arranged for products. */
interface Views {
	readonly energy: readonly Float32Array[];
	readonly flux: readonly Float32Array[];
}

/** Frames of a passage go up to one of these, so that a ground serves many passages. */
const PASSAGE_CLASSES = [640, 3200] as const;
/** Longest passage that is looked for, in seconds; clocks apart by 300 ppm smear it by less than a frame. */
export const LONGEST_PASSAGE_SECONDS = PASSAGE_CLASSES[1] / FEATURE_RATE;
const SIZE_PER_PASSAGE = 4;

/** The class of passages a ground must be laid for. */
export function passageClass(frames: number): number {
	const fits = PASSAGE_CLASSES.find((one) => frames <= one);
	if (fits === undefined) throw new RangeError(`A passage has at most ${PASSAGE_CLASSES[1]} frames, not ${frames}.`);
	return fits;
}

/**
 * Lays a clip out for passages of one class. The whitening (spectrum over the root of its magnitude) keeps slow rows
 * from smearing the peak; full whitening raises false peaks. Overlap and save: textbook practice.
 */
export function layGround(features: BandFeatures, passageFrames: number, provider: FftProvider): Ground {
	const size = fftSizeFor(SIZE_PER_PASSAGE * passageFrames);
	const hop = size - passageFrames;
	const blocks: Views[] = [];
	for (let from = -passageFrames; from < features.frames; from += hop)
		blocks.push(whitenedViews(features, from, size, false, provider));
	return { frames: features.frames, passageFrames, size, blocks };
}

/** One stretch of a clip, zero outside it. @param isConjugate as a correlation's first side is */
function whitenedViews(
	features: BandFeatures,
	from: number,
	size: number,
	isConjugate: boolean,
	provider: FftProvider
): Views {
	const first = Math.max(0, from);
	const end = Math.min(features.frames, from + size);
	const fft = provider(size);
	const rowsOf = (view: Float32Array) =>
		Array.from({ length: BAND_COUNT }, (_, band) => {
			const row = new Float32Array(size);
			const at = band * features.frames;
			if (end > first) row.set(view.subarray(at + first, at + end), first - from);
			fft.forward(row, row);
			whitenHalfWay(row, (end - first) / size);
			if (isConjugate) for (let i = 3; i < size; i += 2) row[i] = -row[i]!;
			fft.arrange(row);
			return row;
		});
	return { energy: rowsOf(features.energy), flux: rowsOf(features.flux) };
}

/** @param filled share of the row that holds sound: each of its frames speaks equally loud, in every band */
function whitenHalfWay(row: Float32Array, filled: number): void {
	let sum = 0;
	row[0] = 0;
	row[1] = 0;
	for (let i = 2; i < row.length; i += 2) {
		const magnitude = Math.sqrt(row[i]! * row[i]! + row[i + 1]! * row[i + 1]!);
		const scale = magnitude > 1e-12 ? 1 / Math.sqrt(magnitude) : 0;
		row[i] = row[i]! * scale;
		row[i + 1] = row[i + 1]! * scale;
		sum += magnitude;
	}
	const level = sum > 0 && filled > 0 ? Math.sqrt(filled / sum) : 0;
	for (let i = 2; i < row.length; i++) row[i] = row[i]! * level;
}

/**
 * Looks for a passage in a ground.
 * @returns lags of the passage's first frame against the ground's, as times; best first
 */
export function searchPassage(
	passage: BandFeatures,
	ground: Ground,
	provider: FftProvider,
	most = 6
): readonly { readonly seconds: number; readonly height: number }[] {
	const { size, passageFrames } = ground;
	const hop = size - passageFrames;
	const fft = provider(size);
	const own = whitenedViews(passage, 0, size, true, provider);
	// Lag l of the passage stands at l + passageFrames.
	const lags = ground.frames + passageFrames;
	const [energy, flux] = [new Float32Array(lags), new Float32Array(lags)];
	const product = new Float32Array(size);
	for (const [index, block] of ground.blocks.entries()) {
		const at = index * hop;
		const end = Math.min(hop, lags - at);
		fft.convolve(own.energy, block.energy, product);
		energy.set(product.subarray(0, end), at);
		fft.convolve(own.flux, block.flux, product);
		flux.set(product.subarray(0, end), at);
	}
	const shorter = Math.min(passage.frames, ground.frames);
	const leastOverlap = Math.max(20, Math.min(3 * FEATURE_RATE, Math.floor(shorter * 0.6)));
	const range = {
		offset: passageFrames,
		from: leastOverlap - passage.frames + passageFrames,
		to: ground.frames - leastOverlap + passageFrames
	};
	for (const scores of [energy, flux]) {
		scaleByOverlap(scores, range, passage.frames, ground.frames);
		standardise(scores, range);
	}
	const scores = energy;
	for (let i = range.from; i <= range.to; i++) scores[i] = scores[i]! + flux[i]!;
	standardise(scores, range);
	return highestPeaks(scores, range, most).map(({ index, height }) => ({
		seconds: (index - passageFrames) / FEATURE_RATE,
		height
	}));
}

interface LagRange {
	/** Where lag 0 stands. */
	readonly offset: number;
	readonly from: number;
	readonly to: number;
}

/** A sum over n frames of noise grows with the root of n: bring all lags to one scale. */
function scaleByOverlap(scores: Float32Array, range: LagRange, passageFrames: number, groundFrames: number): void {
	for (let i = range.from; i <= range.to; i++) {
		const lag = i - range.offset;
		const overlap = Math.min(groundFrames, passageFrames + lag) - Math.max(0, lag);
		scores[i] = scores[i]! / Math.sqrt(overlap);
	}
}

function standardise(scores: Float32Array, { from, to }: LagRange): void {
	let sum = 0;
	let squares = 0;
	for (let i = from; i <= to; i++) {
		sum += scores[i]!;
		squares += scores[i]! * scores[i]!;
	}
	const count = Math.max(1, to - from + 1);
	const mean = sum / count;
	const deviation = Math.sqrt(Math.max(1e-20, squares / count - mean * mean));
	for (let i = from; i <= to; i++) scores[i] = (scores[i]! - mean) / deviation;
}

function highestPeaks(
	scores: Float32Array,
	{ from, to }: LagRange,
	most: number
): readonly { readonly index: number; readonly height: number }[] {
	const peaks: { index: number; height: number }[] = [];
	for (let index = from; index <= to; index++) {
		const height = scores[index]!;
		if (height < MIN_COARSE_HEIGHT) continue;
		const near = peaks.find((peak) => Math.abs(peak.index - index) < FEATURE_RATE / 2);
		if (near) {
			if (height > near.height) Object.assign(near, { index, height });
		} else {
			peaks.push({ index, height });
		}
		if (peaks.length > 4 * most) {
			peaks.sort((x, y) => y.height - x.height);
			peaks.length = 2 * most;
		}
	}
	return peaks.sort((x, y) => y.height - x.height).slice(0, most);
}
