import { median } from '../../fitting/median';
import { topOfPeak } from '../../fitting/top-of-peak';
import { robustLine } from '../../fitting/robust-fit';
import { type SectionStack, STACK_STEP_SECONDS } from './section-stacks';

/** The line on which all sections' patterns of direct sound and echoes fall into one. */
export interface CoherentLine {
	/** a's time in the middle of the sections. */
	readonly middleSeconds: number;
	/** What is to be added to the expected slope. */
	readonly slope: number;
	/** Nothing where the sections do not tell the slope. */
	readonly slopeDeviation?: number;
	/** The sum of all sections on that line. */
	readonly shape: Float32Array;
	/** How much of their height the sections keep in the sum: 1 when all are alike, the root of one over their number by chance. */
	readonly likeness: number;
}

/** Slopes are tried in steps that move the outermost sections by so much. */
const STEP_SECONDS = 2 * STACK_STEP_SECONDS;
const COARSE = 4;
const MIN_SECTIONS = 3;

/** Sums sections on the slope that makes the sum stand out most. @param slopeError how far the slope is looked for, either way */
export function coherentLine(sections: readonly SectionStack[], slopeError: number): CoherentLine {
	const times = sections.map(({ aSeconds }) => aSeconds);
	const middleSeconds = times.reduce((sum, time) => sum + time, 0) / times.length;
	const far = Math.max(...times.map((time) => Math.abs(time - middleSeconds)));
	const steps = Math.floor((slopeError * far) / STEP_SECONDS);
	if (sections.length < MIN_SECTIONS || steps < 1) {
		const shape = sumOn(sections, () => 0, 1);
		return { middleSeconds, slope: 0, shape, likeness: likenessOf(sections, shape) };
	}
	const scores = Float64Array.from({ length: 2 * steps + 1 }, (_, k) =>
		sharpness(sumOn(sections, (time) => (((k - steps) * STEP_SECONDS) / far) * (time - middleSeconds), COARSE))
	);
	let best = 0;
	for (let k = 0; k < scores.length; k++) if (scores[k]! > scores[best]!) best = k;
	let slope = ((best - steps) * STEP_SECONDS) / far;
	let shape = sumOn(sections, (time) => slope * (time - middleSeconds), 1);
	const standsOut = scores[best]! / median(scores);
	// Each section's own place on the shape of all: finer than the steps.
	const xs = Float64Array.from(times, (time) => time - middleSeconds);
	const ys = Float64Array.from(sections, ({ values }, k) => offAgainst(values, shape, slope * xs[k]!));
	const line = robustLine(xs, ys, { intercept: 0, slope: 0 }, 0.02e-3, false);
	slope += line.slope;
	shape = sumOn(sections, (time) => slope * (time - middleSeconds), 1);
	const inliers = line.weights.reduce((sum, weight) => sum + weight, 0);
	const spreadOfTimes = Math.sqrt(xs.reduce((sum, x) => sum + x * x, 0) / xs.length);
	const deviation = Math.max(line.spread, 0.05e-3) / (spreadOfTimes * Math.sqrt(Math.max(1, inliers)));
	return {
		middleSeconds,
		slope,
		...(standsOut > 3 ? { slopeDeviation: deviation } : {}),
		shape,
		likeness: likenessOf(sections, shape)
	};
}

/** Sum of the sections, each read as much later as it should come. @param stride only every so many values */
export function sumOn(
	sections: readonly SectionStack[],
	lateAt: (aSeconds: number) => number,
	stride: number
): Float32Array {
	const length = sections[0]!.values.length;
	const out = new Float32Array(Math.floor((length - 1) / stride) + 1);
	for (const { aSeconds, values } of sections) {
		const shift = Math.round(lateAt(aSeconds) / STACK_STEP_SECONDS);
		const from = Math.max(0, Math.ceil(-shift / stride));
		const to = Math.min(out.length - 1, Math.floor((length - 1 - shift) / stride));
		for (let i = from, at = from * stride + shift; i <= to; i++, at += stride) out[i] = out[i]! + values[at]!;
	}
	return out;
}

/** The more of a sum is in few peaks, the higher. */
export function sharpness(values: Float32Array): number {
	let sum = 0;
	for (let i = 0; i < values.length; i++) {
		const square = values[i]! * values[i]!;
		sum += square * square;
	}
	return sum;
}

/** Furthest that a section lies off the line. */
const OFF_STEPS = 24;

/** How much later than a line says a section fits the shape best, to parts of a step. @param reach steps looked at, either way */
export function offAgainst(values: Float32Array, shape: Float32Array, lateSeconds: number, reach = OFF_STEPS): number {
	const base = Math.round(lateSeconds / STACK_STEP_SECONDS);
	const fits = Float64Array.from({ length: 2 * reach + 1 }, (_, k) => {
		const shift = base + k - reach;
		let sum = 0;
		for (let i = Math.max(0, -shift); i < Math.min(shape.length, values.length - shift); i++)
			sum += shape[i]! * values[i + shift]!;
		return sum;
	});
	let best = 0;
	for (let k = 0; k < fits.length; k++) if (fits[k]! > fits[best]!) best = k;
	const part = topOfPeak(fits[best - 1], fits[best]!, fits[best + 1]);
	return (base + best - reach + part) * STACK_STEP_SECONDS - lateSeconds;
}

function likenessOf(sections: readonly SectionStack[], shape: Float32Array): number {
	const power = (values: Float32Array) => values.reduce((sum, value) => sum + value * value, 0);
	const all = sections.reduce((sum, { values }) => sum + Math.sqrt(power(values)), 0);
	return all > 0 ? Math.sqrt(power(shape)) / all : 0;
}
