import { median } from './median';
import { type Equation, leastSquares } from './least-squares';

export interface Line {
	/** Value at x = 0. */
	readonly intercept: number;
	readonly slope: number;
	/** Robust spread of the values that lie on the line (1.48 times the median deviation). */
	readonly spread: number;
	/** For each point, 1 on the line to 0 far from it. */
	readonly weights: Float64Array;
}

/**
 * A straight line through points of which some are wrong: least squares, weighted again and again by Tukey's
 * biweight (Beaton and Tukey 1974; the constant 4.685 gives 95% efficiency on normal errors).
 * @param begin a line to begin from, near the truth
 * @param leastSpread the spread is never taken for smaller than this
 * @param fixedSlope keeps the slope of `begin` (for spans too short to tell it)
 */
export function robustLine(
	xs: Float64Array,
	ys: Float64Array,
	begin: { readonly intercept: number; readonly slope: number },
	leastSpread: number,
	fixedSlope: boolean
): Line {
	let { intercept, slope } = begin;
	const weights = new Float64Array(xs.length).fill(1);
	let spread = leastSpread;
	for (let round = 0; round < 20; round++) {
		spread = Math.max(leastSpread, 1.4826 * medianDeviation(xs, ys, intercept, slope));
		const reach = 4.685 * spread;
		let [sw, sx, sy, sxx, sxy] = [0, 0, 0, 0, 0];
		for (let i = 0; i < xs.length; i++) {
			const off = (ys[i]! - intercept - slope * xs[i]!) / reach;
			const weight = Math.abs(off) < 1 ? (1 - off * off) ** 2 : 0;
			weights[i] = weight;
			sw += weight;
			sx += weight * xs[i]!;
			sy += weight * ys[i]!;
			sxx += weight * xs[i]! * xs[i]!;
			sxy += weight * xs[i]! * ys[i]!;
		}
		if (sw === 0) break;
		const determinant = sw * sxx - sx * sx;
		const nextSlope = fixedSlope || determinant < 1e-9 * sw * sw ? slope : (sw * sxy - sx * sy) / determinant;
		const nextIntercept = (sy - nextSlope * sx) / sw;
		const moved = Math.abs(nextIntercept - intercept) + Math.abs(nextSlope - slope);
		intercept = nextIntercept;
		slope = nextSlope;
		if (moved < 1e-12) break;
	}
	return { intercept, slope, spread, weights };
}

function medianDeviation(xs: Float64Array, ys: Float64Array, intercept: number, slope: number): number {
	return ys.length === 0 ? 0 : median(ys.map((y, i) => Math.abs(y - intercept - slope * xs[i]!)));
}

/**
 * A polynomial through points of which some are wrong, weighted like `robustLine`.
 * @param xs within about ±1: higher powers would swamp the equations otherwise
 * @returns coefficients from the constant up, and how many points lie on it
 */
export function robustPolynomial(
	xs: readonly number[],
	ys: readonly number[],
	degree: number,
	leastSpread: number
): { readonly coefficients: Float64Array; readonly agreeing: number } {
	let weights = xs.map(() => 1);
	let coefficients: Float64Array = new Float64Array(degree + 1);
	for (let round = 0; round < 12; round++) {
		coefficients = leastSquares(degree + 1, [
			// Hardly felt, but keeps the equations solvable where points are few.
			...Array.from({ length: degree + 1 }, (_, k): Equation => ({ terms: [[k, 1]], value: 0, weight: 1e-6 })),
			...xs.map((x, i): Equation => ({
				terms: Array.from({ length: degree + 1 }, (_, k) => [k, x ** k] as const),
				value: ys[i]!,
				weight: weights[i]!
			}))
		]);
		const off = xs.map((x, i) => Math.abs(ys[i]! - polynomialAt(coefficients, x)));
		const spread = Math.max(leastSpread, 1.4826 * median(off));
		weights = off.map((one) => (one < 4.685 * spread ? (1 - (one / (4.685 * spread)) ** 2) ** 2 : 0));
	}
	return { coefficients, agreeing: weights.filter((weight) => weight > 0.1).length };
}

export function polynomialAt(coefficients: ArrayLike<number>, x: number): number {
	let value = 0;
	for (let k = coefficients.length - 1; k >= 0; k--) value = value * x + coefficients[k]!;
	return value;
}
