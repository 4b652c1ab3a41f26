import { median } from '../../fitting/median';
import { BRACKET_MARGIN_SECONDS, SAME_LEAP_SECONDS, WITNESS_MOMENTS, WITNESS_SECONDS } from '../../limits/solve';
import type { LagStep } from '../../match/loss/lag-step';
import type { LeapCourse } from '../../match/loss/leap-course';
import type { Span } from '../../match/windows/listening-windows';
import type { AlignableClip } from '../clip';
import type { Link } from '../links/compare-clips';
import type { Comparer } from '../links/comparer';

/** A loss that pairs show, its place known to a bracket of the clip's media time. */
export interface SupposedLoss {
	readonly clip: number;
	readonly lostSeconds: number;
	readonly bracket: Span;
}

/** Courses are added up in steps of this. */
const SUM_STEP_SECONDS = 0.01;
/** The second look goes so far to either side of what the first one found, whitened by what sounds there. */
const NEAR_SECONDS = 1.5;

/** The moment that all pairs together find likeliest, in the clip's media time. */
export async function placeOfLoss(
	clips: readonly AlignableClip[],
	links: readonly Link[],
	loss: SupposedLoss,
	comparer: Comparer
): Promise<number> {
	const witnesses = links.flatMap((link) => {
		const step = leapSeenBy(link, loss);
		return step ? [{ link, step }] : [];
	});
	const likeliest = async (bracket: Span): Promise<number> => {
		const sums = new Float64Array(Math.max(1, Math.ceil((bracket.toSeconds - bracket.fromSeconds) / SUM_STEP_SECONDS)));
		for (const { link, step } of witnesses) {
			const toA = link.b === loss.clip ? step.lagBeforeSeconds : 0;
			const course = await courseInMediaTime(clips, link, step, shifted(bracket, toA), comparer);
			if (course) addCourse(sums, course, bracket.fromSeconds + toA);
		}
		return bracket.fromSeconds + sums.indexOf(Math.max(...sums)) * SUM_STEP_SECONDS;
	};
	const about = await likeliest({
		fromSeconds: Math.max(0, loss.bracket.fromSeconds - BRACKET_MARGIN_SECONDS),
		toSeconds: Math.min(clips[loss.clip]!.durationSeconds, loss.bracket.toSeconds + BRACKET_MARGIN_SECONDS)
	});
	return likeliest({ fromSeconds: about - NEAR_SECONDS, toSeconds: about + NEAR_SECONDS });
}

function shifted({ fromSeconds, toSeconds }: Span, by: number): Span {
	return { fromSeconds: fromSeconds + by, toSeconds: toSeconds + by };
}

/** @param from a's time of the first sum; beyond its ends a course stays as it is */
function addCourse(sums: Float64Array, { fromSeconds, stepSeconds, gains }: LeapCourse, from: number): void {
	if (gains.length === 0) return;
	for (let i = 0; i < sums.length; i++) {
		const at = Math.round((from + i * SUM_STEP_SECONDS - fromSeconds) / stepSeconds);
		sums[i] = sums[i]! + gains[Math.max(0, Math.min(gains.length - 1, at))]!;
	}
}

/** A pair's leap at a loss: its own, or, where it agrees on one side of it only, the one that must be there. */
function leapSeenBy({ a, b, evidence }: Link, { clip, lostSeconds, bracket }: SupposedLoss): LagStep | undefined {
	if (a !== clip && b !== clip) return undefined;
	const leap = b === clip ? lostSeconds : -lostSeconds;
	const { step } = evidence;
	if (step) {
		const own = shifted(step, b === clip ? -step.lagBeforeSeconds : 0);
		const isThis =
			Math.abs(step.lagAfterSeconds - step.lagBeforeSeconds - leap) < SAME_LEAP_SECONDS &&
			own.fromSeconds <= bracket.toSeconds &&
			own.toSeconds >= bracket.fromSeconds;
		return isThis ? step : undefined;
	}
	const timed = evidence.moments
		.filter(({ weight }) => weight > 0.1)
		.map(({ aSeconds, bSeconds }) => ({ at: b === clip ? bSeconds : aSeconds, lag: aSeconds - bSeconds }));
	const before = timed.filter(({ at }) => at < bracket.fromSeconds && at > bracket.fromSeconds - WITNESS_SECONDS);
	const after = timed.filter(({ at }) => at > bracket.toSeconds && at < bracket.toSeconds + WITNESS_SECONDS);
	const isBefore = before.length > after.length;
	const [side, otherSide] = isBefore ? [before, after] : [after, before];
	if (side.length < WITNESS_MOMENTS || otherSide.length > 0) return undefined;
	const lag = median(side.map((one) => one.lag));
	const lagBeforeSeconds = isBefore ? lag : lag - leap;
	const toA = b === clip ? lagBeforeSeconds : 0;
	return {
		...shifted(bracket, toA),
		lagBeforeSeconds,
		lagAfterSeconds: lagBeforeSeconds + leap,
		slope: (evidence.rate?.differencePpm ?? 0) * 1e-6
	};
}

/** A pair's course, all in media times. */
async function courseInMediaTime(
	clips: readonly AlignableClip[],
	{ a, b }: Link,
	step: LagStep,
	bracket: Span,
	comparer: Comparer
): Promise<LeapCourse | undefined> {
	const startA = clips[a]!.soundStartSeconds;
	const between = startA - clips[b]!.soundStartSeconds;
	const course = await comparer.leapCourse(
		{ clip: a },
		{ clip: b },
		{
			...step,
			...shifted(step, -startA),
			lagBeforeSeconds: step.lagBeforeSeconds - between,
			lagAfterSeconds: step.lagAfterSeconds - between
		},
		shifted(bracket, -startA)
	);
	return course && { ...course, fromSeconds: course.fromSeconds + startA };
}
