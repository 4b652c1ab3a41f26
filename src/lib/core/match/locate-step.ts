import { ANALYSIS_SAMPLE_RATE } from '../features/band-features';
import { type FftProvider, fftSizeFor } from '../signal/fft';
import type { LagStep } from './lag-step';
import type { Pair, Span } from './listening-windows';

/** What is heard to either side of the place where a leap is looked for. */
const MARGIN_SECONDS = 3;
const LOWEST_HZ = 150;
const HIGHEST_HZ = 3_600;
/** The second look goes so far to either side of what the first one found. */
const NEAR_SECONDS = 1.5;
/** Likeness is told for windows of 60 ms, a syllable's part, every 10 ms. */
const LIKENESS_HOP = ANALYSIS_SAMPLE_RATE / 100;
const LIKENESS_WINDOW = 6 * LIKENESS_HOP;
/** The last look: so far to either side, sample by sample. */
const SHARP_SAMPLES = 8 * LIKENESS_HOP;

/** Part of both clips that `locateStep` needs, in a's seconds and b's. */
export function rangeOfStep(step: LagStep): { readonly a: Span; readonly b: Span } {
	const [from, to] = [step.fromSeconds - MARGIN_SECONDS, step.toSeconds + MARGIN_SECONDS];
	const lags = [step.lagBeforeSeconds, step.lagAfterSeconds];
	return {
		a: { fromSeconds: from, toSeconds: to },
		b: { fromSeconds: from - Math.max(...lags) - 0.1, toSeconds: to - Math.min(...lags) + 0.1 }
	};
}

/**
 * When exactly the lag leaps: both clips are whitened, and the moment is the one before which they agree with the lag
 * before and after which with the lag after, by the sum of their products (a change point, textbook practice).
 * @returns a's time
 */
export function locateStep(pair: Pair, step: LagStep, provider: FftProvider): number {
	const about = changePoint(pair, step, step, provider);
	// Once more nearby, whitened by what sounds there.
	const near = { fromSeconds: about - NEAR_SECONDS, toSeconds: about + NEAR_SECONDS };
	return changePoint(pair, step, near, provider);
}

/** @param bracket a's times between which the leap is looked for */
function changePoint(pair: Pair, step: LagStep, bracket: Span, provider: FftProvider): number {
	const rate = ANALYSIS_SAMPLE_RATE;
	const from = Math.max(0, Math.round((bracket.fromSeconds - MARGIN_SECONDS) * rate));
	const length = Math.min(pair.a.length, Math.round((bracket.toSeconds + MARGIN_SECONDS) * rate)) - from;
	const bFrom = Math.round(from - Math.max(step.lagBeforeSeconds, step.lagAfterSeconds) * rate - 0.1 * rate);
	const spread = Math.abs(step.lagAfterSeconds - step.lagBeforeSeconds) * rate;
	const x = whitened(pair.a, from, length, provider);
	const y = filtered(whitened(pair.b, bFrom, Math.ceil(length + spread + 0.2 * rate), provider), step.shape, provider);
	// Place in y of x's first sample with either lag, which are told for the middle of the bracket.
	const drift = step.slope * (((step.fromSeconds + step.toSeconds) / 2) * rate - from);
	const beforeAt = from - step.lagBeforeSeconds * rate - bFrom - drift;
	const afterAt = from - step.lagAfterSeconds * rate - bFrom - drift;
	// What b lost is heard in a alone: there neither lag fits.
	const gap = Math.max(0, Math.round((step.lagAfterSeconds - step.lagBeforeSeconds) * rate));
	const before = likenessCourse(x, y, length, beforeAt, 1 + step.slope);
	const after = likenessCourse(x, y, length, afterAt, 1 + step.slope);
	const gapHops = Math.round(gap / LIKENESS_HOP);
	let sum = 0;
	let best = { hop: 0, sum: -Infinity };
	for (let hop = 0; hop < before.length; hop++) {
		if (sum > best.sum) best = { hop, sum };
		sum += before[hop]! - (after[hop + gapHops] ?? 0);
	}
	const about = Math.round((best.hop - 0.5) * LIKENESS_HOP + LIKENESS_WINDOW / 2);
	return (from + sharpest(x, y, about, beforeAt, afterAt, gap, 1 + step.slope)) / rate;
}

/** The sample near `about` before which the lag before fits and after which the lag after does. */
function sharpest(
	x: Float32Array,
	y: Float32Array,
	about: number,
	beforeAt: number,
	afterAt: number,
	gap: number,
	step: number
): number {
	const product = (i: number, yAt: number) => (x[i] ?? 0) * (y[Math.floor(yAt + i * step + 0.5)] ?? 0);
	let sum = 0;
	let best = { at: about, sum: -Infinity };
	for (let i = about - SHARP_SAMPLES; i <= about + SHARP_SAMPLES; i++) {
		if (sum > best.sum) best = { at: i, sum };
		sum += product(i, beforeAt) - product(i + gap, afterAt);
	}
	return best.at;
}

/** How alike x and y are along time, loud or soft: their normalised product, window after window. */
function likenessCourse(x: Float32Array, y: Float32Array, length: number, yAt: number, step: number): Float32Array {
	const hops = Math.max(0, Math.floor((length - LIKENESS_WINDOW) / LIKENESS_HOP));
	const course = new Float32Array(hops);
	for (let hop = 0; hop < hops; hop++) {
		let [xy, xx, yy] = [0, 0, 0];
		for (let i = hop * LIKENESS_HOP; i < hop * LIKENESS_HOP + LIKENESS_WINDOW; i++) {
			const one = x[i]!;
			const other = y[Math.floor(yAt + i * step + 0.5)] ?? 0;
			xy += one * other;
			xx += one * one;
			yy += other * other;
		}
		course[hop] = xy / Math.sqrt(xx * yy + 1e-20);
	}
	return course;
}

/** Each sample becomes what a would hear of it: samples of y, weighed by the shape about their place. */
function filtered(y: Float32Array, shape: readonly number[], provider: FftProvider): Float32Array {
	const fft = provider(y.length);
	const response = new Float32Array(y.length);
	const middle = (shape.length - 1) / 2;
	for (const [index, value] of shape.entries()) response[(index - middle + y.length) % y.length] = value;
	fft.forward(response, response);
	const out = new Float32Array(y.length);
	fft.forward(y, out);
	out[0] = 0;
	out[1] = 0;
	for (let i = 2; i < out.length; i += 2) {
		// The conjugate: the shape says how much later b's sound comes.
		const re = out[i]! * response[i]! + out[i + 1]! * response[i + 1]!;
		const im = out[i + 1]! * response[i]! - out[i]! * response[i + 1]!;
		out[i] = re;
		out[i + 1] = im;
	}
	fft.inverse(out, out);
	return out;
}

function whitened(samples: Int16Array, from: number, length: number, provider: FftProvider): Float32Array {
	const size = fftSizeFor(length);
	const out = new Float32Array(size);
	for (let i = 0; i < length; i++) out[i] = samples[from + i] ?? 0;
	const fft = provider(size);
	fft.forward(out, out);
	const lowest = Math.round((LOWEST_HZ * size) / ANALYSIS_SAMPLE_RATE);
	const highest = Math.round((HIGHEST_HZ * size) / ANALYSIS_SAMPLE_RATE);
	out[0] = 0;
	out[1] = 0;
	for (let bin = 1; bin < size / 2; bin++) {
		const re = out[2 * bin]!;
		const im = out[2 * bin + 1]!;
		const magnitude = Math.sqrt(re * re + im * im);
		const scale = bin < lowest || bin > highest || magnitude < 1e-9 ? 0 : 1 / magnitude ** 0.8;
		out[2 * bin] = re * scale;
		out[2 * bin + 1] = im * scale;
	}
	fft.inverse(out, out);
	return out;
}
