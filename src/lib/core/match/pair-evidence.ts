import { ANALYSIS_SAMPLE_RATE } from '../features/band-features';
import type { FftProvider } from '../signal/fft';
import { type ClockSlope, clockSlope } from './clock-slope';
import { commonShape } from './common-shape';
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
	/** How much faster time passes in b than in a: a's clock rate less b's. Nothing where the overlap does not tell. */
	readonly rate?: { readonly differencePpm: number; readonly deviationPpm: number };
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
/** With the least reach it just fits a transform of 65 536. */
const LONGEST_WINDOW_SECONDS = 6.9;
const SHORTEST_WINDOW_SECONDS = 0.75;
/** Two clocks part by no more than this: cheap crystals are within 150 ppm, either way. */
const MOST_RATE_DIFFERENCE = 320e-6;
/** The coarse lag is known to this, and worse by the drift over the overlap. */
const COARSE_ERROR_SECONDS = 0.1;
/** Lags looked at beyond what is searched: reverberation fills the near ones, chance must be told from the far. */
const LEAST_REACH_SECONDS = 0.6;
/** Stacking is done in bins of a millisecond: talkers at different places differ by that much and more. */
const BIN_SAMPLES = ANALYSIS_SAMPLE_RATE / 1000;
/** Lags looked at in the second pass: enough of what is no peak to scale by. */
const REFINE_REACH_SECONDS = 0.25;
/** A single window of heights above this would otherwise outvote all others. */
const MOST_WINDOW_HEIGHT = 14;
/** How far a window's own peak may lie from the stacked line: people move, rooms are wide. */
const WINDOW_PEAK_RADIUS_SECONDS = 0.006;
/** Peak of one window over its root mean square; noise alone stays below 4.5 in such short ranges. */
const LEAST_WINDOW_HEIGHT = 5;
/** Stacked height below which no more is asked: chance reached 7.7 in some hundred false pairs, true ones begin at 20. */
const LEAST_STRENGTH = 9;
const LEAST_INLIERS = 3;
const LEAST_INLIER_SHARE = 0.25;
/** Rates are told from overlaps of this length on: 1 ms of scatter is then 50 ppm. */
const RATE_OVERLAP_SECONDS = 20;
const LEAST_OVERLAP_SECONDS = 1.2;
/** From shorter overlaps a slope would be known no better than clocks are guessed. */
const SLOPE_OVERLAP_SECONDS = 9;
const LONGEST_SLOPE_WINDOW_SECONDS = 2.5;
const MOST_SLOPE_WINDOWS = 120;
/** Talkers differ by their ways through the air: 24 ms are 8 m. */
const SLOPE_REACH_SECONDS = 0.024;
/** How far the first line's slope may be off. */
const SLOPE_SEARCH = 150e-6;

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
export function pairEvidence(
	a: Float32Array,
	b: Float32Array,
	lagSeconds: number,
	provider: FftProvider
): PairEvidence | undefined {
	const rate = ANALYSIS_SAMPLE_RATE;
	const overlapFrom = Math.max(0, lagSeconds);
	const overlapTo = Math.min(a.length / rate, b.length / rate + lagSeconds);
	const overlapSeconds = overlapTo - overlapFrom;
	if (overlapSeconds < LEAST_OVERLAP_SECONDS) return undefined;
	const windowSeconds = Math.max(SHORTEST_WINDOW_SECONDS, Math.min(LONGEST_WINDOW_SECONDS, overlapSeconds / 6));
	const count = Math.max(2, Math.min(MOST_WINDOWS, Math.floor((1.5 * overlapSeconds) / windowSeconds)));
	const searched = COARSE_ERROR_SECONDS + overlapSeconds * MOST_RATE_DIFFERENCE * 0.5;
	const reach = Math.ceil(Math.max(LEAST_REACH_SECONDS, 2 * searched) * rate);
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
	const stacked = stack(passages, middle, overlapSeconds, reach, Math.round(searched * rate));
	if (stacked.strength < LEAST_STRENGTH) return undefined;

	const first = lineThroughPeaks(passages, stacked, middle, reach, overlapSeconds);
	if (!first || first.inliers < LEAST_INLIERS) return undefined;
	const line = refine(a, b, lagSeconds, middle, first, passages, provider, overlapSeconds) ?? first;
	if (line.inliers < LEAST_INLIERS || line.inliers < LEAST_INLIER_SHARE * passages.length) return undefined;

	const slope = slopeBetween(a, b, { overlapFrom, overlapSeconds, lagSeconds, line: line.line }, provider);
	const shift = line.line.intercept;
	return {
		lagSeconds: lagSeconds - shift,
		...(slope ? { rate: { differencePpm: slope.slope * 1e6, deviationPpm: slope.deviation * 1e6 } } : {}),
		overlapSeconds,
		windows: passages.length,
		inliers: line.inliers,
		residualSeconds: line.line.spread,
		strength: stacked.strength,
		moments: line.moments
	};
}

interface Overlap {
	readonly overlapFrom: number;
	readonly overlapSeconds: number;
	readonly lagSeconds: number;
	/** Place of b's sound against the lag, about the middle of the overlap. */
	readonly line: { readonly intercept: number; readonly slope: number };
}

/** The clocks' difference from many windows so short that one talker fills each. */
function slopeBetween(
	a: Float32Array,
	b: Float32Array,
	overlap: Overlap,
	provider: FftProvider
): ClockSlope | undefined {
	const { overlapFrom, overlapSeconds, lagSeconds, line } = overlap;
	if (overlapSeconds < SLOPE_OVERLAP_SECONDS) return undefined;
	const rate = ANALYSIS_SAMPLE_RATE;
	const windowSeconds = Math.min(LONGEST_SLOPE_WINDOW_SECONDS, overlapSeconds / 12);
	const count = Math.min(MOST_SLOPE_WINDOWS, Math.floor((1.5 * overlapSeconds) / windowSeconds));
	const length = Math.floor(windowSeconds * rate);
	const reach = Math.ceil(SLOPE_REACH_SECONDS * rate);
	const aStep = 1 / (1 + line.slope);
	const middle = overlapFrom + overlapSeconds / 2;
	const times: number[] = [];
	const lags: number[] = [];
	for (let k = 0; k < count; k++) {
		const centre = overlapFrom + windowSeconds / 2 + ((overlapSeconds - windowSeconds) * k) / (count - 1);
		const expected = centre - lagSeconds + line.intercept + line.slope * (centre - middle);
		const bFrom = Math.round(expected * rate - length / 2);
		const aCentre = centre + ((bFrom + length / 2) / rate - expected) * aStep;
		const row = windowCorrelation(a, aCentre * rate - (length / 2) * aStep, aStep, b, bFrom, length, reach, provider);
		if (!row) continue;
		const peak = sharpPeak(row, reach, reach);
		if (peak.height < LEAST_WINDOW_HEIGHT) continue;
		times.push(aCentre - middle);
		lags.push((peak.index - reach) / rate);
	}
	const left = clockSlope(times, lags, Math.max(1, RATE_OVERLAP_SECONDS / overlapSeconds) * SLOPE_SEARCH);
	return left && { ...left, slope: left.slope + line.slope };
}

interface Stacked {
	/** Where b's sound lies against the expected place, at the middle of the overlap. */
	readonly shiftSeconds: number;
	readonly rate: number;
	readonly strength: number;
}

/**
 * Adds the windows' correlations up along every straight line that two clocks could draw: many weak windows together
 * find what none finds alone. The rate is the one with the most power in the sum, not with the highest peak: in a room
 * the whole pattern of direct sound and reflections must fall into place. The lag is the sum's peak at that rate.
 */
function stack(
	passages: readonly Passage[],
	middle: number,
	overlapSeconds: number,
	reach: number,
	searched: number
): Stacked {
	const bins = Math.floor((2 * reach + 1) / BIN_SAMPLES);
	const rows = passages.map((passage) => binned(passage.correlation, bins));
	const times = passages.map((passage) => (passage.aFrom + passage.length / 2) / ANALYSIS_SAMPLE_RATE - middle);
	const widest = overlapSeconds < RATE_OVERLAP_SECONDS / 2 ? 0 : MOST_RATE_DIFFERENCE;
	const step = Math.max(1e-3 / overlapSeconds, 1e-7);
	const turns = Math.floor(widest / step);
	const sums = new Float32Array(bins);
	const firstBin = Math.floor((reach - searched) / BIN_SAMPLES);
	const lastBin = Math.min(bins - 1, Math.ceil((reach + searched) / BIN_SAMPLES));
	let best = { bin: 0, turn: 0, height: -1, power: -1 };
	for (let turn = -turns; turn <= turns; turn++) {
		sums.fill(0);
		for (const [index, row] of rows.entries()) {
			const shift = Math.round(turn * step * times[index]! * 1000);
			const from = Math.max(firstBin, -shift);
			const to = Math.min(lastBin + 1, bins - shift);
			for (let bin = from; bin < to; bin++) sums[bin] = sums[bin]! + row[bin + shift]!;
		}
		let power = 0;
		let highest = firstBin;
		for (let bin = firstBin; bin <= lastBin; bin++) {
			const value = sums[bin]!;
			power += value * value;
			if (value > sums[highest]!) highest = bin;
		}
		if (power > best.power) best = { bin: highest, turn, height: sums[highest]!, power };
	}
	return {
		shiftSeconds: ((best.bin + 0.5) * BIN_SAMPLES - reach) / ANALYSIS_SAMPLE_RATE,
		rate: best.turn * step,
		strength: heightOverChance(rows, best.height)
	};
}

/**
 * How far a sum of one bin a window stands over what bins chosen by chance would give, in standard deviations.
 */
function heightOverChance(rows: readonly Float32Array[], height: number): number {
	let mean = 0;
	let variance = 0;
	for (const row of rows) {
		// What stands out is what is asked about: the highest tenth does not speak of chance.
		const sorted = row.slice().sort();
		const common = sorted.subarray(0, Math.ceil(sorted.length * 0.9));
		let sum = 0;
		let squares = 0;
		for (const value of common) {
			sum += value;
			squares += value * value;
		}
		const ownMean = sum / common.length;
		mean += ownMean;
		// The cut takes about 0.42 of the variance of normal noise away; 1.7 gives it back (checked by simulation).
		variance += 1.7 * (squares / common.length - ownMean * ownMean);
	}
	return (height - mean) / Math.sqrt(Math.max(1e-12, variance));
}

/** Greatest absolute value in each bin, over the median of all: devices may differ in polarity. */
function binned(correlation: Float32Array, bins: number): Float32Array {
	const plain = new Float32Array(bins);
	for (let bin = 0; bin < bins; bin++) {
		let most = 0;
		for (let i = bin * BIN_SAMPLES; i < (bin + 1) * BIN_SAMPLES; i++) most = Math.max(most, Math.abs(correlation[i]!));
		plain[bin] = Math.min(MOST_WINDOW_HEIGHT, most);
	}
	// Less its median, so that the power of a sum is the power of what stands out.
	const median = plain.slice().sort()[bins >> 1]!;
	for (let bin = 0; bin < bins; bin++) plain[bin] = plain[bin]! - median;
	return plain;
}

interface FittedLine {
	/** Place of b's sound against the expected one: value at the middle of the overlap, slope in seconds a second. */
	readonly line: Line;
	readonly inliers: number;
	readonly moments: readonly SharedMoment[];
}

function lineThroughPeaks(
	passages: readonly Passage[],
	stacked: Stacked,
	middle: number,
	reach: number,
	overlapSeconds: number
): FittedLine | undefined {
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
		moments.push({
			aSeconds: x + middle,
			bSeconds: (passage.bFrom + passage.length / 2 + peak.index - reach) / rate,
			weight: 1
		});
	}
	return fit(xs, ys, moments, { intercept: stacked.shiftSeconds, slope: stacked.rate }, overlapSeconds);
}

function fit(
	xs: readonly number[],
	ys: readonly number[],
	moments: readonly SharedMoment[],
	begin: { intercept: number; slope: number },
	overlapSeconds: number
): FittedLine | undefined {
	if (xs.length === 0) return undefined;
	const fixedSlope = overlapSeconds < RATE_OVERLAP_SECONDS || xs.length < 4;
	const line = robustLine(Float64Array.from(xs), Float64Array.from(ys), begin, 0.1e-3, fixedSlope);
	const weighed = moments
		.map((moment, i) => ({ ...moment, weight: line.weights[i]! }))
		.filter((moment) => moment.weight > 0);
	return { line, inliers: weighed.filter((moment) => moment.weight > 0.1).length, moments: weighed };
}

/** Correlates again with the first rate taken out of a, which otherwise smears each window. */
function refine(
	a: Float32Array,
	b: Float32Array,
	lagSeconds: number,
	middle: number,
	first: FittedLine,
	passages: readonly Passage[],
	provider: FftProvider,
	overlapSeconds: number
): FittedLine | undefined {
	const rate = ANALYSIS_SAMPLE_RATE;
	const reach = Math.ceil(REFINE_REACH_SECONDS * rate);
	const aStep = 1 / (1 + first.line.slope);
	const centres: { aSeconds: number; bSeconds: number }[] = [];
	const rows: Float32Array[] = [];
	for (const passage of passages) {
		const centre = (passage.aFrom + passage.length / 2) / rate;
		const expected = centre - lagSeconds + first.line.intercept + first.line.slope * (centre - middle);
		const bFrom = Math.round(expected * rate - passage.length / 2);
		// The passage in a that the first line puts at b's whole sample.
		const bCentre = (bFrom + passage.length / 2) / rate;
		const aCentre = centre + (bCentre - expected) * aStep;
		const correlation = windowCorrelation(
			a,
			aCentre * rate - (passage.length / 2) * aStep,
			aStep,
			b,
			bFrom,
			passage.length,
			reach,
			provider
		);
		if (!correlation) continue;
		centres.push({ aSeconds: aCentre, bSeconds: bCentre });
		rows.push(correlation);
	}
	if (rows.length < LEAST_INLIERS) return undefined;
	const found = commonShape(
		rows,
		centres.map((centre) => centre.aSeconds - middle),
		overlapSeconds
	);
	const xs: number[] = [];
	const ys: number[] = [];
	const moments: SharedMoment[] = [];
	for (const [index, shift] of found.shifts.entries()) {
		if (shift === undefined) continue;
		const { aSeconds, bSeconds } = centres[index]!;
		const later = bSeconds + shift / rate;
		xs.push(aSeconds - middle);
		ys.push(later - (aSeconds - lagSeconds));
		moments.push({ aSeconds, bSeconds: later, weight: 1 });
	}
	return fit(
		xs,
		ys,
		moments,
		{
			intercept: first.line.intercept + found.line.intercept / rate,
			slope: first.line.slope + found.line.slope / rate
		},
		overlapSeconds
	);
}
