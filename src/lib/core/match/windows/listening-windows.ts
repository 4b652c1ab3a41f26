import { SKIMMED_OVERLAP_SECONDS, SPANNED_OVERLAP_SECONDS } from '../../limits/match';
import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import type { WindowCorrelator } from './window-correlation';

/** Two clips' sound, 16-bit mono at `ANALYSIS_SAMPLE_RATE`, and what compares them. */
export interface Pair {
	readonly a: Int16Array;
	readonly b: Int16Array;
	readonly correlate: WindowCorrelator;
}

/** The time two clips share, in a's seconds, and the lag it is looked at with. */
export interface Overlap {
	readonly fromSeconds: number;
	readonly toSeconds: number;
	/** Positive when b starts after a. */
	readonly lagSeconds: number;
}

/** A stretch of time, in seconds. */
export interface Span {
	readonly fromSeconds: number;
	readonly toSeconds: number;
}

/** Parts of two clips that may be compared, each in its own seconds: a clip that lost samples is compared in parts. */
export interface Limits {
	readonly a?: Span;
	readonly b?: Span;
}

/** Stretches on a grid: so long, every so often. */
interface SpanGrid {
	readonly everySeconds: number;
	readonly spanSeconds: number;
}

const HOURS: SpanGrid = { everySeconds: 300, spanSeconds: 20 };
/** The longest overlap that is skimmed so, the shorter ones first. */
const SKIMMED: readonly (SpanGrid & { readonly upToSeconds: number })[] = [
	{ upToSeconds: SPANNED_OVERLAP_SECONDS, everySeconds: 60, spanSeconds: 20 },
	{ upToSeconds: 3600, everySeconds: 120, spanSeconds: 12 },
	{ upToSeconds: Infinity, everySeconds: 300, spanSeconds: 12 }
];

/** @param a,b the sounds, or anything as long */
export function overlapOf(
	a: { readonly length: number },
	b: { readonly length: number },
	lagSeconds: number,
	limits: Limits = {}
): Overlap {
	const aLimit = limits.a ?? { fromSeconds: 0, toSeconds: a.length / ANALYSIS_SAMPLE_RATE };
	const bLimit = limits.b ?? { fromSeconds: 0, toSeconds: b.length / ANALYSIS_SAMPLE_RATE };
	return {
		fromSeconds: Math.max(aLimit.fromSeconds, bLimit.fromSeconds + lagSeconds),
		toSeconds: Math.min(aLimit.toSeconds, bLimit.toSeconds + lagSeconds),
		lagSeconds
	};
}

/**
 * Where windows may lie in an overlap: all of it, or for hours a span every five minutes.
 * @param gridSeconds a's time of the line-up's zero: all pairs of a line-up listen to the same moments
 */
export function listeningSpans(overlap: Overlap, gridSeconds: number): readonly Span[] {
	if (isSpanned(overlap)) return spansOn(HOURS, overlap, gridSeconds);
	return [overlap];
}

/** Whether so long an overlap is only ever listened to in spans. */
export function isSpanned({ fromSeconds, toSeconds }: Span): boolean {
	return toSeconds - fromSeconds > SPANNED_OVERLAP_SECONDS;
}

/** Whether an overlap is worth listening to a part of it first. */
export function isWorthSkimming({ fromSeconds, toSeconds }: Span): boolean {
	return toSeconds - fromSeconds > SKIMMED_OVERLAP_SECONDS;
}

/** That part, a third and less of longer ones: spans on the same grid for all pairs of a line-up. */
export function skimmedSpans(overlap: Overlap, gridSeconds: number): readonly Span[] {
	const seconds = overlap.toSeconds - overlap.fromSeconds;
	return spansOn(
		SKIMMED.find(({ upToSeconds }) => seconds <= upToSeconds)!,
		overlap,
		gridSeconds
	);
}

function spansOn(
	{ everySeconds, spanSeconds }: SpanGrid,
	{ fromSeconds, toSeconds }: Span,
	gridSeconds: number
): readonly Span[] {
	const spans: Span[] = [];
	const first = Math.ceil((fromSeconds - gridSeconds) / everySeconds);
	for (let k = first; ; k++) {
		const at = gridSeconds + k * everySeconds;
		if (at + spanSeconds > toSeconds) break;
		spans.push({ fromSeconds: at, toSeconds: at + spanSeconds });
	}
	return spans;
}

/** Centres of windows, evenly over the spans' own time. */
export function windowCentres(spans: readonly Span[], windowSeconds: number, count: number): readonly number[] {
	const usable = spans
		.map(({ fromSeconds, toSeconds }) => ({
			from: fromSeconds + windowSeconds / 2,
			length: toSeconds - fromSeconds - windowSeconds
		}))
		.filter(({ length }) => length >= 0);
	const [only] = usable;
	if (usable.length === 1 && only)
		return Array.from({ length: count }, (_, k) => only.from + (only.length * k) / Math.max(1, count - 1));
	const perSpan = Math.max(1, Math.round(count / Math.max(1, usable.length)));
	return usable.flatMap(({ from, length }) =>
		Array.from({ length: perSpan }, (_, k) => from + (length * (k + 0.5)) / perSpan)
	);
}

/** One window looked at: where it lies in both clips and how they correlate about the expected lag. */
export interface WindowRow {
	/** The centre that was asked for. */
	readonly centre: number;
	/** Centre of the window in a, and the place in b where the same is expected. */
	readonly aSeconds: number;
	readonly bSeconds: number;
	readonly correlation: Float32Array;
}

/** What lag is expected where: seconds that b's sound comes later in b than the overlap's lag says. */
export interface ExpectedLag {
	at(aSeconds: number): number;
	/** Its slope there, seconds a second. */
	slopeAt(aSeconds: number): number;
}

export const AS_IS: ExpectedLag = { at: () => 0, slopeAt: () => 0 };

/**
 * Correlates windows about an expected lag. The clocks' difference is taken out of a where the lag has a slope: it
 * would smear each window otherwise. b's windows begin at whole samples.
 */
export function windowRows(
	{ a, b, correlate }: Pair,
	lagSeconds: number,
	centres: readonly number[],
	windowSeconds: number,
	reachSeconds: number,
	expected: ExpectedLag
): readonly WindowRow[] {
	const rate = ANALYSIS_SAMPLE_RATE;
	const length = Math.floor(windowSeconds * rate);
	const reach = Math.ceil(reachSeconds * rate);
	const rows: WindowRow[] = [];
	for (const centre of centres) {
		const slope = expected.slopeAt(centre);
		const aStep = 1 / (1 + slope);
		const expectedSeconds = centre - lagSeconds + expected.at(centre);
		const bFrom = Math.round(expectedSeconds * rate - length / 2);
		const bSeconds = (bFrom + length / 2) / rate;
		// The moment in a that is expected at b's whole sample.
		const exactCentre = centre + (bSeconds - expectedSeconds) * aStep;
		const exactFrom = exactCentre * rate - (length / 2) * aStep;
		const aFrom = slope === 0 ? Math.round(exactFrom) : exactFrom;
		const correlation = correlate(a, aFrom, aStep, b, bFrom, length, reach);
		const aSeconds = slope === 0 ? (aFrom + length / 2) / rate : exactCentre;
		if (correlation) rows.push({ centre, aSeconds, bSeconds, correlation });
	}
	return rows;
}
