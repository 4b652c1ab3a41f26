import { ANALYSIS_SAMPLE_RATE } from '../features/band-features';
import { type FftProvider, fftSizeFor } from '../signal/fft';
import type { LagStep } from './lag-step';
import type { Pair, Span } from './listening-windows';

/** What is heard to either side of the time in which a leap is looked for. */
const MARGIN_SECONDS = 3;
const LOWEST_HZ = 150;
const HIGHEST_HZ = 3_600;
/** Likeness is told for windows of 60 ms, a syllable's part, every 10 ms. */
const LIKENESS_HOP = ANALYSIS_SAMPLE_RATE / 100;
const LIKENESS_WINDOW = 6 * LIKENESS_HOP;
export const COURSE_STEP_SECONDS = LIKENESS_HOP / ANALYSIS_SAMPLE_RATE;

/** What speaks for a leap at each moment of a stretch; several pairs' courses add up. */
export interface LeapCourse {
	/** a's time of the first value. */
	readonly fromSeconds: number;
	/** A value every `COURSE_STEP_SECONDS`: likeness with the lag before until then, less that with the lag after. */
	readonly gains: Float32Array;
}

/** Part of both clips that `leapCourse` needs, in a's seconds and b's. */
export function rangeOfStep(step: LagStep, bracket: Span): { readonly a: Span; readonly b: Span } {
	const [from, to] = [bracket.fromSeconds - MARGIN_SECONDS, bracket.toSeconds + MARGIN_SECONDS];
	const lags = [step.lagBeforeSeconds, step.lagAfterSeconds];
	return {
		a: { fromSeconds: from, toSeconds: to },
		b: { fromSeconds: from - Math.max(...lags) - 0.1, toSeconds: to - Math.min(...lags) + 0.1 }
	};
}

/**
 * When the lag leaps: both clips are whitened, and the moment is the one before which they agree with the lag before and
 * after which with the lag after: where the course is highest (a change point, textbook practice).
 * @param bracket a's times between which the leap is looked for
 */
export function leapCourse(pair: Pair, step: LagStep, bracket: Span, provider: FftProvider): LeapCourse {
	const rate = ANALYSIS_SAMPLE_RATE;
	const from = Math.max(0, Math.round((bracket.fromSeconds - MARGIN_SECONDS) * rate));
	const length = Math.min(pair.a.length, Math.round((bracket.toSeconds + MARGIN_SECONDS) * rate)) - from;
	if (length < LIKENESS_WINDOW) return { fromSeconds: from / rate, gains: new Float32Array() };
	const bFrom = Math.round(from - Math.max(step.lagBeforeSeconds, step.lagAfterSeconds) * rate - 0.1 * rate);
	const spread = Math.abs(step.lagAfterSeconds - step.lagBeforeSeconds) * rate;
	const x = whitened(pair.a, from, length, provider);
	const y = filtered(whitened(pair.b, bFrom, Math.ceil(length + spread + 0.2 * rate), provider), step.shape, provider);
	// Place in y of x's first sample with either lag, which are told for the middle of the step.
	const drift = step.slope * (((step.fromSeconds + step.toSeconds) / 2) * rate - from);
	const beforeAt = from - step.lagBeforeSeconds * rate - bFrom - drift;
	const afterAt = from - step.lagAfterSeconds * rate - bFrom - drift;
	// What b lost is heard in a alone: there neither lag fits.
	const gapHops = Math.round(Math.max(0, (step.lagAfterSeconds - step.lagBeforeSeconds) * rate) / LIKENESS_HOP);
	const before = likenessCourse(x, y, length, beforeAt, 1 + step.slope);
	const after = likenessCourse(x, y, length, afterAt, 1 + step.slope);
	const gains = new Float32Array(before.length);
	let sum = 0;
	for (let hop = 0; hop < gains.length; hop++) {
		gains[hop] = sum;
		sum += before[hop]! - (after[hop + gapHops] ?? 0);
	}
	return { fromSeconds: (from + LIKENESS_WINDOW / 2 - LIKENESS_HOP / 2) / rate, gains };
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
