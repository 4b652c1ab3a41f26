import { MAX_WINDOW_HEIGHT } from '../../limits/match';
import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import type { WindowRow } from './listening-windows';

/** Stacking is done in bins of a millisecond: talkers at different places differ by that much and more. */
const BIN_SAMPLES = ANALYSIS_SAMPLE_RATE / 1000;
const BIN_SECONDS = BIN_SAMPLES / ANALYSIS_SAMPLE_RATE;

/** A straight line of lags: value at a time of a, slope in seconds a second. */
export interface Stacked {
	/** How much later than expected b's sound comes in b, at the middle time. */
	readonly shiftSeconds: number;
	readonly slope: number;
	/** Height of the stacked correlation over chance, in standard deviations. */
	readonly strength: number;
}

export interface StackSearch {
	/** a's time at which slopes turn. */
	readonly middleSeconds: number;
	/** Lag about which it is searched, against the expected one; 0 if not given. */
	readonly centreSeconds?: number;
	/** How far from there the line may lie at the middle. */
	readonly searchedSeconds: number;
	/** Greatest slope looked for, to both sides. */
	readonly mostSlope: number;
}

/**
 * Adds windows' correlations up along every straight line that two clocks could draw: many weak windows together
 * find what none finds alone. The slope is the one with the most power in the sum, not with the highest peak: in a room
 * the whole pattern of direct sound and reflections must fall into place. The lag is the sum's peak at that slope.
 *
 * @param rows correlations of equal length, the middle is "as expected"
 */
export function stackWindows(
	rows: readonly WindowRow[],
	{ middleSeconds, centreSeconds = 0, searchedSeconds, mostSlope }: StackSearch
): Stacked {
	const reach = (rows[0]!.correlation.length - 1) / 2;
	const bins = Math.floor((2 * reach + 1) / BIN_SAMPLES);
	const binned = rows.map((row) => binnedHeights(row.correlation, bins));
	const times = rows.map((row) => row.aSeconds - middleSeconds);
	const farthest = Math.max(...times.map(Math.abs), 1e-3);
	const step = Math.max(BIN_SECONDS / (2 * farthest), 1e-7);
	const turns = Math.floor(mostSlope / step);
	const sums = new Float32Array(bins);
	const searched = Math.round(searchedSeconds / BIN_SECONDS);
	const centre = Math.floor(reach / BIN_SAMPLES) + Math.round(centreSeconds / BIN_SECONDS);
	const firstBin = Math.max(0, centre - searched);
	const lastBin = Math.min(bins - 1, centre + searched);
	let best = { bin: firstBin, turn: 0, height: -1, power: -1 };
	for (let turn = -turns; turn <= turns; turn++) {
		sums.fill(0);
		for (const [index, row] of binned.entries()) {
			const shift = Math.round((turn * step * times[index]!) / BIN_SECONDS);
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
		slope: best.turn * step,
		strength: heightOverChance(binned, best.height)
	};
}

/** How far a sum of one bin a window stands over what bins chosen by chance would give, in standard deviations. */
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

/** Greatest absolute value in each bin, less the median of all: devices may differ in polarity. */
function binnedHeights(correlation: Float32Array, bins: number): Float32Array {
	const plain = new Float32Array(bins);
	for (let bin = 0; bin < bins; bin++) {
		let most = 0;
		for (let i = bin * BIN_SAMPLES; i < (bin + 1) * BIN_SAMPLES; i++) {
			const value = Math.abs(correlation[i]!);
			if (value > most) most = value;
		}
		plain[bin] = Math.min(MAX_WINDOW_HEIGHT, most);
	}
	// Less its median, so that the power of a sum is the power of what stands out.
	const median = plain.slice().sort()[bins >> 1]!;
	for (let bin = 0; bin < bins; bin++) plain[bin] = plain[bin]! - median;
	return plain;
}
