import {
	FIRST_LOOK_SECONDS,
	FIRST_LOOK_SLOPE_ERROR,
	MIN_INLIERS,
	MIN_SHAPE_PEAK,
	MIN_SURE_HEIGHT,
	MIN_WINDOW_HEIGHT,
	RATE_OVERLAP_SECONDS,
	SURE_STRENGTH
} from '../../limits/match';
import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import { robustLine } from '../../fitting/robust-fit';
import { commonShape } from '../windows/common-shape';
import { type LagLine, straight } from '../windows/lag-curve';
import type { ExpectedLag, Overlap, WindowRow } from '../windows/listening-windows';
import { stackWindows } from '../windows/stacking';
import { sharpPeak } from '../windows/window-correlation';

/** How far a window's own peak may lie from the stacked line: people move, rooms are wide. */
const WINDOW_PEAK_RADIUS_SECONDS = 0.006;
const SHAPE_PEAK_RADIUS_SAMPLES = 24;

/** One moment that both clips heard: its time in a and in b, and how much it counts (0 to 1). */
export interface SharedMoment {
	readonly aSeconds: number;
	readonly bSeconds: number;
	readonly weight: number;
}

/** Windows correlated about an expected lag, and the line that stands out of them. */
export interface Look {
	readonly rows: readonly WindowRow[];
	readonly about: ExpectedLag;
	readonly line: LagLine;
	readonly strength: number;
}

export interface Fit {
	/** Place of b's sound against the expected one. */
	readonly line: LagLine;
	readonly spread: number;
	readonly inliers: number;
	readonly moments: readonly SharedMoment[];
	/** Mean height of the agreeing windows' peaks, over all windows. */
	readonly height: number;
	/** Weight of each window, by the centre that was asked for. */
	readonly weights: ReadonlyMap<number, number>;
}

/** A window's finding: what b's time is for the same moment. */
interface Finding {
	readonly centre: number;
	readonly aSeconds: number;
	readonly bSeconds: number;
	/** Of its peak, over its root mean square. */
	readonly height: number;
}

export function lineThroughPeaks(look: Look, overlap: Overlap): Fit | undefined {
	const rate = ANALYSIS_SAMPLE_RATE;
	const expected = straight(look.line);
	const leastHeight = look.strength >= SURE_STRENGTH ? MIN_SURE_HEIGHT : MIN_WINDOW_HEIGHT;
	const findings: Finding[] = [];
	for (const { centre, aSeconds, bSeconds, correlation } of look.rows) {
		const reach = (correlation.length - 1) / 2;
		const around = reach + (expected.at(aSeconds) - look.about.at(aSeconds)) * rate;
		const peak = sharpPeak(correlation, around, WINDOW_PEAK_RADIUS_SECONDS * rate);
		if (peak.height < leastHeight) continue;
		findings.push({ centre, aSeconds, bSeconds: bSeconds + (peak.index - reach) / rate, height: peak.height });
	}
	return fitLine(findings, look.rows.length, overlap, expected, look.line.middleSeconds);
}

/** Windows about a line that is known near one place, as the line that goes on from it through all of them. */
export function followedLook(
	rows: readonly WindowRow[],
	about: ExpectedLag,
	near: LagLine,
	overlap: Overlap
): Look | undefined {
	if (rows.length < MIN_INLIERS) return undefined;
	const middleSeconds = (overlap.fromSeconds + overlap.toSeconds) / 2;
	const farthest = Math.abs(middleSeconds - near.middleSeconds) + FIRST_LOOK_SECONDS / 2;
	const reachSeconds = (rows[0]!.correlation.length - 1) / 2 / ANALYSIS_SAMPLE_RATE;
	const stacked = stackWindows(rows, {
		middleSeconds,
		searchedSeconds: Math.min(0.8 * reachSeconds, 0.01 + FIRST_LOOK_SLOPE_ERROR * farthest),
		mostSlope: FIRST_LOOK_SLOPE_ERROR
	});
	const line = {
		middleSeconds,
		interceptSeconds: about.at(middleSeconds) + stacked.shiftSeconds,
		slope: near.slope + stacked.slope
	};
	return { rows, about, line, strength: stacked.strength };
}

/** What must be left of a window's lags to either side: the common shape, and how far it may be shifted. */
const LEAST_REACH_SECONDS = 0.025;

/** Windows about one course as windows about another that is near it, all to the same reach; none where it is too far away. */
export function laidAbout(course: ExpectedLag, rows: readonly WindowRow[], before: ExpectedLag): readonly WindowRow[] {
	const shifts = rows.map(({ aSeconds }) =>
		Math.round((course.at(aSeconds) - before.at(aSeconds)) * ANALYSIS_SAMPLE_RATE)
	);
	const most = Math.max(...shifts.map(Math.abs));
	const reach = ((rows[0]?.correlation.length ?? 1) - 1) / 2;
	if (reach - most < LEAST_REACH_SECONDS * ANALYSIS_SAMPLE_RATE) return [];
	return rows.map((row, index) => {
		const shift = shifts[index]!;
		const { correlation } = row;
		return {
			...row,
			bSeconds: row.bSeconds + shift / ANALYSIS_SAMPLE_RATE,
			correlation: correlation.subarray(most + shift, correlation.length - most + shift)
		};
	});
}

/** A line through the findings, as they leave the expected course. */
function fitLine(
	findings: readonly Finding[],
	windows: number,
	overlap: Overlap,
	course: ExpectedLag,
	middleSeconds: number
): Fit | undefined {
	if (findings.length === 0) return undefined;
	const xs = Float64Array.from(findings, ({ aSeconds }) => aSeconds - middleSeconds);
	const ys = Float64Array.from(
		findings,
		({ aSeconds, bSeconds }) => bSeconds - (aSeconds - overlap.lagSeconds) - course.at(aSeconds)
	);
	const fixedSlope = overlap.toSeconds - overlap.fromSeconds < RATE_OVERLAP_SECONDS || findings.length < 4;
	const line = robustLine(xs, ys, { intercept: 0, slope: 0 }, 0.1e-3, fixedSlope);
	return {
		line: {
			middleSeconds,
			interceptSeconds: course.at(middleSeconds) + line.intercept,
			slope: course.slopeAt(middleSeconds) + line.slope
		},
		spread: line.spread,
		inliers: line.weights.reduce((sum, weight) => sum + (weight > 0.1 ? 1 : 0), 0),
		height: findings.reduce((sum, { height }, i) => sum + (line.weights[i]! > 0.1 ? height : 0), 0) / windows,
		moments: findings.flatMap(({ aSeconds, bSeconds }, i) =>
			line.weights[i]! > 0 ? [{ aSeconds, bSeconds, weight: line.weights[i]! }] : []
		),
		weights: new Map(findings.map(({ centre }, i) => [centre, line.weights[i]!]))
	};
}

/**
 * The windows once more, correlated with the clocks' difference taken out, which otherwise smears each of them.
 * @param rows about the course @param slopeReach see `commonShape`
 */
export function refine(
	rows: readonly WindowRow[],
	overlap: Overlap,
	course: ExpectedLag,
	slopeReach?: number
): Fit | undefined {
	if (rows.length < MIN_INLIERS) return undefined;
	const middleSeconds = (overlap.fromSeconds + overlap.toSeconds) / 2;
	const { shifts } = commonShape(
		rows.map((row) => row.correlation),
		rows.map((row) => row.aSeconds - middleSeconds),
		overlap.toSeconds - overlap.fromSeconds,
		slopeReach
	);
	const findings = rows.flatMap(({ centre, aSeconds, bSeconds, correlation }, index) => {
		const shift = shifts[index];
		if (shift === undefined) return [];
		const peak = sharpPeak(correlation, (correlation.length - 1) / 2 + shift, SHAPE_PEAK_RADIUS_SAMPLES);
		if (peak.height < MIN_SHAPE_PEAK) return [];
		return [{ centre, aSeconds, bSeconds: bSeconds + shift / ANALYSIS_SAMPLE_RATE, height: peak.height }];
	});
	return fitLine(findings, rows.length, overlap, course, middleSeconds);
}
