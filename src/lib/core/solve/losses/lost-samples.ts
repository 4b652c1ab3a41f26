import { MAX_LOSSES, SAME_LEAP_SECONDS, SAME_LOSS_SECONDS, WITNESS_MOMENTS, WITNESS_SECONDS } from '../../limits/solve';
import pMap from 'p-map';
import type { Span } from '../../match/windows/listening-windows';
import type { AlignableClip } from '../clip';
import { agreesThroughout, examineClips, type Link } from '../links/compare-clips';
import type { Comparer } from '../links/comparer';
import { placeOfLoss, type SupposedLoss } from './place-of-loss';

/** A place in a clip where samples are missing. */
export interface Loss {
	/** Media time of the clip. */
	readonly atSeconds: number;
	readonly lostSeconds: number;
}

/** A clip's stretch between two losses, in media time. */
export interface Stretch {
	readonly fromSeconds: number;
	readonly toSeconds: number;
}

/** A link between stretches of two clips; 0 is the first stretch. */
export interface StretchLink extends Link {
	readonly stretchA: number;
	readonly stretchB: number;
}

export interface WithLosses {
	readonly links: readonly StretchLink[];
	readonly losses: ReadonlyMap<number, readonly Loss[]>;
}

/** The name under which a stretch is solved. */
export function stretchId(clip: number, stretch: number): string {
	return `${clip}/${stretch}`;
}

export function clipOf(id: string): { readonly clip: number; readonly stretch: number } {
	const [clip, stretch] = id.split('/').map(Number) as [number, number];
	return { clip, stretch };
}

const ROUNDS = 3;

/**
 * Clips that lost samples are taken apart where they did, and each stretch is measured by itself. Who lost is told by
 * the sign: a clip's time can only come short.
 */
export async function findLosses(
	clips: readonly AlignableClip[],
	links: readonly Link[],
	comparer: Comparer,
	atOnce: number
): Promise<WithLosses> {
	const losses = new Map<number, Loss[]>();
	let current: readonly StretchLink[] = links.map((link) => ({ ...link, stretchA: 0, stretchB: 0 }));
	for (let round = 0; round < ROUNDS; round++) {
		const cut = await addLosses(current, losses, comparer, clips, atOnce);
		if (cut.size === 0) break;
		const touched = current.filter(({ a, b }) => cut.has(a) || cut.has(b));
		const rest = current.filter((link) => !touched.includes(link));
		const measured = await pMap(
			onePerPair(touched),
			(link) => measureStretches(clips, link, touched, losses, comparer),
			{ concurrency: atOnce }
		);
		current = [...rest, ...measured.flat()];
	}
	return { links: current, losses };
}

/** Stretches of a clip. */
export function stretchesOf(clip: AlignableClip, losses: readonly Loss[]): readonly Stretch[] {
	const cuts = [0, ...losses.map((loss) => loss.atSeconds), clip.durationSeconds];
	return cuts.slice(1).map((toSeconds, index) => ({ fromSeconds: cuts[index]!, toSeconds }));
}

/** Notes new losses. @returns the clips that have one */
async function addLosses(
	links: readonly StretchLink[],
	losses: Map<number, Loss[]>,
	comparer: Comparer,
	clips: readonly AlignableClip[],
	atOnce: number
): Promise<ReadonlySet<number>> {
	const open = supposedLosses(links).filter((loss) => !isKnown(losses.get(loss.clip) ?? [], loss));
	const located = await pMap(
		open,
		async (loss) => ({
			...loss,
			atSeconds: await placeOfLoss(clips, links, loss, comparer)
		}),
		{ concurrency: atOnce }
	);
	const cut = new Set<number>();
	for (const { clip, lostSeconds, atSeconds } of located) {
		const own = losses.get(clip) ?? [];
		if (isContradicted(links, clip, atSeconds)) continue;
		if (own.length >= MAX_LOSSES || own.some((loss) => Math.abs(loss.atSeconds - atSeconds) < SAME_LOSS_SECONDS))
			continue;
		if (atSeconds < SAME_LOSS_SECONDS || atSeconds > clips[clip]!.durationSeconds - SAME_LOSS_SECONDS) continue;
		losses.set(
			clip,
			[...own, { atSeconds, lostSeconds }].sort((x, y) => x.atSeconds - y.atSeconds)
		);
		cut.add(clip);
	}
	return cut;
}

function isKnown(own: readonly Loss[], { lostSeconds, bracket }: SupposedLoss): boolean {
	return own.some(
		(loss) =>
			Math.abs(loss.lostSeconds - lostSeconds) < SAME_LEAP_SECONDS &&
			loss.atSeconds > bracket.fromSeconds - SAME_LOSS_SECONDS &&
			loss.atSeconds < bracket.toSeconds + SAME_LOSS_SECONDS
	);
}

/** What the pairs' leaps say, each loss once, the most certain first. */
function supposedLosses(links: readonly StretchLink[]): readonly SupposedLoss[] {
	const supposed: SupposedLoss[] = [];
	for (const { a, b, evidence } of [...links].sort((x, y) => y.evidence.strength - x.evidence.strength)) {
		if (!evidence.step) continue;
		const { lagBeforeSeconds, lagAfterSeconds, fromSeconds, toSeconds } = evidence.step;
		const leap = lagAfterSeconds - lagBeforeSeconds;
		const toClip = leap > 0 ? -lagBeforeSeconds : 0;
		const loss: SupposedLoss = {
			clip: leap > 0 ? b : a,
			lostSeconds: Math.abs(leap),
			bracket: { fromSeconds: fromSeconds + toClip, toSeconds: toSeconds + toClip }
		};
		const same = supposed.findIndex(
			(one) =>
				one.clip === loss.clip &&
				Math.abs(one.lostSeconds - loss.lostSeconds) < SAME_LEAP_SECONDS &&
				one.bracket.fromSeconds < loss.bracket.toSeconds + SAME_LOSS_SECONDS &&
				loss.bracket.fromSeconds < one.bracket.toSeconds + SAME_LOSS_SECONDS
		);
		if (same < 0) supposed.push(loss);
		else supposed[same] = { ...supposed[same]!, bracket: hull(supposed[same]!.bracket, loss.bracket) };
	}
	return supposed;
}

function hull(one: Span, other: Span): Span {
	return {
		fromSeconds: Math.min(one.fromSeconds, other.fromSeconds),
		toSeconds: Math.max(one.toSeconds, other.toSeconds)
	};
}

/** Whether pairs that pass a moment on one straight line outweigh those that leap there. */
function isContradicted(links: readonly StretchLink[], clip: number, atSeconds: number): boolean {
	let [forIt, against] = [0, 0];
	for (const { a, b, evidence } of links) {
		if (a !== clip && b !== clip) continue;
		const times = evidence.moments
			.filter(({ weight }) => weight > 0.1)
			.map((moment) => (a === clip ? moment.aSeconds : moment.bSeconds) - atSeconds);
		const before = times.filter((time) => time < -1 && time > -WITNESS_SECONDS).length;
		const after = times.filter((time) => time > 1 && time < WITNESS_SECONDS).length;
		if (evidence.step) forIt += evidence.strength;
		else if (before >= WITNESS_MOMENTS && after >= WITNESS_MOMENTS) against += evidence.strength;
	}
	return against >= forIt;
}

function onePerPair(links: readonly StretchLink[]): readonly StretchLink[] {
	return links.filter((link, index) => links.findIndex((one) => one.a === link.a && one.b === link.b) === index);
}

/** Measures all stretches of a pair anew, at each lag that is known of it. */
async function measureStretches(
	clips: readonly AlignableClip[],
	{ a, b }: StretchLink,
	known: readonly StretchLink[],
	losses: ReadonlyMap<number, readonly Loss[]>,
	comparer: Comparer
): Promise<readonly StretchLink[]> {
	const lags = known
		.filter((link) => link.a === a && link.b === b)
		.flatMap(({ evidence }) => [
			evidence.lagSeconds,
			...(evidence.step ? [evidence.step.lagBeforeSeconds, evidence.step.lagAfterSeconds] : [])
		]);
	const shifts = [a, b].flatMap((clip) =>
		(losses.get(clip) ?? []).map((loss) => (clip === a ? -1 : 1) * loss.lostSeconds)
	);
	const tried = distinct([...lags, ...lags.flatMap((lag) => shifts.flatMap((shift) => [lag + shift, lag - shift]))]);
	const moments = known
		.filter((link) => link.a === a && link.b === b)
		.flatMap(({ evidence }) => evidence.moments.filter(({ weight }) => weight > 0.1));
	const found: StretchLink[] = [];
	for (const [stretchA, spanA] of stretchesOf(clips[a]!, losses.get(a) ?? []).entries()) {
		for (const [stretchB, spanB] of stretchesOf(clips[b]!, losses.get(b) ?? []).entries()) {
			const inside = moments.filter(({ aSeconds, bSeconds }) => lies(aSeconds, spanA) && lies(bSeconds, spanB));
			const support = (lag: number) =>
				inside.filter(({ aSeconds, bSeconds }) => Math.abs(aSeconds - bSeconds - lag) < SAME_LEAP_SECONDS).length;
			let best: Link | undefined;
			for (const lagSeconds of [...tried].sort((x, y) => support(y) - support(x))) {
				const link = await examineClips(clips, { clip: a }, { clip: b }, comparer, {
					lagSeconds,
					errorSeconds: 0.02,
					limits: { a: spanA, b: spanB }
				});
				if (link && link.evidence.inliers > (best?.evidence.inliers ?? 0)) best = link;
				if (best && agreesThroughout(best)) break;
			}
			if (best) found.push({ ...best, stretchA, stretchB });
		}
	}
	return found;
}

function lies(seconds: number, { fromSeconds, toSeconds }: Span): boolean {
	return seconds >= fromSeconds && seconds <= toSeconds;
}

/** Values that differ by more than 5 ms. */
function distinct(values: readonly number[]): readonly number[] {
	return values.filter((value, index) => values.findIndex((one) => Math.abs(one - value) < 0.005) === index);
}
