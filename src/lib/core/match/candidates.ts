import { BAND_COUNT, type BandFeatures, FEATURE_RATE } from '../features/band-features';
import { type FftProvider, fftSizeFor } from '../signal/fft';

/** A lag worth a closer look. */
export interface Candidate {
	/** Positive when b starts after a; to about 10 ms, more over hours. */
	readonly lagSeconds: number;
	/** Height of the correlation peak over the mean of all lags, in standard deviations. */
	readonly height: number;
}

/** Spectra of a clip's features at one FFT size, whitened half way. One row a band, energy then flux. */
export interface FeatureSpectra {
	readonly size: number;
	readonly frames: number;
	readonly rows: readonly Float32Array[];
}

/**
 * Spectra for `candidateLags`. The whitening (spectrum over the root of its magnitude) keeps slow rows from
 * smearing the peak; full whitening raises false peaks.
 */
export function featureSpectra(features: BandFeatures, size: number, provider: FftProvider): FeatureSpectra {
	const fft = provider(size);
	const rows: Float32Array[] = [];
	for (const view of [features.energy, features.flux]) {
		for (let band = 0; band < BAND_COUNT; band++) {
			const row = new Float32Array(size);
			row.set(view.subarray(band * features.frames, (band + 1) * features.frames));
			fft.forward(row, row);
			whitenHalfWay(row);
			rows.push(row);
		}
	}
	return { size, frames: features.frames, rows };
}

/** FFT size that holds every lag of two clips without wrapping. */
export function candidateFftSize(framesA: number, framesB: number): number {
	return fftSizeFor(framesA + framesB);
}

function whitenHalfWay(row: Float32Array): void {
	let sum = 0;
	for (let i = 2; i < row.length; i += 2) {
		const magnitude = Math.hypot(row[i]!, row[i + 1]!);
		const scale = magnitude > 1e-12 ? 1 / Math.sqrt(magnitude) : 0;
		row[i] = row[i]! * scale;
		row[i + 1] = row[i + 1]! * scale;
		sum += magnitude;
	}
	row[0] = 0;
	row[1] = 0;
	// Every band speaks equally loud.
	const level = sum > 0 ? 1 / Math.sqrt(sum) : 0;
	for (let i = 2; i < row.length; i++) row[i] = row[i]! * level;
}

/**
 * The lags at which two clips look alike, best first.
 * @param a spectra of the first clip @param b of the second, at the same size
 * @param most how many lags at most
 */
export function candidateLags(
	a: FeatureSpectra,
	b: FeatureSpectra,
	provider: FftProvider,
	most = 6
): readonly Candidate[] {
	if (a.size !== b.size) throw new RangeError('Both spectra must have the same size.');
	const shorter = Math.min(a.frames, b.frames);
	const leastOverlap = Math.max(20, Math.min(3 * FEATURE_RATE, Math.floor(shorter * 0.6)));
	const scores = new Float32Array(a.size);
	const half = a.rows.length / 2;
	addView(scores, a, b, 0, half, provider, leastOverlap, shorter);
	addView(scores, a, b, half, a.rows.length, provider, leastOverlap, shorter);
	return highestPeaks(scores, a, b, leastOverlap, most);
}

/** Adds the standardised correlation of one view (rows from … to) to `scores`, indexed by lag modulo size. */
function addView(
	scores: Float32Array,
	a: FeatureSpectra,
	b: FeatureSpectra,
	from: number,
	to: number,
	provider: FftProvider,
	leastOverlap: number,
	shorter: number
): void {
	const size = a.size;
	const product = new Float32Array(size);
	for (let row = from; row < to; row++) {
		const x = a.rows[row]!;
		const y = b.rows[row]!;
		for (let i = 2; i < size; i += 2) {
			product[i] = product[i]! + x[i]! * y[i]! + x[i + 1]! * y[i + 1]!;
			product[i + 1] = product[i + 1]! + x[i + 1]! * y[i]! - x[i]! * y[i + 1]!;
		}
	}
	provider(size).inverse(product, product);
	scaleByOverlap(product, a.frames, b.frames, leastOverlap);
	// Clocks that part smear the peak of long clips: gather it again. 100 ppm of the overlap.
	const radius = Math.round(shorter * 0.5e-4);
	if (radius > 0) smooth(product, radius);
	standardise(product, a.frames, b.frames, leastOverlap);
	for (let i = 0; i < size; i++) scores[i] = scores[i]! + product[i]!;
}

function overlapFrames(lag: number, framesA: number, framesB: number): number {
	return Math.min(framesA, framesB + lag) - Math.max(0, lag);
}

function forEachLag(
	size: number,
	framesA: number,
	framesB: number,
	leastOverlap: number,
	visit: (index: number, lag: number, overlap: number) => void
): void {
	for (let lag = leastOverlap - framesB; lag <= framesA - leastOverlap; lag++) {
		visit(lag < 0 ? lag + size : lag, lag, overlapFrames(lag, framesA, framesB));
	}
}

/** A sum over n frames of noise grows with the root of n: bring all lags to one scale. */
function scaleByOverlap(product: Float32Array, framesA: number, framesB: number, leastOverlap: number): void {
	forEachLag(product.length, framesA, framesB, leastOverlap, (index, _lag, overlap) => {
		product[index] = product[index]! / Math.sqrt(overlap);
	});
}

function smooth(row: Float32Array, radius: number): void {
	const n = row.length;
	const copy = row.slice();
	let sum = 0;
	for (let k = -radius; k <= radius; k++) sum += copy[(k + n) % n]!;
	for (let i = 0; i < n; i++) {
		row[i] = sum;
		sum += copy[(i + radius + 1) % n]! - copy[(i - radius + n) % n]!;
	}
}

function standardise(row: Float32Array, framesA: number, framesB: number, leastOverlap: number): void {
	let count = 0;
	let sum = 0;
	let squares = 0;
	forEachLag(row.length, framesA, framesB, leastOverlap, (index) => {
		count++;
		sum += row[index]!;
		squares += row[index]! * row[index]!;
	});
	const mean = sum / Math.max(1, count);
	const deviation = Math.sqrt(Math.max(1e-20, squares / Math.max(1, count) - mean * mean));
	for (let i = 0; i < row.length; i++) row[i] = (row[i]! - mean) / deviation;
}

function highestPeaks(
	scores: Float32Array,
	a: FeatureSpectra,
	b: FeatureSpectra,
	leastOverlap: number,
	most: number
): readonly Candidate[] {
	standardise(scores, a.frames, b.frames, leastOverlap);
	const peaks: { lag: number; height: number }[] = [];
	forEachLag(scores.length, a.frames, b.frames, leastOverlap, (index, lag) => {
		const height = scores[index]!;
		if (height < 3.5) return;
		const near = peaks.find((peak) => Math.abs(peak.lag - lag) < FEATURE_RATE / 2);
		if (near) {
			if (height > near.height) {
				near.lag = lag;
				near.height = height;
			}
		} else {
			peaks.push({ lag, height });
		}
		if (peaks.length > 4 * most) {
			peaks.sort((x, y) => y.height - x.height);
			peaks.length = 2 * most;
		}
	});
	return peaks
		.sort((x, y) => y.height - x.height)
		.slice(0, most)
		.map(({ lag, height }) => ({ lagSeconds: lag / FEATURE_RATE, height }));
}
