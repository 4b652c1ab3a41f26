import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import { lineThroughPeaks, MIN_INLIERS, type Look, RATE_OVERLAP_SECONDS } from '../fit/window-fit';
import { MAX_RATE_DIFFERENCE } from './find-places';
import { straight } from '../windows/lag-curve';
import {
	AS_IS,
	type Limits,
	type Overlap,
	type Pair,
	SPANNED_OVERLAP_SECONDS,
	type Span,
	windowCentres,
	windowRows,
	type WindowRow
} from '../windows/listening-windows';
import { stackWindows } from '../windows/stacking';

/** A lag to look at closely. */
export interface Place {
	readonly lagSeconds: number;
	/** Where in a it was found; the lag is least certain far from it. */
	readonly aroundSeconds?: number;
	/** How far the lag may be off there. */
	readonly errorSeconds?: number;
	/** How the lag drifts, seconds a second, where the clocks are known well enough: it is not measured again. */
	readonly slope?: number;
	/** Where a solution says how it drifts: with it goes a quick look, if that is enough. */
	readonly predictedSlope?: number;
	/** a's time of the line-up's zero (see `listeningSpans`). */
	readonly gridSeconds?: number;
	readonly limits?: Limits;
}

export const MAX_WINDOWS = 40;
/** Some windows of a true place disagree: fewer than this leave too little. */
export const MIN_WINDOWS = 9;
/** So many windows are tried first, then so many more; a true place of clear sound needs no more. */
const FIRST_WINDOWS = [5, 16] as const;
export const CLEAR_STRENGTH = 18;
/** With the least reach it just fits a transform of 65 536. */
export const LONGEST_WINDOW_SECONDS = 6.9;
/** A coarse lag is known to this. */
const COARSE_ERROR_SECONDS = 0.1;
/** Lags looked at beyond what is searched: reverberation fills the near ones, chance must be told from the far. */
const MIN_REACH_SECONDS = 0.6;
/** The first look keeps to so much time about the place, where the clocks have not parted yet. */
export const FIRST_LOOK_SECONDS = 240;
/** A line through the first look may lean so much: speakers move about in a room (ppm over its length). */
const FIRST_LOOK_SLOPE_ERROR = 30e-6;
/** Lags looked at about the first look's line, over all of the overlap. */
const WHOLE_REACH_SECONDS = 0.25;
/** Lags looked at in the last pass: enough of what is no peak to scale by. */
export const REFINE_REACH_SECONDS = 0.12;
/** Windows of the last pass for clear sound: with the reach they just fit a transform of 32 768. */
export const CLEAR_WINDOW_SECONDS = 3.8;
/** Stacked height below which no more is asked: 1 585 looks at false places gave 6.6 at most, and one of all
 * false clips of the simulator reached 8.7. */
export const MIN_STRENGTH = 10;
/** Windows of a quick look, and the share of them that must agree. */
const QUICK_WINDOWS = 8;

/** Is there anything at all? Looks at the neighbourhood of the place, first with few windows. */
export function firstLook(pair: Pair, overlap: Overlap, place: Place, windowSeconds: number): Look | undefined {
	const span = neighbourhood(overlap, place.aroundSeconds);
	const seconds = span.toSeconds - span.fromSeconds;
	const middleSeconds = (span.fromSeconds + span.toSeconds) / 2;
	const count = Math.max(MIN_WINDOWS, Math.min(MAX_WINDOWS, Math.floor((1.5 * seconds) / windowSeconds)));
	const searchedSeconds = (place.errorSeconds ?? COARSE_ERROR_SECONDS) + seconds * MAX_RATE_DIFFERENCE * 0.5;
	const reachSeconds = Math.max(MIN_REACH_SECONDS, 2 * searchedSeconds);
	const mostSlope = seconds < RATE_OVERLAP_SECONDS / 2 ? 0 : MAX_RATE_DIFFERENCE;
	const open = new Set(windowCentres([span], windowSeconds, count));
	let rows: readonly WindowRow[] = [];
	for (const wanted of [...FIRST_WINDOWS, count]) {
		// Every so many of them first, the others where these do not make it clear.
		const stride = Math.ceil(open.size / Math.max(1, wanted - rows.length));
		const some = [...open].filter((_, index) => index % stride === 0);
		if (some.length === 0) break;
		for (const centre of some) open.delete(centre);
		const added = windowRows(pair, overlap.lagSeconds, some, windowSeconds, reachSeconds, AS_IS);
		rows = [...rows, ...added].sort((x, y) => x.centre - y.centre);
		if (rows.length < 2) continue;
		const stacked = stackWindows(rows, { middleSeconds, searchedSeconds, mostSlope });
		const strength = stacked.strength * independence(rows.length, windowSeconds, seconds);
		const isLast = open.size === 0;
		if (strength < (isLast ? MIN_STRENGTH : CLEAR_STRENGTH)) continue;
		const line = { middleSeconds, interceptSeconds: stacked.shiftSeconds, slope: stacked.slope };
		const look = { rows, about: AS_IS, line, strength };
		if (isLast || (lineThroughPeaks(look, overlap)?.inliers ?? 0) >= MIN_INLIERS) return look;
	}
	return undefined;
}

/**
 * A look at a place that is known well, lag and drift: few windows, close about it.
 * @returns nothing when these do not make it clear
 */
export function quickLook(pair: Pair, overlap: Overlap, place: Place, windowSeconds: number): Look | undefined {
	const seconds = overlap.toSeconds - overlap.fromSeconds;
	const searchedSeconds = place.errorSeconds ?? COARSE_ERROR_SECONDS;
	if (
		place.predictedSlope === undefined ||
		seconds > SPANNED_OVERLAP_SECONDS ||
		searchedSeconds > 0.6 * REFINE_REACH_SECONDS
	)
		return undefined;
	const middleSeconds = place.aroundSeconds ?? (overlap.fromSeconds + overlap.toSeconds) / 2;
	const line = { middleSeconds, interceptSeconds: 0, slope: place.predictedSlope };
	const about = straight(line);
	const centres = windowCentres([overlap], windowSeconds, QUICK_WINDOWS);
	const rows = windowRows(pair, overlap.lagSeconds, centres, windowSeconds, REFINE_REACH_SECONDS, about);
	if (rows.length < MIN_INLIERS) return undefined;
	const stacked = stackWindows(rows, { middleSeconds, searchedSeconds, mostSlope: 0 });
	const strength = stacked.strength * independence(rows.length, windowSeconds, seconds);
	if (strength < CLEAR_STRENGTH) return undefined;
	const shift = Math.round(stacked.shiftSeconds * ANALYSIS_SAMPLE_RATE);
	const found = { ...line, interceptSeconds: shift / ANALYSIS_SAMPLE_RATE };
	return {
		rows: rows.map((row) => recentred(row, shift)),
		about: straight(found),
		line: found,
		strength
	};
}

/** Windows may lie over each other by so much before they say the same twice. */
const FREE_COVERAGE = 1.5;

/** What is left of a sum's height over chance when its windows are not all independent. */
function independence(windows: number, windowSeconds: number, seconds: number): number {
	return Math.sqrt(Math.min(1, (FREE_COVERAGE * seconds) / (windows * windowSeconds)));
}

/** A row about a lag so many samples from its own. */
function recentred(row: WindowRow, shift: number): WindowRow {
	const { correlation } = row;
	return {
		...row,
		bSeconds: row.bSeconds + shift / ANALYSIS_SAMPLE_RATE,
		correlation: correlation.subarray(Math.max(0, 2 * shift), correlation.length + Math.min(0, 2 * shift))
	};
}

export function neighbourhood(overlap: Overlap, aroundSeconds: number | undefined): Span {
	const { fromSeconds, toSeconds } = overlap;
	if (toSeconds - fromSeconds <= FIRST_LOOK_SECONDS) return overlap;
	const wanted = (aroundSeconds ?? (fromSeconds + toSeconds) / 2) - FIRST_LOOK_SECONDS / 2;
	const from = Math.max(fromSeconds, Math.min(toSeconds - FIRST_LOOK_SECONDS, wanted));
	return { fromSeconds: from, toSeconds: from + FIRST_LOOK_SECONDS };
}

/** From the neighbourhood to the whole overlap: the line is known well enough to be followed to both ends. */
export function wholeLook(
	pair: Pair,
	overlap: Overlap,
	near: Look,
	spans: readonly Span[],
	windowSeconds: number
): Look {
	const nearLine = lineThroughPeaks(near, overlap)?.line ?? near.line;
	const about = straight(nearLine);
	const middleSeconds = (overlap.fromSeconds + overlap.toSeconds) / 2;
	const isLong = overlap.toSeconds - overlap.fromSeconds > SPANNED_OVERLAP_SECONDS;
	const count = near.strength >= CLEAR_STRENGTH && !isLong ? FIRST_WINDOWS[1] : MAX_WINDOWS;
	const centres = windowCentres(spans, windowSeconds, count);
	const rows = windowRows(pair, overlap.lagSeconds, centres, windowSeconds, WHOLE_REACH_SECONDS, about);
	if (rows.length < MIN_INLIERS) return near;
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
