import {
	CLEAR_COVERAGE,
	CLEAR_STRENGTH,
	CLEAR_WINDOW_SECONDS,
	FIRST_LOOK_SECONDS,
	LONGEST_SLOPE_WINDOW_SECONDS,
	LONGEST_WINDOW_SECONDS,
	MAX_WINDOWS,
	MIN_CLEAR_SHARE,
	MIN_INLIERS,
	MIN_INLIER_SHARE,
	MIN_LOOK_WINDOWS,
	MIN_OVERLAP_SECONDS,
	MIN_WINDOW_HEIGHT,
	QUICK_INLIER_SHARE,
	QUICK_SLOPE_REACH,
	RATE_OVERLAP_SECONDS,
	REFINE_REACH_SECONDS,
	SHORTEST_WINDOW_SECONDS,
	SKIM_END_SHARE,
	SKIM_INLIER_SHARE,
	SKIM_SLOPE_WINDOWS,
	SLOPE_OVERLAP_SECONDS,
	SURE_STRENGTH,
	WEAK_COVERAGE
} from '../../limits/match';
import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import { type ClockSlope, clockSlope } from './clock-slope';
import { lagCurve, type LagLine, straight } from '../windows/lag-curve';
import {
	isSpanned,
	isWorthSkimming,
	listeningSpans,
	type Overlap,
	overlapOf,
	type Pair,
	skimmedSpans,
	type Span,
	windowCentres,
	windowRows
} from '../windows/listening-windows';
import { inLags, type LagStep, lagStep, STEP_REACH_SECONDS } from '../loss/lag-step';
import { firstLook, neighbourhood, type Place, quickLook, wholeLook } from '../search/looks';
import { sharpPeak, type WindowCorrelator } from '../windows/window-correlation';
import { type Fit, followedLook, laidAbout, lineThroughPeaks, refine, type SharedMoment } from './window-fit';

/** What speaks for two clips having heard the same sound. */
export interface PairEvidence {
	/** Lag at the middle of the overlap, positive when b starts after a. */
	readonly lagSeconds: number;
	/** How much faster time passes in b than in a: a's clock rate less b's. Nothing where the overlap does not tell. */
	readonly rate?: {
		readonly differencePpm: number;
		readonly deviationPpm: number;
		/** Whether all of the overlap, taken together, says so: then it is no opinion of who spoke when. */
		readonly isWhole?: boolean;
	};
	readonly overlapSeconds: number;
	/** Windows with sound on both sides, and those of them that agree on one line. */
	readonly windows: number;
	readonly inliers: number;
	/** Robust spread of the agreeing windows about the line. */
	readonly residualSeconds: number;
	/** Height of the stacked correlation over chance, in standard deviations. */
	readonly strength: number;
	/** Mean height of the agreeing windows' peaks over chance, over all windows: what tells a place from its rivals. */
	readonly height: number;
	readonly moments: readonly SharedMoment[];
	/** Where the direct sound says that they meet; nothing where it has not been told from its echoes. */
	readonly direct?: DirectMoment;
	/** Whether the lag bends along the overlap: a clock that wanders. */
	readonly bends: boolean;
	/** Whether only a third of the overlap was listened to, which was enough. */
	readonly isSkimmed?: boolean;
	/** Where the lag leaps to another value, if it does: one of the two lost samples. */
	readonly step?: LagStep;
}

/** A moment at which two clips heard the same direct sound. */
export interface DirectMoment {
	readonly aSeconds: number;
	readonly bSeconds: number;
	readonly deviationSeconds: number;
	/**
	 * Where only the pattern of direct sound and echoes is known, not which of them is the direct sound: b's moment comes
	 * later (or, turned, earlier) by what is the same for all pairs with this room.
	 */
	readonly room?: { readonly id: string; readonly isTurned: boolean };
	/** Whether one of the two has the other polarity; nothing where that is not known beyond doubt. */
	readonly isInverted?: boolean;
}

/**
 * How much evidence counts beside other evidence: the power of what agrees, and the time over which it does. The root
 * of the time, for windows of one sound are no independent witnesses.
 */
export function evidenceWorth({ height, overlapSeconds }: PairEvidence): number {
	return height ** 2 * Math.sqrt(overlapSeconds);
}

/** A short overlap is looked at in windows of such a part of it, that lie over each other. */
const SHORT_PARTS = 3;
/** How a drift is looked for. */
interface SlopeSearch {
	readonly mostWindows: number;
	/** Talkers differ by their ways through the air: 24 ms are 8 m. */
	readonly reachSeconds: number;
	/** How far the expected slope may be off. */
	readonly mostOff: number;
}

/** Before anything is known: clocks part by as much as they ever do. */
const FIRST_SLOPE: SlopeSearch = { mostWindows: 120, reachSeconds: 0.044, mostOff: 320e-6 };
/** About a line that fits. */
const FINE_SLOPE: SlopeSearch = { mostWindows: 120, reachSeconds: 0.024, mostOff: 150e-6 };
const SKIM_SLOPE: SlopeSearch = { ...FINE_SLOPE, mostWindows: SKIM_SLOPE_WINDOWS };

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
	if (overlapSeconds < MIN_OVERLAP_SECONDS) return undefined;
	const windowSeconds = Math.max(
		SHORTEST_WINDOW_SECONDS,
		Math.min(LONGEST_WINDOW_SECONDS, overlapSeconds / SHORT_PARTS)
	);
	const quick = isSpanned(overlap) ? undefined : quickEvidence(pair, overlap, place, windowSeconds, [overlap]);
	if (quick) return quick;
	const near = firstLook(pair, overlap, place, windowSeconds);
	if (!near) return undefined;
	const spans = listeningSpans(overlap, place.gridSeconds ?? 0);
	const look = overlapSeconds <= FIRST_LOOK_SECONDS ? near : wholeLook(pair, overlap, near, spans, windowSeconds);
	const peaks = lineThroughPeaks(look, overlap);
	const isThere = peaks && peaks.inliers >= MIN_INLIERS;
	if (!isThere && look.strength < SURE_STRENGTH) return undefined;
	const found = isThere ? peaks.line : look.line;
	// A line through few windows leans with who speaks when: over short overlaps the drift is measured by itself, first.
	const isShort = overlapSeconds <= FIRST_LOOK_SECONDS;
	const early =
		isShort && place.slope === undefined
			? slopeBetween(pair, overlap, spans, { ...found, slope: 0 }, FIRST_SLOPE)
			: undefined;
	const drift = isShort ? (place.slope ?? early?.slope) : undefined;
	const line = drift === undefined ? found : { ...found, slope: drift };

	const curve = lagCurve(look.rows, look.about, look.line, overlapSeconds);
	const course = curve ?? straight(line);
	const strength = Math.max(near.strength, look.strength);
	const isClear = strength >= CLEAR_STRENGTH;
	const lastSeconds = isClear ? Math.min(windowSeconds, CLEAR_WINDOW_SECONDS) : windowSeconds;
	const coverage = isClear ? CLEAR_COVERAGE : WEAK_COVERAGE;
	const count = Math.max(MIN_LOOK_WINDOWS, Math.min(MAX_WINDOWS, Math.ceil((coverage * overlapSeconds) / lastSeconds)));
	const centres = windowCentres(spans, lastSeconds, count);
	const rows = windowRows(pair, overlap.lagSeconds, centres, lastSeconds, REFINE_REACH_SECONDS, course);
	const fit = refine(rows, overlap, course) ?? peaks;
	const leastShare = isClear ? MIN_CLEAR_SHARE : MIN_INLIER_SHARE;
	if (!fit || fit.inliers < MIN_INLIERS || fit.inliers < leastShare * rows.length) return undefined;
	const isRateKnown = curve !== undefined || place.slope !== undefined;
	const slope = isRateKnown ? undefined : (slopeBetween(pair, overlap, spans, fit.line, FINE_SLOPE) ?? early);
	const step = lagStep(rows, fit.weights, lastSeconds, (leftover) =>
		windowRows(pair, place.lagSeconds, leftover, windowSeconds, STEP_REACH_SECONDS, straight(fit.line))
	);
	return {
		...evidenceFrom(overlap, fit, rows.length, strength),
		...(slope ? { rate: { differencePpm: slope.slope * 1e6, deviationPpm: slope.deviation * 1e6 } } : {}),
		bends: curve !== undefined,
		...(step ? { step: inLags(step, place.lagSeconds, fit.line) } : {})
	};
}

function evidenceFrom(overlap: Overlap, fit: Fit, windows: number, strength: number) {
	return {
		lagSeconds: overlap.lagSeconds - fit.line.interceptSeconds,
		overlapSeconds: overlap.toSeconds - overlap.fromSeconds,
		windows,
		inliers: fit.inliers,
		residualSeconds: fit.spread,
		strength,
		height: fit.height,
		moments: fit.moments
	};
}

/** Evidence from a quick look, where nearly all of it agrees. */
function quickEvidence(
	pair: Pair,
	overlap: Overlap,
	place: Place,
	windowSeconds: number,
	spans: readonly Span[]
): PairEvidence | undefined {
	const look = quickLook(pair, overlap, place, Math.min(windowSeconds, CLEAR_WINDOW_SECONDS), spans);
	const fit = look && refine(look.rows, overlap, straight(look.line), QUICK_SLOPE_REACH);
	if (!fit || fit.inliers < Math.max(MIN_INLIERS, QUICK_INLIER_SHARE * look.rows.length)) return undefined;
	return { ...evidenceFrom(overlap, fit, look.rows.length, look.strength), bends: false };
}

/** Spans about a place that a skim looks at first, and its windows in each. */
const NEAR_SPANS = 3;
const WINDOWS_A_SPAN = 3;

/**
 * Looks at one place of a longer overlap by a third of it, which is all that is to be read of both sounds.
 * @returns nothing unless that makes it clear in all parts: then `pairEvidence` is to be asked
 */
export function skimmedEvidence(
	a: Int16Array,
	b: Int16Array,
	place: Place,
	correlate: WindowCorrelator
): PairEvidence | undefined {
	const overlap = overlapOf(a, b, place.lagSeconds, place.limits);
	if (place.limits || !isWorthSkimming(overlap)) return undefined;
	const pair: Pair = { a, b, correlate };
	const spans = skimmedSpans(overlap, place.gridSeconds ?? 0);
	const quick = quickEvidence(pair, overlap, place, CLEAR_WINDOW_SECONDS, spans);
	if (quick) return { ...quick, isSkimmed: true };
	const near = firstLook(pair, overlap, place, LONGEST_WINDOW_SECONDS, spansAbout(spans, overlap, place));
	const nearLine = near && near.strength >= CLEAR_STRENGTH ? lineThroughPeaks(near, overlap)?.line : undefined;
	if (!near || !nearLine) return undefined;
	const about = straight(nearLine);
	const centres = windowCentres(spans, CLEAR_WINDOW_SECONDS, WINDOWS_A_SPAN * spans.length);
	const rows = windowRows(pair, overlap.lagSeconds, centres, CLEAR_WINDOW_SECONDS, REFINE_REACH_SECONDS, about);
	const look = followedLook(rows, about, nearLine, overlap);
	const peaks = look && lineThroughPeaks(look, overlap);
	if (!peaks || peaks.inliers < MIN_INLIERS) return undefined;
	const drift = place.slope === undefined ? slopeBetween(pair, overlap, spans, peaks.line, SKIM_SLOPE) : undefined;
	const course = straight({ ...peaks.line, slope: place.slope ?? drift?.slope ?? peaks.line.slope });
	const fit = refine(laidAbout(course, rows, about), overlap, course);
	if (!fit || fit.inliers < SKIM_INLIER_SHARE * rows.length || !speaksToTheEnds(spans, fit)) return undefined;
	return {
		...evidenceFrom(overlap, fit, rows.length, Math.max(near.strength, look.strength)),
		...(drift ? { rate: { differencePpm: drift.slope * 1e6, deviationPpm: drift.deviation * 1e6 } } : {}),
		bends: false,
		isSkimmed: true
	};
}

/** The spans next to a place. */
function spansAbout(spans: readonly Span[], overlap: Overlap, { aroundSeconds }: Place): readonly Span[] {
	const around = aroundSeconds ?? (overlap.fromSeconds + overlap.toSeconds) / 2;
	const nearest = spans.findIndex(({ toSeconds }) => toSeconds >= around);
	const first = (nearest < 0 ? spans.length : nearest) - Math.floor(NEAR_SPANS / 2);
	const from = Math.max(0, Math.min(spans.length - NEAR_SPANS, first));
	return spans.slice(from, from + NEAR_SPANS);
}

/** Whether a line is still seen at both ends of the spans: after a leap of the lag it would not be. */
function speaksToTheEnds(spans: readonly Span[], { weights }: Fit): boolean {
	const agreeing = [...weights].filter(([, weight]) => weight > 0.1).map(([centre]) => centre);
	const outermost = Math.max(1, Math.floor(spans.length * SKIM_END_SHARE));
	return [spans.slice(0, outermost), spans.slice(-outermost)].every((some) =>
		some.some((span) => agreeing.some((centre) => centre >= span.fromSeconds && centre <= span.toSeconds))
	);
}

/**
 * Whether a place is worth more of a long file: the first look alone.
 */
export function isWorthMore(a: Int16Array, b: Int16Array, place: Place, correlate: WindowCorrelator): boolean {
	const overlap = overlapOf(a, b, place.lagSeconds, place.limits);
	if (overlap.toSeconds - overlap.fromSeconds < MIN_OVERLAP_SECONDS) return false;
	return firstLook({ a, b, correlate }, overlap, place, LONGEST_WINDOW_SECONDS) !== undefined;
}

/** What is listened to of an overlap: for a skim, if it is worth one, for the first look, and in all; a's seconds. */
export function spansOf(
	aSamples: number,
	bSamples: number,
	place: Place
): { readonly skim: readonly Span[]; readonly first: Span; readonly all: readonly Span[] } | undefined {
	const overlap = overlapOf({ length: aSamples }, { length: bSamples }, place.lagSeconds, place.limits);
	if (overlap.toSeconds - overlap.fromSeconds < MIN_OVERLAP_SECONDS) return undefined;
	const gridSeconds = place.gridSeconds ?? 0;
	return {
		skim: isWorthSkimming(overlap) ? skimmedSpans(overlap, gridSeconds) : [],
		first: neighbourhood(overlap, place.aroundSeconds),
		all: listeningSpans(overlap, gridSeconds)
	};
}

/** The clocks' difference from many windows so short that one talker fills each. */
function slopeBetween(
	pair: Pair,
	overlap: Overlap,
	spans: readonly Span[],
	line: LagLine,
	{ mostWindows, reachSeconds, mostOff }: SlopeSearch
): ClockSlope | undefined {
	const overlapSeconds = overlap.toSeconds - overlap.fromSeconds;
	if (overlapSeconds < SLOPE_OVERLAP_SECONDS) return undefined;
	const windowSeconds = Math.min(LONGEST_SLOPE_WINDOW_SECONDS, overlapSeconds / 12);
	const count = Math.min(mostWindows, Math.floor((1.2 * overlapSeconds) / windowSeconds));
	const centres = windowCentres(spans, windowSeconds, count);
	const rows = windowRows(pair, overlap.lagSeconds, centres, windowSeconds, reachSeconds, straight(line));
	const times: number[] = [];
	const lags: number[] = [];
	for (const { aSeconds, correlation } of rows) {
		const reach = (correlation.length - 1) / 2;
		const peak = sharpPeak(correlation, reach, reach);
		if (peak.height < MIN_WINDOW_HEIGHT) continue;
		times.push(aSeconds - line.middleSeconds);
		lags.push((peak.index - reach) / ANALYSIS_SAMPLE_RATE);
	}
	const left = clockSlope(times, lags, Math.max(1, RATE_OVERLAP_SECONDS / overlapSeconds) * mostOff);
	return left && { ...left, slope: left.slope + line.slope };
}
