import { DIRECT_REACH_SECONDS, MAX_SECTIONS } from '../../limits/match';
import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import { straight } from '../windows/lag-curve';
import {
	type Limits,
	isWorthSkimming,
	listeningSpans,
	overlapOf,
	type Pair,
	skimmedSpans,
	windowRows
} from '../windows/listening-windows';

/** Where a solution says that two sounds meet; times from their first samples. */
export interface Meeting {
	/** a's moment, and b's of the same time. */
	readonly aSeconds: number;
	readonly bSeconds: number;
	/** How much more of b's time passes in a second of a's, less one. */
	readonly slope: number;
	/** How far the slope may be off. */
	readonly slopeError: number;
	/** a's time of the line-up's zero (see `listeningSpans`). */
	readonly gridSeconds: number;
	readonly limits?: Limits;
	/** Whether a third of a longer overlap is enough. */
	readonly isSkimmed?: boolean;
}

/** Windows of the same moment, summed with their signs: whatever is no common sound cancels out. */
export interface SectionStack {
	/** a's time in the middle of it. */
	readonly aSeconds: number;
	/** Whitened correlation in steps of `STACK_STEP_SECONDS`; its middle is the expected lag, later means later in b. */
	readonly values: Float32Array;
}

/** Steps between the samples. */
const FINE = 4;
export const STACK_STEP_SECONDS = 1 / (FINE * ANALYSIS_SAMPLE_RATE);
/** With its reach a window of this length just fits a transform of 65 536. */
const LONGEST_SECONDS = 8;
const SHORTEST_SECONDS = 0.75;
/** A short overlap is listened to in windows of this part of it. */
const SHORT_PARTS = 8;
/** No clocks differ by less than this; what has a slope is read between the samples. */
const LEAST_SLOPE = 1e-12;

/** Stacks all along what two sounds share, a line's way out of each. */
export function sectionStacks(pair: Pair, meeting: Meeting): readonly SectionStack[] {
	const overlap = overlapOf(pair.a, pair.b, meeting.aSeconds - meeting.bSeconds, meeting.limits);
	const seconds = overlap.toSeconds - overlap.fromSeconds;
	const windowSeconds = Math.max(SHORTEST_SECONDS, Math.min(LONGEST_SECONDS, seconds / SHORT_PARTS));
	// Where there is much, every moment need not be heard twice.
	const isLong = windowSeconds === LONGEST_SECONDS;
	const sectionSeconds = isLong ? windowSeconds : 1.5 * windowSeconds;
	const isSkimmed = meeting.isSkimmed === true && isWorthSkimming(overlap);
	const spans = (isSkimmed ? skimmedSpans : listeningSpans)(overlap, meeting.gridSeconds);
	const centres = spans.flatMap(({ fromSeconds, toSeconds }) => {
		const most = Math.floor((toSeconds - fromSeconds - sectionSeconds) / windowSeconds + 1e-9) + 1;
		const count = Math.min(MAX_SECTIONS, most);
		const room = toSeconds - fromSeconds - sectionSeconds;
		return Array.from(
			{ length: Math.max(0, count) },
			(_, k) => fromSeconds + sectionSeconds / 2 + (count > 1 ? (room * k) / (count - 1) : room / 2)
		);
	});
	const slope = meeting.slope === 0 ? LEAST_SLOPE : meeting.slope;
	const expected = straight({ middleSeconds: meeting.aSeconds, interceptSeconds: 0, slope });
	const stacks: SectionStack[] = [];
	for (const centre of thinned(centres)) {
		const around = isLong ? [centre] : [centre - windowSeconds / 4, centre + windowSeconds / 4];
		const rows = windowRows(pair, overlap.lagSeconds, around, windowSeconds, DIRECT_REACH_SECONDS, expected);
		const [one, other] = rows;
		if (!one) continue;
		const sum = other ? one.correlation.map((value, i) => value + other.correlation[i]!) : one.correlation;
		stacks.push({ aSeconds: centre, values: finer(sum) });
	}
	return stacks;
}

function thinned(centres: readonly number[]): readonly number[] {
	if (centres.length <= MAX_SECTIONS) return centres;
	return Array.from(
		{ length: MAX_SECTIONS },
		(_, k) => centres[Math.floor(((k + 0.5) * centres.length) / MAX_SECTIONS)]!
	);
}

const HALF_TAPS = 8;
/** For each step between two samples: a sinc under a raised cosine. */
const KERNELS: readonly Float64Array[] = Array.from({ length: FINE }, (_, step) =>
	Float64Array.from({ length: 2 * HALF_TAPS }, (_, tap) => {
		const x = tap - (HALF_TAPS - 1) - step / FINE;
		const sinc = x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
		return sinc * (0.5 + 0.5 * Math.cos((Math.PI * x) / (HALF_TAPS + 1)));
	})
);

function finer(values: Float32Array): Float32Array {
	const out = new Float32Array((values.length - 1) * FINE + 1);
	for (let i = 0; i < out.length; i++) {
		const whole = Math.floor(i / FINE);
		const kernel = KERNELS[i % FINE]!;
		let sum = 0;
		for (let tap = 0; tap < kernel.length; tap++) sum += kernel[tap]! * (values[whole + tap - (HALF_TAPS - 1)] ?? 0);
		out[i] = sum;
	}
	return out;
}
