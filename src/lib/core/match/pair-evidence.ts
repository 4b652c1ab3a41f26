import { ANALYSIS_SAMPLE_RATE } from '../features/band-features';
import { robustLine } from '../fitting/robust-fit';
import { type ClockSlope, clockSlope } from './clock-slope';
import { commonShape } from './common-shape';
import { MOST_RATE_DIFFERENCE } from './find-places';
import { lagCurve, type LagLine, straight } from './lag-curve';
import {
	AS_IS,
	type ExpectedLag,
	type Limits,
	listeningSpans,
	type Overlap,
	overlapOf,
	type Pair,
	SPANNED_OVERLAP_SECONDS,
	type Span,
	windowCentres,
	windowRows,
	type WindowRow
} from './listening-windows';
import { inLags, type LagStep, lagStep, STEP_REACH_SECONDS } from './lag-step';
import { stackWindows } from './stacking';
import { sharpPeak, type WindowCorrelator } from './window-correlation';

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
	/** Whether the lag bends along the overlap: a clock that wanders. */
	readonly bends: boolean;
	/** Where the lag leaps to another value, if it does: one of the two lost samples. */
	readonly step?: LagStep;
}

/** A lag to look at closely. */
export interface Place {
	readonly lagSeconds: number;
	/** Where in a it was found; the lag is least certain far from it. */
	readonly aroundSeconds?: number;
	/** How far the lag may be off there. */
	readonly errorSeconds?: number;
	/** a's time of the line-up's zero (see `listeningSpans`). */
	readonly gridSeconds?: number;
	readonly limits?: Limits;
}

const MOST_WINDOWS = 40;
/** So many windows are tried first; a true place of clear sound needs no more. */
const FIRST_WINDOWS = 16;
const CLEAR_STRENGTH = 18;
/** With the least reach it just fits a transform of 65 536. */
const LONGEST_WINDOW_SECONDS = 6.9;
const SHORTEST_WINDOW_SECONDS = 0.75;
/** A coarse lag is known to this. */
const COARSE_ERROR_SECONDS = 0.1;
/** Lags looked at beyond what is searched: reverberation fills the near ones, chance must be told from the far. */
const LEAST_REACH_SECONDS = 0.6;
/** The first look keeps to so much time about the place, where the clocks have not parted yet. */
export const FIRST_LOOK_SECONDS = 240;
/** A line through the first look may lean so much: speakers move about in a room (ppm over its length). */
const FIRST_LOOK_SLOPE_ERROR = 30e-6;
/** Lags looked at about the first look's line, over all of the overlap. */
const WHOLE_REACH_SECONDS = 0.25;
/** Lags looked at in the last pass: enough of what is no peak to scale by. */
const REFINE_REACH_SECONDS = 0.12;
/** Windows of the last pass for clear sound: with the reach they just fit a transform of 32 768. */
const CLEAR_WINDOW_SECONDS = 3.8;
/** How far a window's own peak may lie from the stacked line: people move, rooms are wide. */
const WINDOW_PEAK_RADIUS_SECONDS = 0.006;
/** Peak of one window over its root mean square; noise alone stays below 4.5 in such short ranges. */
const LEAST_WINDOW_HEIGHT = 5;
/** A window that fits the common shape must show a peak there too; chance gives 3 within such a radius. */
const LEAST_SHAPE_PEAK = 3.5;
const SHAPE_PEAK_RADIUS_SAMPLES = 24;
/** Stacked height below which no more is asked: chance reached 7.7 in some hundred false pairs, true ones begin at 20. */
export const LEAST_STRENGTH = 9;
const LEAST_INLIERS = 3;
const LEAST_INLIER_SHARE = 0.25;
/** Rates are told from overlaps of this length on: 1 ms of scatter is then 50 ppm. */
const RATE_OVERLAP_SECONDS = 20;
const LEAST_OVERLAP_SECONDS = 1.2;
/** From shorter overlaps a slope would be known no better than clocks are guessed. */
const SLOPE_OVERLAP_SECONDS = 9;
/** With its reach it just fits a transform of 16 384. */
const LONGEST_SLOPE_WINDOW_SECONDS = 1.9;
const MOST_SLOPE_WINDOWS = 120;
/** Talkers differ by their ways through the air: 24 ms are 8 m. */
const SLOPE_REACH_SECONDS = 0.024;
/** How far the first line's slope may be off. */
const SLOPE_SEARCH = 150e-6;

/**
 * Looks closely at one place.
 * @param a 16-bit mono at `ANALYSIS_SAMPLE_RATE` @param b likewise
 * @returns nothing when the sound does not agree
 */
export function pairEvidence(
	a: Int16Array,
	b: Int16Array,
	place: Place,
	correlate: WindowCorrelator
): PairEvidence | undefined {
	const pair: Pair = { a, b, correlate };
	const overlap = overlapOf(a, b, place.lagSeconds, place.limits);
	const overlapSeconds = overlap.toSeconds - overlap.fromSeconds;
	if (overlapSeconds < LEAST_OVERLAP_SECONDS) return undefined;
	const windowSeconds = Math.max(SHORTEST_WINDOW_SECONDS, Math.min(LONGEST_WINDOW_SECONDS, overlapSeconds / 6));
	const near = firstLook(pair, overlap, place, windowSeconds);
	if (!near) return undefined;
	const spans = listeningSpans(overlap, place.gridSeconds ?? 0);
	const look = overlapSeconds <= FIRST_LOOK_SECONDS ? near : wholeLook(pair, overlap, near, spans, windowSeconds);
	const peaks = lineThroughPeaks(look, overlap);
	if (!peaks || peaks.inliers < LEAST_INLIERS) return undefined;

	const curve = lagCurve(look.rows, look.about, look.line, overlapSeconds);
	const course = curve ?? straight(peaks.line);
	const isClear = Math.max(near.strength, look.strength) >= CLEAR_STRENGTH;
	const lastSeconds = isClear ? Math.min(windowSeconds, CLEAR_WINDOW_SECONDS) : windowSeconds;
	const count = Math.max(2, Math.min(MOST_WINDOWS, Math.ceil((1.2 * overlapSeconds) / lastSeconds)));
	const centres = windowCentres(spans, lastSeconds, count);
	const rows = windowRows(pair, overlap.lagSeconds, centres, lastSeconds, REFINE_REACH_SECONDS, course);
	const fit = refine(rows, overlap, course) ?? peaks;
	if (fit.inliers < LEAST_INLIERS || fit.inliers < LEAST_INLIER_SHARE * rows.length) return undefined;
	const slope = curve ? undefined : slopeBetween(pair, overlap, spans, fit.line);
	const step = lagStep(rows, fit.weights, lastSeconds, (leftover) =>
		windowRows(pair, place.lagSeconds, leftover, windowSeconds, STEP_REACH_SECONDS, straight(fit.line))
	);
	return {
		lagSeconds: place.lagSeconds - fit.line.interceptSeconds,
		...(slope ? { rate: { differencePpm: slope.slope * 1e6, deviationPpm: slope.deviation * 1e6 } } : {}),
		overlapSeconds,
		windows: rows.length,
		inliers: fit.inliers,
		residualSeconds: fit.spread,
		strength: Math.max(near.strength, look.strength),
		moments: fit.moments,
		bends: curve !== undefined,
		...(step ? { step: inLags(step, place.lagSeconds, fit.line) } : {})
	};
}

/**
 * Whether a place is worth more of a long file: the first look alone.
 */
export function isWorthMore(a: Int16Array, b: Int16Array, place: Place, correlate: WindowCorrelator): boolean {
	const overlap = overlapOf(a, b, place.lagSeconds, place.limits);
	if (overlap.toSeconds - overlap.fromSeconds < LEAST_OVERLAP_SECONDS) return false;
	return firstLook({ a, b, correlate }, overlap, place, LONGEST_WINDOW_SECONDS) !== undefined;
}

/** What is listened to of an overlap: for the first look, and in all; a's seconds. */
export function spansOf(
	aSamples: number,
	bSamples: number,
	place: Place
): { readonly first: Span; readonly all: readonly Span[] } | undefined {
	const overlap = overlapOf({ length: aSamples }, { length: bSamples }, place.lagSeconds, place.limits);
	if (overlap.toSeconds - overlap.fromSeconds < LEAST_OVERLAP_SECONDS) return undefined;
	return {
		first: neighbourhood(overlap, place.aroundSeconds),
		all: listeningSpans(overlap, place.gridSeconds ?? 0)
	};
}

/** Windows correlated about an expected lag, and the line that stands out of them. */
interface Look {
	readonly rows: readonly WindowRow[];
	readonly about: ExpectedLag;
	readonly line: LagLine;
	readonly strength: number;
}

/** Is there anything at all? Looks at the neighbourhood of the place, first with few windows. */
function firstLook(pair: Pair, overlap: Overlap, place: Place, windowSeconds: number): Look | undefined {
	const span = neighbourhood(overlap, place.aroundSeconds);
	const seconds = span.toSeconds - span.fromSeconds;
	const middleSeconds = (span.fromSeconds + span.toSeconds) / 2;
	const count = Math.max(2, Math.min(MOST_WINDOWS, Math.floor((1.5 * seconds) / windowSeconds)));
	const searchedSeconds = (place.errorSeconds ?? COARSE_ERROR_SECONDS) + seconds * MOST_RATE_DIFFERENCE * 0.5;
	const reachSeconds = Math.max(LEAST_REACH_SECONDS, 2 * searchedSeconds);
	const mostSlope = seconds < RATE_OVERLAP_SECONDS / 2 ? 0 : MOST_RATE_DIFFERENCE;
	const look = (centres: readonly number[]) =>
		windowRows(pair, overlap.lagSeconds, centres, windowSeconds, reachSeconds, AS_IS);
	const centres = windowCentres([span], windowSeconds, count);
	// Every second or third first, the others where these do not make it clear.
	const stride = Math.ceil(count / FIRST_WINDOWS);
	let rows = look(centres.filter((_, index) => index % stride === 0));
	let stacked = rows.length >= 2 ? stackWindows(rows, { middleSeconds, searchedSeconds, mostSlope }) : undefined;
	if (stride > 1 && (stacked?.strength ?? 0) < CLEAR_STRENGTH) {
		rows = [...rows, ...look(centres.filter((_, index) => index % stride !== 0))];
		rows = [...rows].sort((x, y) => x.centre - y.centre);
		if (rows.length >= 2) stacked = stackWindows(rows, { middleSeconds, searchedSeconds, mostSlope });
	}
	if (!stacked || stacked.strength < LEAST_STRENGTH) return undefined;
	const line = { middleSeconds, interceptSeconds: stacked.shiftSeconds, slope: stacked.slope };
	return { rows, about: AS_IS, line, strength: stacked.strength };
}

function neighbourhood(overlap: Overlap, aroundSeconds: number | undefined): Span {
	const { fromSeconds, toSeconds } = overlap;
	if (toSeconds - fromSeconds <= FIRST_LOOK_SECONDS) return overlap;
	const wanted = (aroundSeconds ?? (fromSeconds + toSeconds) / 2) - FIRST_LOOK_SECONDS / 2;
	const from = Math.max(fromSeconds, Math.min(toSeconds - FIRST_LOOK_SECONDS, wanted));
	return { fromSeconds: from, toSeconds: from + FIRST_LOOK_SECONDS };
}

/** From the neighbourhood to the whole overlap: the line is known well enough to be followed to both ends. */
function wholeLook(pair: Pair, overlap: Overlap, near: Look, spans: readonly Span[], windowSeconds: number): Look {
	const nearLine = lineThroughPeaks(near, overlap)?.line ?? near.line;
	const about = straight(nearLine);
	const middleSeconds = (overlap.fromSeconds + overlap.toSeconds) / 2;
	const isLong = overlap.toSeconds - overlap.fromSeconds > SPANNED_OVERLAP_SECONDS;
	const count = near.strength >= CLEAR_STRENGTH && !isLong ? FIRST_WINDOWS : MOST_WINDOWS;
	const centres = windowCentres(spans, windowSeconds, count);
	const rows = windowRows(pair, overlap.lagSeconds, centres, windowSeconds, WHOLE_REACH_SECONDS, about);
	if (rows.length < LEAST_INLIERS) return near;
	const farthest = Math.abs(middleSeconds - nearLine.middleSeconds) + FIRST_LOOK_SECONDS / 2;
	const stacked = stackWindows(rows, {
		middleSeconds,
		searchedSeconds: Math.min(0.8 * WHOLE_REACH_SECONDS, 0.01 + FIRST_LOOK_SLOPE_ERROR * farthest),
		mostSlope: FIRST_LOOK_SLOPE_ERROR
	});
	const line = {
		middleSeconds,
		interceptSeconds: about.at(middleSeconds) + stacked.shiftSeconds,
		slope: nearLine.slope + stacked.slope
	};
	return { rows, about, line, strength: stacked.strength };
}

interface Fit {
	/** Place of b's sound against the expected one. */
	readonly line: LagLine;
	readonly spread: number;
	readonly inliers: number;
	readonly moments: readonly SharedMoment[];
	/** Weight of each window, by the centre that was asked for. */
	readonly weights: ReadonlyMap<number, number>;
}

/** A window's finding: what b's time is for the same moment. */
interface Finding {
	readonly centre: number;
	readonly aSeconds: number;
	readonly bSeconds: number;
}

function lineThroughPeaks(look: Look, overlap: Overlap): Fit | undefined {
	const rate = ANALYSIS_SAMPLE_RATE;
	const expected = straight(look.line);
	const findings: Finding[] = [];
	for (const { centre, aSeconds, bSeconds, correlation } of look.rows) {
		const reach = (correlation.length - 1) / 2;
		const around = reach + (expected.at(aSeconds) - look.about.at(aSeconds)) * rate;
		const peak = sharpPeak(correlation, around, WINDOW_PEAK_RADIUS_SECONDS * rate);
		if (peak.height < LEAST_WINDOW_HEIGHT) continue;
		findings.push({ centre, aSeconds, bSeconds: bSeconds + (peak.index - reach) / rate });
	}
	return fitLine(findings, overlap, expected, look.line.middleSeconds);
}

/** A line through the findings, as they leave the expected course. */
function fitLine(
	findings: readonly Finding[],
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
		moments: findings.flatMap(({ aSeconds, bSeconds }, i) =>
			line.weights[i]! > 0 ? [{ aSeconds, bSeconds, weight: line.weights[i]! }] : []
		),
		weights: new Map(findings.map(({ centre }, i) => [centre, line.weights[i]!]))
	};
}

/**
 * The windows once more, correlated with the clocks' difference taken out, which otherwise smears each of them.
 * @param rows about the course
 */
function refine(rows: readonly WindowRow[], overlap: Overlap, course: ExpectedLag): Fit | undefined {
	if (rows.length < LEAST_INLIERS) return undefined;
	const middleSeconds = (overlap.fromSeconds + overlap.toSeconds) / 2;
	const { shifts } = commonShape(
		rows.map((row) => row.correlation),
		rows.map((row) => row.aSeconds - middleSeconds),
		overlap.toSeconds - overlap.fromSeconds
	);
	const findings = rows.flatMap(({ centre, aSeconds, bSeconds, correlation }, index) => {
		const shift = shifts[index];
		if (shift === undefined) return [];
		const peak = sharpPeak(correlation, (correlation.length - 1) / 2 + shift, SHAPE_PEAK_RADIUS_SAMPLES);
		if (peak.height < LEAST_SHAPE_PEAK) return [];
		return [{ centre, aSeconds, bSeconds: bSeconds + shift / ANALYSIS_SAMPLE_RATE }];
	});
	return fitLine(findings, overlap, course, middleSeconds);
}

/** The clocks' difference from many windows so short that one talker fills each. */
function slopeBetween(pair: Pair, overlap: Overlap, spans: readonly Span[], line: LagLine): ClockSlope | undefined {
	const overlapSeconds = overlap.toSeconds - overlap.fromSeconds;
	if (overlapSeconds < SLOPE_OVERLAP_SECONDS) return undefined;
	const windowSeconds = Math.min(LONGEST_SLOPE_WINDOW_SECONDS, overlapSeconds / 12);
	const count = Math.min(MOST_SLOPE_WINDOWS, Math.floor((1.2 * overlapSeconds) / windowSeconds));
	const centres = windowCentres(spans, windowSeconds, count);
	const rows = windowRows(pair, overlap.lagSeconds, centres, windowSeconds, SLOPE_REACH_SECONDS, straight(line));
	const times: number[] = [];
	const lags: number[] = [];
	for (const { aSeconds, correlation } of rows) {
		const reach = (correlation.length - 1) / 2;
		const peak = sharpPeak(correlation, reach, reach);
		if (peak.height < LEAST_WINDOW_HEIGHT) continue;
		times.push(aSeconds - line.middleSeconds);
		lags.push((peak.index - reach) / ANALYSIS_SAMPLE_RATE);
	}
	const left = clockSlope(times, lags, Math.max(1, RATE_OVERLAP_SECONDS / overlapSeconds) * SLOPE_SEARCH);
	return left && { ...left, slope: left.slope + line.slope };
}
