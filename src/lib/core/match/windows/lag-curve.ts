import { BENDING_OVERLAP_SECONDS, MIN_BEND_SECONDS, MIN_GROUPS, MIN_GROUP_STRENGTH } from '../../limits/match';
import { robustPolynomial } from '../../fitting/robust-fit';
import type { ExpectedLag, WindowRow } from './listening-windows';
import { stackWindows } from './stacking';

const WINDOWS_A_GROUP = 4;
const SEARCHED_SECONDS = 0.03;

/** A line of lags about a middle. */
export interface LagLine {
	readonly middleSeconds: number;
	readonly interceptSeconds: number;
	readonly slope: number;
}

export function straight({ middleSeconds, interceptSeconds, slope }: LagLine): ExpectedLag {
	return { at: (aSeconds) => interceptSeconds + slope * (aSeconds - middleSeconds), slopeAt: () => slope };
}

/**
 * The course of the lag over hours: a cubic where clocks bend with temperature. Neighbouring windows are stacked about
 * the line, and a robust cubic goes through what they give.
 * @param rows correlations about `about`
 * @returns nothing where the line will do
 */
export function lagCurve(
	rows: readonly WindowRow[],
	about: ExpectedLag,
	line: LagLine,
	overlapSeconds: number
): ExpectedLag | undefined {
	if (overlapSeconds < BENDING_OVERLAP_SECONDS) return undefined;
	const half = overlapSeconds / 2;
	const expected = straight(line);
	const xs: number[] = [];
	const ys: number[] = [];
	for (let from = 0; from < rows.length; from += WINDOWS_A_GROUP) {
		const group = rows.slice(from, from + WINDOWS_A_GROUP);
		const middleSeconds = group.reduce((sum, row) => sum + row.aSeconds, 0) / group.length;
		const centreSeconds = expected.at(middleSeconds) - about.at(middleSeconds);
		const stacked = stackWindows(group, {
			middleSeconds,
			centreSeconds,
			searchedSeconds: SEARCHED_SECONDS,
			mostSlope: 0
		});
		if (stacked.strength < MIN_GROUP_STRENGTH) continue;
		xs.push((middleSeconds - line.middleSeconds) / half);
		ys.push(stacked.shiftSeconds - centreSeconds);
	}
	if (xs.length < MIN_GROUPS) return undefined;
	const { coefficients, agreeing } = robustPolynomial(xs, ys, 3, 1.5e-3);
	const [c0, c1, c2, c3] = coefficients as unknown as readonly [number, number, number, number];
	const bend = Math.max(...[-1, -0.5, 0.5, 1].map((x) => Math.abs(c2 * x * x + c3 * x * x * x)));
	if (bend < MIN_BEND_SECONDS || agreeing < 0.6 * xs.length) return undefined;
	const scaled = (aSeconds: number) => (aSeconds - line.middleSeconds) / half;
	return {
		at: (aSeconds) => {
			const x = scaled(aSeconds);
			return expected.at(aSeconds) + c0 + x * (c1 + x * (c2 + x * c3));
		},
		slopeAt: (aSeconds) => {
			const x = scaled(aSeconds);
			return line.slope + (c1 + x * (2 * c2 + 3 * x * c3)) / half;
		}
	};
}
