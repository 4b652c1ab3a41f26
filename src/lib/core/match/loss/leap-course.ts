import { CHANCE_LIKENESS } from '../../limits/match';
import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import { type FftProvider, fftSizeFor } from '../../signal/fft';
import type { LagStep } from './lag-step';
import type { Pair, Span } from '../windows/listening-windows';

/** What is heard to either side of the time in which a leap is looked for. */
const MARGIN_SECONDS = 3;
const LOWEST_HZ = 150;
const HIGHEST_HZ = 3_600;
/** Likeness is told for windows of 60 ms, a syllable's part, every 10 ms; over a wide bracket more roughly at first. */
const FINE_HOP = ANALYSIS_SAMPLE_RATE / 100;
const FINE_WINDOW = 6 * FINE_HOP;
const WIDE_BRACKET_SECONDS = 6;
const WIDE_HOP = 4 * FINE_HOP;
const WIDE_WINDOW = 12 * FINE_HOP;
/** Talkers at several places, reflections, drift: likeness is the best within 4 ms to either side. */
const LIKENESS_RADIUS = 0.004 * ANALYSIS_SAMPLE_RATE;

/** What speaks for a leap at each moment of a stretch; several pairs' courses add up. */
export interface LeapCourse {
	/** a's time of the first value, and the time between values. */
	readonly fromSeconds: number;
	readonly stepSeconds: number;
	/** Likeness with the lag before until then, less that with the lag after. */
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
	const isWide = bracket.toSeconds - bracket.fromSeconds > WIDE_BRACKET_SECONDS;
	const [hop, window] = isWide ? [WIDE_HOP, WIDE_WINDOW] : [FINE_HOP, FINE_WINDOW];
	const stepSeconds = hop / rate;
	if (length < window) return { fromSeconds: from / rate, stepSeconds, gains: new Float32Array() };
	const bFrom = Math.round(from - Math.max(step.lagBeforeSeconds, step.lagAfterSeconds) * rate - 0.1 * rate);
	const spread = Math.abs(step.lagAfterSeconds - step.lagBeforeSeconds) * rate;
	const x = whitened(pair.a, from, length, provider);
	const y = whitened(pair.b, bFrom, Math.ceil(length + spread + 0.2 * rate), provider);
	// Place in y of x's first sample with either lag, which are told for the middle of the step.
	const drift = step.slope * (((step.fromSeconds + step.toSeconds) / 2) * rate - from);
	const beforeAt = from - step.lagBeforeSeconds * rate - bFrom - drift;
	const afterAt = from - step.lagAfterSeconds * rate - bFrom - drift;
	// What b lost is heard in a alone: there neither lag fits.
	const gapHops = Math.round(Math.max(0, (step.lagAfterSeconds - step.lagBeforeSeconds) * rate) / hop);
	const courseAt = (yAt: number) => likenessCourse(x, y, { length, hop, window, yAt, yStep: 1 + step.slope });
	const [before, after] = [courseAt(beforeAt), courseAt(afterAt)];
	const gains = new Float32Array(before.length);
	let sum = 0;
	for (let k = 0; k < gains.length; k++) {
		gains[k] = sum;
		sum += before[k]! - (after[k + gapHops] ?? 0);
	}
	return { fromSeconds: (from + (window - hop) / 2) / rate, stepSeconds, gains };
}

interface Course {
	/** Samples of x, between windows, of a window. */
	readonly length: number;
	readonly hop: number;
	readonly window: number;
	/** Place in y of x's first sample, and y's samples for one of x. */
	readonly yAt: number;
	readonly yStep: number;
}

/** How alike x and y are along time, loud or soft: the best of their normalised products nearby, window after window. */
function likenessCourse(x: Float32Array, y: Float32Array, { length, hop, window, yAt, yStep }: Course): Float32Array {
	const course = new Float32Array(Math.max(0, Math.floor((length - window) / hop)));
	for (let k = 0; k < course.length; k++) {
		const first = k * hop;
		const at = Math.round(yAt + (first + window / 2) * yStep - window / 2) - LIKENESS_RADIUS;
		if (at < 0 || at + window + 2 * LIKENESS_RADIUS >= y.length) continue;
		let xx = 1e-20;
		let yy = 1e-20;
		for (let i = 0; i < window; i++) {
			xx += x[first + i]! * x[first + i]!;
			yy += y[at + i]! * y[at + i]!;
		}
		let best = 0;
		for (let shift = 0; shift <= 2 * LIKENESS_RADIUS; shift++) {
			const from = at + shift;
			let xy = 0;
			for (let i = 0; i < window; i++) xy += x[first + i]! * y[from + i]!;
			const likeness = Math.abs(xy) / Math.sqrt(xx * Math.max(1e-20, yy));
			if (likeness > best) best = likeness;
			yy += y[from + window]! * y[from + window]! - y[from]! * y[from]!;
		}
		course[k] = Math.max(0, best - CHANCE_LIKENESS);
	}
	return course;
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
