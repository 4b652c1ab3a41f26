import { ANALYSIS_SAMPLE_RATE } from '../features/band-features';
import { type FftProvider, fftSizeFor } from '../signal/fft';
import { type LagLine, straight } from './lag-curve';
import { AS_IS, type Pair, type Span, windowRows, type WindowRow } from './listening-windows';
import { stackWindows } from './stacking';
import { sharpPeak } from './window-correlation';

/** A leap of the lag: one of the clips lost samples. */
export interface LagStep {
	/** a's times between which it happens. */
	readonly fromSeconds: number;
	readonly toSeconds: number;
	/** Lags at the step, positive when b starts after a. */
	readonly lagBeforeSeconds: number;
	readonly lagAfterSeconds: number;
	/** How the lag drifts on both sides, in seconds a second of a, counted as b's time. */
	readonly slope: number;
}

/** A leap as windows show it: how far the off side lies from the line. */
interface FoundStep {
	readonly fromSeconds: number;
	readonly toSeconds: number;
	readonly offIsBefore: boolean;
	readonly shiftSeconds: number;
}

/** Lags looked at for the part that is off the line; recorders lose up to a second or two. */
export const STEP_REACH_SECONDS = 2.6;
const SEARCHED_SECONDS = 2.4;
/** Smaller leaps are rooms and people. */
const LEAST_STEP_SECONDS = 0.008;
const LEAST_STRENGTH = 9;
const LEAST_WINDOWS = 4;
/** Windows next to the leap may lie on the wrong side by chance. */
const DOUBTFUL_WINDOWS = 2;
const OFF_SHARE = 0.25;
const ON_SHARE = 0.55;

/**
 * Looks for a leap: windows on one side of a moment lie on the line, those on the other side do not, but agree on
 * another lag.
 * @param rows all windows, in order of time @param weights how far each lies on the line, by centre
 * @param wider correlates windows with `STEP_REACH_SECONDS` about the line
 */
export function lagStep(
	rows: readonly WindowRow[],
	weights: ReadonlyMap<number, number>,
	windowSeconds: number,
	wider: (centres: readonly number[]) => readonly WindowRow[]
): FoundStep | undefined {
	const isOn = rows.map((row) => (weights.get(row.centre) ?? 0) > 0.1);
	const split = bestSplit(isOn);
	if (!split) return undefined;
	const off = split.offIsBefore ? rows.slice(0, split.at) : rows.slice(split.at);
	const wide = wider(off.map((row) => row.centre));
	if (wide.length < LEAST_WINDOWS) return undefined;
	const middleSeconds = wide.reduce((sum, row) => sum + row.aSeconds, 0) / wide.length;
	const stacked = stackWindows(wide, { middleSeconds, searchedSeconds: SEARCHED_SECONDS, mostSlope: 0 });
	if (stacked.strength < LEAST_STRENGTH || Math.abs(stacked.shiftSeconds) < LEAST_STEP_SECONDS) return undefined;
	return {
		fromSeconds: rows[Math.max(0, split.at - 1 - DOUBTFUL_WINDOWS)]!.aSeconds - windowSeconds / 2,
		toSeconds: rows[Math.min(rows.length - 1, split.at + DOUBTFUL_WINDOWS)]!.aSeconds + windowSeconds / 2,
		offIsBefore: split.offIsBefore,
		shiftSeconds: stacked.shiftSeconds
	};
}

/** The place that parts windows on the line from windows off it most sharply. */
function bestSplit(isOn: readonly boolean[]): { readonly at: number; readonly offIsBefore: boolean } | undefined {
	const total = isOn.filter(Boolean).length;
	let best: { at: number; offIsBefore: boolean; contrast: number } | undefined;
	let before = 0;
	for (let at = 1; at < isOn.length; at++) {
		if (isOn[at - 1]) before++;
		const shareBefore = before / at;
		const shareAfter = (total - before) / (isOn.length - at);
		const offIsBefore = shareBefore < shareAfter;
		const offCount = offIsBefore ? at : isOn.length - at;
		const [off, on] = offIsBefore ? [shareBefore, shareAfter] : [shareAfter, shareBefore];
		if (offCount < LEAST_WINDOWS || off > OFF_SHARE || on < ON_SHARE) continue;
		if (!best || on - off > best.contrast) best = { at, offIsBefore, contrast: on - off };
	}
	return best;
}

/** The leap in lags of the clips' starts. @param lagSeconds the lag that the line is told against */
export function inLags(found: FoundStep, lagSeconds: number, line: LagLine): LagStep {
	const onLag = lagSeconds - straight(line).at((found.fromSeconds + found.toSeconds) / 2);
	const offLag = onLag - found.shiftSeconds;
	return {
		fromSeconds: found.fromSeconds,
		toSeconds: found.toSeconds,
		lagBeforeSeconds: found.offIsBefore ? offLag : onLag,
		lagAfterSeconds: found.offIsBefore ? onLag : offLag,
		slope: line.slope
	};
}

/** What is heard to either side of the place where a leap is looked for. */
const MARGIN_SECONDS = 3;
const LOWEST_HZ = 150;
const HIGHEST_HZ = 3_600;

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
	const rate = ANALYSIS_SAMPLE_RATE;
	const { a: range } = rangeOfStep(step);
	const from = Math.max(0, Math.round(range.fromSeconds * rate));
	const length = Math.min(pair.a.length, Math.round(range.toSeconds * rate)) - from;
	const bFrom = Math.round(from - Math.max(step.lagBeforeSeconds, step.lagAfterSeconds) * rate - 0.1 * rate);
	const spread = Math.abs(step.lagAfterSeconds - step.lagBeforeSeconds) * rate;
	const x = whitened(pair.a, from, length, provider);
	const y = whitened(pair.b, bFrom, Math.ceil(length + spread + 0.2 * rate), provider);
	const before = exactLag(pair, step.fromSeconds, step.lagBeforeSeconds);
	const after = exactLag(pair, step.toSeconds, step.lagAfterSeconds);
	// Place in y of x's first sample with either lag; both drift from where they were measured.
	const beforeAt = from - before * rate - bFrom - step.slope * (step.fromSeconds * rate - from);
	const afterAt = from - after * rate - bFrom - step.slope * (step.toSeconds * rate - from);
	const product = (i: number, yAt: number) => (x[i] ?? 0) * (y[Math.floor(yAt + i * (1 + step.slope) + 0.5)] ?? 0);
	// What b lost is heard in a alone: there neither lag fits.
	const gap = Math.max(0, Math.round((after - before) * rate));
	let sum = 0;
	let best = { at: 0, sum: -Infinity };
	for (let i = 0; i < length; i++) {
		if (sum > best.sum) best = { at: i, sum };
		sum += product(i, beforeAt) - product(i + gap, afterAt);
	}
	return (from + best.at) / rate;
}

/** A lag known to a millisecond, to a sample: by the window of two seconds at one end of the bracket. */
function exactLag(pair: Pair, atSeconds: number, lagSeconds: number): number {
	const [row] = windowRows(pair, lagSeconds, [atSeconds], 4, 0.05, AS_IS);
	if (!row) return lagSeconds;
	const reach = (row.correlation.length - 1) / 2;
	const peak = sharpPeak(row.correlation, reach, 0.004 * ANALYSIS_SAMPLE_RATE);
	const b = row.bSeconds + (peak.index - reach) / ANALYSIS_SAMPLE_RATE;
	return peak.height > 4.5 ? row.aSeconds - b : lagSeconds;
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
