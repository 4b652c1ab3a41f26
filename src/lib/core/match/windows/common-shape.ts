import { MIN_SHAPE_LIKENESS } from '../../limits/match';
import { robustLine } from '../../fitting/robust-fit';
import { sharpPeak } from './window-correlation';

export interface CommonShape {
	/** For each window, how far its correlation lies from the middle, in samples; nothing for one that fits badly. */
	readonly shifts: readonly (number | undefined)[];
	/** Line through the shifts over `times`: samples, samples a second. */
	readonly line: { readonly intercept: number; readonly slope: number };
}

/** Part of the correlation that makes the shape: direct sound and first reflections, in samples to either side. */
const SHAPE_RADIUS = 120;
/** How far a window may lie from the line. */
const SHIFT_RADIUS = 24;
/** How far the slope may still be off, as samples at the ends of the overlap; steps of a quarter of a sample. */
export const SLOPE_REACH_SAMPLES = 12;
const SLOPE_STEPS_A_SAMPLE = 4;
const ROUNDS = 3;

/**
 * In a room a window's correlation has many peaks, and which is highest is chance; their pattern stays. So all windows
 * are laid over each other along the line so far, their mean is the shape, each window is fitted to the shape, and a new
 * line goes through the fits. The shape's own highest peak, the direct sound, gives the lag.
 *
 * @param rows correlations about the expected lag, odd length, the middle is "as expected"
 * @param times of the windows, in seconds about the middle of the overlap
 * @param slopeReach how far the slope may be off, in samples at the ends
 */
export function commonShape(
	rows: readonly Float32Array[],
	times: readonly number[],
	overlapSeconds: number,
	slopeReach = SLOPE_REACH_SAMPLES
): CommonShape {
	const middle = (rows[0]!.length - 1) / 2;
	let line = { intercept: 0, slope: steepest(rows, times, middle, slopeReach) };
	let shifts: (number | undefined)[] = [];
	for (let round = 0; round < ROUNDS; round++) {
		const shape = meanShape(rows, times, line, middle);
		const peak = sharpPeak(shape, SHAPE_RADIUS + SHIFT_RADIUS, SHIFT_RADIUS);
		const centred = peak.index - (SHAPE_RADIUS + SHIFT_RADIUS);
		const from = Math.round(peak.index) - SHAPE_RADIUS / 2;
		const core = shape.subarray(Math.max(0, from), from + SHAPE_RADIUS);
		shifts = rows.map((row, index) => {
			const expected = line.intercept + line.slope * times[index]!;
			const off = shiftOf(row, core, middle - (SHAPE_RADIUS + SHIFT_RADIUS) + Math.max(0, from), expected);
			return off === undefined ? undefined : off + centred;
		});
		const known = shifts.flatMap((shift, index) => (shift === undefined ? [] : [[times[index]!, shift] as const]));
		if (known.length < 3) break;
		const next = robustLine(
			Float64Array.from(known, ([x]) => x),
			Float64Array.from(known, ([, y]) => y),
			{ intercept: line.intercept + centred, slope: line.slope },
			0.8,
			overlapSeconds < 20 || known.length < 4
		);
		line = { intercept: next.intercept, slope: next.slope };
	}
	return { shifts, line };
}

/**
 * The slope at which the windows' patterns reinforce each other most: the power of their sum, sign and all. People at
 * different places make different patterns; each agrees with its own kind, and all with the one clock.
 */
function steepest(rows: readonly Float32Array[], times: readonly number[], middle: number, reach: number): number {
	const farthest = Math.max(...times.map(Math.abs));
	if (!(farthest > 0)) return 0;
	let best = { slope: 0, power: -1 };
	for (let step = -reach * SLOPE_STEPS_A_SAMPLE; step <= reach * SLOPE_STEPS_A_SAMPLE; step++) {
		const slope = step / SLOPE_STEPS_A_SAMPLE / farthest;
		let power = 0;
		for (const value of meanShape(rows, times, { intercept: 0, slope }, middle)) power += value * value;
		if (power > best.power) best = { slope, power };
	}
	return best.slope;
}

function meanShape(
	rows: readonly Float32Array[],
	times: readonly number[],
	line: CommonShape['line'],
	middle: number
): Float32Array {
	const radius = SHAPE_RADIUS + SHIFT_RADIUS;
	const shape = new Float32Array(2 * radius + 1);
	for (const [index, row] of rows.entries()) {
		const at = middle + line.intercept + line.slope * times[index]!;
		const whole = Math.floor(at);
		const part = at - whole;
		for (let k = -radius; k <= radius; k++) {
			const x = row[whole + k] ?? 0;
			const y = row[whole + k + 1] ?? 0;
			shape[k + radius] = shape[k + radius]! + x + part * (y - x);
		}
	}
	return shape;
}

/** Where `core` fits a row best, against the place `expected` shifts it to. */
function shiftOf(row: Float32Array, core: Float32Array, coreAt: number, expected: number): number | undefined {
	const likeness = new Float32Array(2 * SHIFT_RADIUS + 1);
	const base = coreAt + Math.round(expected);
	let coreSquares = 0;
	for (const value of core) coreSquares += value * value;
	for (let k = -SHIFT_RADIUS; k <= SHIFT_RADIUS; k++) {
		let product = 0;
		let squares = 0;
		for (let i = 0; i < core.length; i++) {
			const value = row[base + k + i] ?? 0;
			product += value * core[i]!;
			squares += value * value;
		}
		likeness[k + SHIFT_RADIUS] = product / Math.sqrt(coreSquares * squares + 1e-20);
	}
	let best = 0;
	for (let k = 1; k < likeness.length; k++) if (likeness[k]! > likeness[best]!) best = k;
	if (likeness[best]! < MIN_SHAPE_LIKENESS) return undefined;
	return sharpPeak(likeness, best, 1).index - SHIFT_RADIUS + Math.round(expected);
}
