import {
	DOUBTFUL_WINDOWS,
	MIN_AGREEING_SHARE,
	MIN_SHORT_STEP_SECONDS,
	MIN_STEP_SECONDS,
	MIN_STEP_STRENGTH,
	MIN_STEP_WINDOWS,
	MIN_WINDOW_HEIGHT,
	OFF_SHARE,
	ON_SHARE,
	SHORT_STEP_SECONDS
} from '../../limits/match';
import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import { type LagLine, straight } from '../windows/lag-curve';
import type { WindowRow } from '../windows/listening-windows';
import { stackWindows } from '../windows/stacking';
import { sharpPeak } from '../windows/window-correlation';

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
const WINDOW_PEAK_RADIUS_SAMPLES = 0.004 * ANALYSIS_SAMPLE_RATE;

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
	if (wide.length < MIN_STEP_WINDOWS) return undefined;
	const middleSeconds = wide.reduce((sum, row) => sum + row.aSeconds, 0) / wide.length;
	const stacked = stackWindows(wide, { middleSeconds, searchedSeconds: SEARCHED_SECONDS, mostSlope: 0 });
	const isShort = rows.at(-1)!.aSeconds - rows[0]!.aSeconds < SHORT_STEP_SECONDS;
	const leastSeconds = isShort ? MIN_SHORT_STEP_SECONDS : MIN_STEP_SECONDS;
	if (stacked.strength < MIN_STEP_STRENGTH || Math.abs(stacked.shiftSeconds) < leastSeconds) return undefined;
	const shiftSamples = stacked.shiftSeconds * ANALYSIS_SAMPLE_RATE;
	const agreeing = wide.filter(({ correlation }) => {
		const { height } = sharpPeak(correlation, (correlation.length - 1) / 2 + shiftSamples, WINDOW_PEAK_RADIUS_SAMPLES);
		return height >= MIN_WINDOW_HEIGHT;
	});
	if (agreeing.length < Math.max(MIN_STEP_WINDOWS, MIN_AGREEING_SHARE * wide.length)) return undefined;
	const shape = meanRow(
		rows.filter((_, index) => isOn[index]),
		0,
		SHAPE_RADIUS
	);
	const shift = Math.round(shiftSamples);
	const fine = bestFit(meanRow(wide, shift, SHAPE_RADIUS + FINE_RADIUS), shape);
	return {
		fromSeconds: rows[Math.max(0, split.at - 1 - DOUBTFUL_WINDOWS)]!.aSeconds - windowSeconds / 2,
		toSeconds: rows[Math.min(rows.length - 1, split.at + DOUBTFUL_WINDOWS)]!.aSeconds + windowSeconds / 2,
		offIsBefore: split.offIsBefore,
		shiftSeconds: (shift + fine) / ANALYSIS_SAMPLE_RATE
	};
}

/** Direct sound of people metres apart, and first reflections: 15 ms to either side. */
const SHAPE_RADIUS = 120;
/** Stacking is right to a millisecond. */
const FINE_RADIUS = 20;

/** Mean of rows about a shift from their middle, in samples. */
function meanRow(rows: readonly WindowRow[], shift: number, radius: number): Float32Array {
	const mean = new Float32Array(2 * radius + 1);
	for (const { correlation } of rows) {
		const middle = (correlation.length - 1) / 2 + shift;
		for (let k = -radius; k <= radius; k++)
			mean[k + radius] = mean[k + radius]! + (correlation[middle + k] ?? 0) / rows.length;
	}
	return mean;
}

/** How far from its middle a shape lies in a longer row. */
function bestFit(row: Float32Array, shape: Float32Array): number {
	let best = { shift: 0, product: -Infinity };
	for (let shift = 0; shift + shape.length <= row.length; shift++) {
		let product = 0;
		for (let i = 0; i < shape.length; i++) product += row[shift + i]! * shape[i]!;
		if (product > best.product) best = { shift, product };
	}
	return best.shift - (row.length - shape.length) / 2;
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
		if (offCount < MIN_STEP_WINDOWS || off > OFF_SHARE || on < ON_SHARE) continue;
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
