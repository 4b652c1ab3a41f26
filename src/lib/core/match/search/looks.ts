import {
	CLEAR_STRENGTH,
	COARSE_ERROR_SECONDS,
	FIRST_LOOK_SECONDS,
	FREE_COVERAGE,
	MAX_RATE_DIFFERENCE,
	MAX_WINDOWS,
	MIN_INLIERS,
	MIN_LOOK_STRENGTH,
	MIN_LOOK_WINDOWS,
	MIN_REACH_SECONDS,
	QUICK_WINDOWS,
	RATE_OVERLAP_SECONDS,
	REFINE_REACH_SECONDS,
	WHOLE_REACH_SECONDS
} from '../../limits/match';
import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import { followedLook, lineThroughPeaks, type Look } from '../fit/window-fit';

import { straight } from '../windows/lag-curve';
import {
	AS_IS,
	isSpanned,
	type Limits,
	type Overlap,
	type Pair,
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

/** So many windows are tried first, then so many more; a true place of clear sound needs no more. */
const FIRST_WINDOWS = [5, 16] as const;

/**
 * Is there anything at all? Looks at the neighbourhood of the place, first with few windows.
 * @param spans where it looks instead, in order
 */
export function firstLook(
	pair: Pair,
	overlap: Overlap,
	place: Place,
	windowSeconds: number,
	spans: readonly Span[] = [neighbourhood(overlap, place.aroundSeconds)]
): Look | undefined {
	const [fromSeconds, toSeconds] = [spans[0]!.fromSeconds, spans.at(-1)!.toSeconds];
	const seconds = toSeconds - fromSeconds;
	const middleSeconds = (fromSeconds + toSeconds) / 2;
	const heardSeconds = spans.reduce((sum, span) => sum + span.toSeconds - span.fromSeconds, 0);
	const count = Math.max(MIN_LOOK_WINDOWS, Math.min(MAX_WINDOWS, Math.floor((1.5 * heardSeconds) / windowSeconds)));
	const searchedSeconds = (place.errorSeconds ?? COARSE_ERROR_SECONDS) + seconds * MAX_RATE_DIFFERENCE * 0.5;
	const reachSeconds = Math.max(MIN_REACH_SECONDS, 2 * searchedSeconds);
	const mostSlope = seconds < RATE_OVERLAP_SECONDS / 2 ? 0 : MAX_RATE_DIFFERENCE;
	const open = new Set(windowCentres(spans, windowSeconds, count));
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
		const strength = stacked.strength * independence(rows.length, windowSeconds, heardSeconds);
		const isLast = open.size === 0;
		if (strength < (isLast ? MIN_LOOK_STRENGTH : CLEAR_STRENGTH)) continue;
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
export function quickLook(
	pair: Pair,
	overlap: Overlap,
	place: Place,
	windowSeconds: number,
	spans: readonly Span[]
): Look | undefined {
	const seconds = overlap.toSeconds - overlap.fromSeconds;
	const searchedSeconds = place.errorSeconds ?? COARSE_ERROR_SECONDS;
	if (place.predictedSlope === undefined || searchedSeconds > 0.6 * REFINE_REACH_SECONDS) return undefined;
	const middleSeconds = place.aroundSeconds ?? (overlap.fromSeconds + overlap.toSeconds) / 2;
	const line = { middleSeconds, interceptSeconds: 0, slope: place.predictedSlope };
	const about = straight(line);
	const centres = windowCentres(spans, windowSeconds, QUICK_WINDOWS);
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
	const count = near.strength >= CLEAR_STRENGTH && !isSpanned(overlap) ? FIRST_WINDOWS[1] : MAX_WINDOWS;
	const centres = windowCentres(spans, windowSeconds, count);
	const rows = windowRows(pair, overlap.lagSeconds, centres, windowSeconds, WHOLE_REACH_SECONDS, about);
	return followedLook(rows, about, nearLine, overlap) ?? near;
}
