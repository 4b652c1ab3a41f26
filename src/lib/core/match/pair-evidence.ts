import { ANALYSIS_SAMPLE_RATE } from '../features/band-features';
import type { FftProvider } from '../signal/fft';
import { type Line, robustLine } from './robust-line';
import { sharpPeak, windowCorrelation } from './window-correlation';

/** One moment that both clips heard: its time in a and in b, and how much it counts (0 to 1). */
export interface SharedMoment {
	readonly aSeconds: number;
	readonly bSeconds: number;
	readonly weight: number;
}

/** What speaks for two clips having heard the same sound. */
export interface PairEvidence {
	/** Lag at the middle of the overlap, positive when b starts after a. */
	readonly lagSeconds: number;
	/** How much faster time passes in b than in a, in ppm: a's clock rate less b's. */
	readonly rateDifferencePpm: number;
	/** Whether the overlap is long enough to tell the rate. */
	readonly tellsRate: boolean;
	readonly overlapSeconds: number;
	/** Windows with sound on both sides, and those of them that agree on one line. */
	readonly windows: number;
	readonly inliers: number;
	/** Robust spread of the agreeing windows about the line. */
	readonly residualSeconds: number;
	/** Height of the stacked correlation over chance, in standard deviations. */
	readonly strength: number;
	readonly moments: readonly SharedMoment[];
}

const MOST_WINDOWS = 40;
const LONGEST_WINDOW_SECONDS = 8;
const SHORTEST_WINDOW_SECONDS = 0.75;
/** Two clocks part by no more than this: cheap crystals are within 150 ppm, either way. */
const MOST_RATE_DIFFERENCE = 320e-6;
/** The coarse lag is known to this, and worse by the drift over the overlap. */
const COARSE_ERROR_SECONDS = 0.1;
/** Stacking is done in bins of a millisecond: talkers at different places differ by that much and more. */
const BIN_SAMPLES = ANALYSIS_SAMPLE_RATE / 1000;
/** A single window of heights above this would otherwise outvote all others. */
const MOST_WINDOW_HEIGHT = 14;
/** How far a window's own peak may lie from the stacked line: people move, rooms are wide. */
const WINDOW_PEAK_RADIUS_SECONDS = 0.006;
/** Peak of one window over its root mean square; noise alone stays below 4.5 in such short ranges. */
const LEAST_WINDOW_HEIGHT = 5;
/** Stacked height below which no more is asked; chance reaches 5 to 6. */
const LEAST_STRENGTH = 7;
const LEAST_INLIERS = 3;
const LEAST_INLIER_SHARE = 0.25;
/** Rates are told from overlaps of this length on: 1 ms of scatter is then 50 ppm. */
const RATE_OVERLAP_SECONDS = 20;
const LEAST_OVERLAP_SECONDS = 1.2;

interface Passage {
	readonly aFrom: number;
	readonly bFrom: number;
	readonly length: number;
	readonly correlation: Float32Array;
}

/**
 * Looks closely at one candidate lag.
 * @param a mono at `ANALYSIS_SAMPLE_RATE` @param b likewise
 * @param lagSeconds the candidate, right to about 0.1 s (more over hours)
 * @returns nothing when the sound does not agree
 */
export function pairEvidence(a: Float32Array, b: Float32Array, lagSeconds: number, provider: FftProvider): PairEvidence | undefined {
	const rate = ANALYSIS_SAMPLE_RATE;
	const overlapFrom = Math.max(0, lagSeconds);
	const overlapTo = Math.min(a.length / rate, b.length / rate + lagSeconds);
	const overlapSeconds = overlapTo - overlapFrom;
	if (overlapSeconds < LEAST_OVERLAP_SECONDS) return undefined;
	const windowSeconds = Math.max(SHORTEST_WINDOW_SECONDS, Math.min(LONGEST_WINDOW_SECONDS, overlapSeconds / 6));
	const count = Math.max(2, Math.min(MOST_WINDOWS, Math.floor((1.5 * overlapSeconds) / windowSeconds)));
	const reach = Math.ceil((COARSE_ERROR_SECONDS + overlapSeconds * MOST_RATE_DIFFERENCE * 0.5) * rate);
	const length = Math.floor(windowSeconds * rate);

	const passages: Passage[] = [];
	for (let k = 0; k < count; k++) {
		const at = overlapFrom + ((overlapSeconds - windowSeconds) * k) / (count - 1);
		const aFrom = Math.round(at * rate);
		const bFrom = Math.round((at - lagSeconds) * rate);
		const correlation = windowCorrelation(a, aFrom, 1, b, bFrom, length, reach, provider);
		if (correlation) passages.push({ aFrom, bFrom, length, correlation });
	}
	if (passages.length < 2) return undefined;

	const middle = (overlapFrom + overlapTo) / 2;
	const stacked = stack(passages, middle, overlapSeconds, reach);
	if (stacked.strength < LEAST_STRENGTH) return undefined;

	const first = lineThroughPeaks(passages, stacked, middle, reach, overlapSeconds);
	if (!first || first.inliers < LEAST_INLIERS) return undefined;
	const line = refine(a, b, lagSeconds, middle, first, passages, provider, overlapSeconds) ?? first;
	if (line.inliers < LEAST_INLIERS || line.inliers < LEAST_INLIER_SHARE * passages.length) return undefined;

	const shift = line.line.intercept;
	return {
		lagSeconds: lagSeconds - shift,
		rateDifferencePpm: line.line.slope * 1e6,
		tellsRate: overlapSeconds >= RATE_OVERLAP_SECONDS,
		overlapSeconds,
		windows: passages.length,
		inliers: line.inliers,
		residualSeconds: line.line.spread,
		strength: stacked.strength,
		moments: line.moments
	};
}

interface Stacked {
	/** Where b's sound lies against the expected place, at the middle of the overlap. */
	readonly shiftSeconds: number;
	readonly rate: number;
	readonly strength: number;
}

/**
 * Adds the windows' correlations up along every straight line that two clocks could draw, and takes the line with
 * the highest sum: many weak windows together find what none finds alone.
 */
function stack(passages: readonly Passage[], middle: number, overlapSeconds: number, reach: number): Stacked {
	const bins = Math.floor((2 * reach + 1) / BIN_SAMPLES);
	const rows = passages.map((passage) => binned(passage.correlation, bins));
	const times = passages.map((passage) => (passage.aFrom + passage.length / 2) / ANALYSIS_SAMPLE_RATE - middle);
	const widest = overlapSeconds < RATE_OVERLAP_SECONDS / 2 ? 0 : MOST_RATE_DIFFERENCE;
	const step = Math.max(2e-3 / overlapSeconds, 1e-7);
	const turns = Math.floor(widest / step);
	const sums = new Float32Array(bins);
	let best = { bin: 0, turn: 0, height: -1 };
	let count = 0;
	let sum = 0;
	let squares = 0;
	for (let turn = -turns; turn <= turns; turn++) {
		sums.fill(0);
		for (const [index, row] of rows.entries()) {
			const shift = Math.round(turn * step * times[index]! * 1000);
			const from = Math.max(0, -shift);
			const to = Math.min(bins, bins - shift);
			for (let bin = from; bin < to; bin++) sums[bin] = sums[bin]! + row[bin + shift]!;
		}
		for (let bin = 0; bin < bins; bin++) {
			const value = sums[bin]!;
			count++;
			sum += value;
			squares += value * value;
			if (value > best.height) best = { bin, turn, height: value };
		}
	}
	const mean = sum / count;
	const deviation = Math.sqrt(Math.max(1e-12, squares / count - mean * mean));
	return {
		shiftSeconds: ((best.bin + 0.5) * BIN_SAMPLES - reach) / ANALYSIS_SAMPLE_RATE,
		rate: best.turn * step,
		strength: (best.height - mean) / deviation
	};
}

/** Greatest absolute value a bin and its neighbours hold: devices may differ in polarity. */
function binned(correlation: Float32Array, bins: number): Float32Array {
	const plain = new Float32Array(bins);
	for (let bin = 0; bin < bins; bin++) {
		let most = 0;
		for (let i = bin * BIN_SAMPLES; i < (bin + 1) * BIN_SAMPLES; i++) most = Math.max(most, Math.abs(correlation[i]!));
		plain[bin] = Math.min(MOST_WINDOW_HEIGHT, most);
	}
	const wide = new Float32Array(bins);
	for (let bin = 0; bin < bins; bin++) wide[bin] = Math.max(plain[bin]!, plain[Math.max(0, bin - 1)]!, plain[Math.min(bins - 1, bin + 1)]!);
	return wide;
}

interface FittedLine {
	/** Place of b's sound against the expected one: value at the middle of the overlap, slope in seconds a second. */
	readonly line: Line;
	readonly inliers: number;
	readonly moments: readonly SharedMoment[];
}

function lineThroughPeaks(passages: readonly Passage[], stacked: Stacked, middle: number, reach: number, overlapSeconds: number): FittedLine | undefined {
	const rate = ANALYSIS_SAMPLE_RATE;
	const xs: number[] = [];
	const ys: number[] = [];
	const moments: SharedMoment[] = [];
	for (const passage of passages) {
		const x = (passage.aFrom + passage.length / 2) / rate - middle;
		const around = reach + (stacked.shiftSeconds + stacked.rate * x) * rate;
		const peak = sharpPeak(passage.correlation, around, WINDOW_PEAK_RADIUS_SECONDS * rate);
		if (peak.height < LEAST_WINDOW_HEIGHT) continue;
		xs.push(x);
		ys.push((peak.index - reach) / rate);
		moments.push({ aSeconds: x + middle, bSeconds: (passage.bFrom + passage.length / 2 + peak.index - reach) / rate, weight: 1 });
	}
	return fit(xs, ys, moments, { intercept: stacked.shiftSeconds, slope: stacked.rate }, overlapSeconds);
}

function fit(xs: readonly number[], ys: readonly number[], moments: readonly SharedMoment[], begin: { intercept: number; slope: number }, overlapSeconds: number): FittedLine | undefined {
	if (xs.length === 0) return undefined;
	const fixedSlope = overlapSeconds < RATE_OVERLAP_SECONDS || xs.length < 4;
	const line = robustLine(Float64Array.from(xs), Float64Array.from(ys), begin, 0.1e-3, fixedSlope);
	const weighed = moments.map((moment, i) => ({ ...moment, weight: line.weights[i]! })).filter((moment) => moment.weight > 0);
	return { line, inliers: weighed.filter((moment) => moment.weight > 0.1).length, moments: weighed };
}

/** Correlates again with the first rate taken out of a, which otherwise smears each window. */
function refine(a: Float32Array, b: Float32Array, lagSeconds: number, middle: number, first: FittedLine, passages: readonly Passage[], provider: FftProvider, overlapSeconds: number): FittedLine | undefined {
	const rate = ANALYSIS_SAMPLE_RATE;
	const reach = Math.ceil(0.008 * rate);
	const aStep = 1 / (1 + first.line.slope);
	const xs: number[] = [];
	const ys: number[] = [];
	const moments: SharedMoment[] = [];
	for (const passage of passages) {
		const centre = (passage.aFrom + passage.length / 2) / rate;
		const expected = centre - lagSeconds + first.line.intercept + first.line.slope * (centre - middle);
		const bFrom = Math.round(expected * rate - passage.length / 2);
		// The passage in a that the first line puts at b's whole sample.
		const bCentre = bFrom + passage.length / 2;
		const aCentre = centre + (bCentre / rate - expected) * aStep;
		const correlation = windowCorrelation(a, aCentre * rate - (passage.length / 2) * aStep, aStep, b, bFrom, passage.length, reach, provider);
		if (!correlation) continue;
		const peak = sharpPeak(correlation, reach, WINDOW_PEAK_RADIUS_SECONDS * rate);
		if (peak.height < LEAST_WINDOW_HEIGHT) continue;
		const bSeconds = (bCentre + peak.index - reach) / rate;
		xs.push(aCentre - middle);
		ys.push(bSeconds - (aCentre - lagSeconds));
		moments.push({ aSeconds: aCentre, bSeconds, weight: 1 });
	}
	return fit(xs, ys, moments, first.line, overlapSeconds);
}
