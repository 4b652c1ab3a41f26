import {
	CONVINCING_STRENGTH,
	DOUBTFUL_HEIGHT,
	DOUBTFUL_SECONDS,
	HINT_ERROR_SECONDS,
	MAX_LOST_SECONDS,
	MIN_DOUBTFUL_STRENGTH,
	MIN_PLACE_HEIGHT,
	MIN_SHARE_OF_BEST,
	PLACE_RIVAL_SHARE,
	SAME_LAG_SECONDS,
	STRAY_SHARE
} from '../../limits/solve';
import type { Candidate } from '../../match/search/coarse-search';
import type { Place } from '../../match/search/looks';
import { evidenceWorth, type PairEvidence } from '../../match/fit/pair-evidence';
import type { AlignableClip } from '../clip';
import type { Comparer, Sound } from './comparer';

/** Two clips that heard the same; times of the evidence are media times. */
export interface Link {
	readonly a: number;
	readonly b: number;
	readonly evidence: PairEvidence;
	/** Share of this evidence that the next best place has; 0 where nothing else was found, nothing where none was looked for. */
	readonly runnerUp?: number;
}

export type Comparison =
	| { readonly kind: 'link'; readonly link: Link }
	/** Two or more places fit about equally well; the best first. */
	| { readonly kind: 'ambiguous'; readonly places: readonly Link[] }
	| { readonly kind: 'none' };

const SHORT_SECONDS = 30;

export interface CompareOptions {
	readonly thorough: boolean;
	/** Lags of the clips' starts that something else proposes. */
	readonly hints?: readonly number[];
	/** Position of a on its line-up, if it has one (see `listeningSpans`). */
	readonly positionOfA?: number;
	/** How the lag between them drifts, seconds a second, where their clocks are known well enough. */
	readonly slope?: number;
}

/** Compares two clips: proposed lags first, then coarse ones, each looked at closely. */
export async function compareClips(
	clips: readonly AlignableClip[],
	a: Sound,
	b: Sound,
	comparer: Comparer,
	options: CompareOptions
): Promise<Comparison> {
	for (const lagSeconds of options.hints ?? []) {
		const link = await examineClips(clips, a, b, comparer, {
			lagSeconds,
			errorSeconds: HINT_ERROR_SECONDS,
			...whatIsKnown(options)
		});
		if (link && link.evidence.strength >= CONVINCING_STRENGTH && agreesThroughout(link)) return { kind: 'link', link };
	}
	const found: Link[] = [];
	const [clipA, clipB] = [clips[a.clip]!, clips[b.clip]!];
	const isShort = Math.min(clipA.soundSeconds, clipB.soundSeconds) <= SHORT_SECONDS;
	const candidates = await comparer.search(a, b, options.thorough);
	const isDoubtful = (candidates[0]?.height ?? 0) < DOUBTFUL_HEIGHT;
	for (const candidate of worthALook(candidates, options.thorough, isShort)) {
		const link = await examineClips(clips, a, b, comparer, {
			lagSeconds: candidate.lagSeconds + clipA.soundStartSeconds - clipB.soundStartSeconds,
			aroundSeconds: candidate.aroundSeconds + clipA.soundStartSeconds,
			...whatIsKnown(options)
		});
		if (!link || (isDoubtful && link.evidence.strength < MIN_DOUBTFUL_STRENGTH)) continue;
		if (!found.some((one) => samePlace(one, link))) found.push(link);
	}
	found.sort((x, y) => evidenceWorth(y.evidence) - evidenceWorth(x.evidence));
	const [strongest, ...rest] = found;
	if (!strongest) return { kind: 'none' };
	const best = withStep(strongest, rest);
	const others = rest.filter((one) => !followsOn(strongest, one));
	const rivals = others.filter((one) => evidenceWorth(one.evidence) > PLACE_RIVAL_SHARE * evidenceWorth(best.evidence));
	if (rivals.length > 0) return { kind: 'ambiguous', places: [best, ...rivals] };
	return {
		kind: 'link',
		link: { ...best, runnerUp: others[0] ? evidenceWorth(others[0].evidence) / evidenceWorth(best.evidence) : 0 }
	};
}

function whatIsKnown({ positionOfA, slope }: CompareOptions) {
	return {
		...(positionOfA === undefined ? {} : { positionOfA }),
		...(slope === undefined ? {} : { slope })
	};
}

function worthALook(candidates: readonly Candidate[], thorough: boolean, isShort: boolean): readonly Candidate[] {
	const best = candidates[0]?.height ?? 0;
	if (best >= DOUBTFUL_HEIGHT)
		return candidates.filter(({ height }) => height >= Math.max(MIN_PLACE_HEIGHT, MIN_SHARE_OF_BEST * best));
	if (!thorough) return [];
	return isShort ? candidates : candidates.slice(0, 2).filter(({ height }) => height >= MIN_PLACE_HEIGHT);
}

/** A place in media times, to be looked at. */
export interface MediaPlace {
	/** b's start less a's. */
	readonly lagSeconds: number;
	readonly aroundSeconds?: number;
	readonly errorSeconds?: number;
	readonly positionOfA?: number;
	readonly slope?: number;
	readonly predictedSlope?: number;
	readonly limits?: Place['limits'];
}

/** A close look at one place, all in media times. */
export async function examineClips(
	clips: readonly AlignableClip[],
	a: Sound,
	b: Sound,
	comparer: Comparer,
	place: MediaPlace
): Promise<Link | undefined> {
	const startA = clips[a.clip]!.soundStartSeconds;
	const startB = clips[b.clip]!.soundStartSeconds;
	const evidence = await comparer.examine(a, b, {
		lagSeconds: place.lagSeconds - startA + startB,
		...(place.aroundSeconds === undefined ? {} : { aroundSeconds: place.aroundSeconds - startA }),
		...(place.errorSeconds === undefined ? {} : { errorSeconds: place.errorSeconds }),
		...(place.slope === undefined ? {} : { slope: place.slope }),
		...(place.predictedSlope === undefined ? {} : { predictedSlope: place.predictedSlope }),
		gridSeconds: -(place.positionOfA ?? 0) - startA,
		...(place.limits ? { limits: inSoundTime(place.limits, startA, startB) } : {})
	});
	return evidence && { a: a.clip, b: b.clip, evidence: inMediaTime(evidence, startA, startB) };
}

function inSoundTime(limits: NonNullable<MediaPlace['limits']>, startA: number, startB: number): Place['limits'] {
	const shifted = (span: { fromSeconds: number; toSeconds: number } | undefined, by: number) =>
		span && { fromSeconds: Math.max(0, span.fromSeconds - by), toSeconds: span.toSeconds - by };
	const [a, b] = [shifted(limits.a, startA), shifted(limits.b, startB)];
	return { ...(a ? { a } : {}), ...(b ? { b } : {}) };
}

function inMediaTime(evidence: PairEvidence, startA: number, startB: number): PairEvidence {
	const between = startA - startB;
	return {
		...evidence,
		lagSeconds: evidence.lagSeconds + between,
		moments: evidence.moments.map((moment) => ({
			aSeconds: moment.aSeconds + startA,
			bSeconds: moment.bSeconds + startB,
			weight: moment.weight
		})),
		...(evidence.step
			? {
					step: {
						...evidence.step,
						fromSeconds: evidence.step.fromSeconds + startA,
						toSeconds: evidence.step.toSeconds + startA,
						lagBeforeSeconds: evidence.step.lagBeforeSeconds + between,
						lagAfterSeconds: evidence.step.lagAfterSeconds + between
					}
				}
			: {})
	};
}

/** The time of a in which a place agrees, but for its outermost moments. */
function stretchOf({ evidence }: Link): readonly [number, number] {
	const times = evidence.moments
		.filter(({ weight }) => weight > 0.1)
		.map(({ aSeconds }) => aSeconds)
		.sort((x, y) => x - y);
	const at = (share: number) => times[Math.round(share * (times.length - 1))]!;
	return [at(STRAY_SHARE), at(1 - STRAY_SHARE)];
}

/** Whether two places are two stretches of one: near lags, one after the other. Samples were lost in between. */
function followsOn(one: Link, other: Link): boolean {
	if (Math.abs(one.evidence.lagSeconds - other.evidence.lagSeconds) > MAX_LOST_SECONDS) return false;
	if (leapsTo(one, other) || leapsTo(other, one)) return true;
	const [[from, to], [otherFrom, otherTo]] = [stretchOf(one), stretchOf(other)];
	return to < otherFrom || otherTo < from;
}

/** Whether the one place's own leap ends at the other. */
function leapsTo({ evidence: { step } }: Link, { evidence }: Link): boolean {
	if (!step) return false;
	const lags = [step.lagBeforeSeconds, step.lagAfterSeconds];
	return lags.some((lag) => Math.abs(lag - evidence.lagSeconds) < SAME_LAG_SECONDS);
}

/** The strongest place, with the leap to the stretch that follows on, unless it knows of it already. */
function withStep(strongest: Link, rest: readonly Link[]): Link {
	const next = rest.find((one) => followsOn(strongest, one));
	if (!next || strongest.evidence.step) return strongest;
	const [first, second] = stretchOf(strongest)[0] < stretchOf(next)[0] ? [strongest, next] : [next, strongest];
	const [end, begin] = [stretchOf(first)[1], stretchOf(second)[0]];
	const step = {
		fromSeconds: Math.min(end, begin) - DOUBTFUL_SECONDS,
		toSeconds: Math.max(end, begin) + DOUBTFUL_SECONDS,
		lagBeforeSeconds: first.evidence.lagSeconds,
		lagAfterSeconds: second.evidence.lagSeconds,
		slope: (strongest.evidence.rate?.differencePpm ?? 0) * 1e-6
	};
	return { ...strongest, evidence: { ...strongest.evidence, step } };
}

function samePlace(a: Link, b: Link): boolean {
	return Math.abs(a.evidence.lagSeconds - b.evidence.lagSeconds) < 0.15;
}

/** Most of the overlap agrees, and enough of it: such a place has no equal. */
export function agreesThroughout({ evidence }: Link): boolean {
	return evidence.inliers >= 6 && evidence.inliers >= 0.7 * evidence.windows;
}
