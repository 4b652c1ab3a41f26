import { MIN_SHARED_SECONDS, PREDICTION_ERROR_SECONDS, STRONG, WANTED_LINKS } from '../../limits/solve';
import pMap from 'p-map';
import type { AlignableClip } from '../clip';
import { soundWorth } from '../clip';
import { examineClips, type Link } from './compare-clips';
import type { FoundLinks } from './find-links';
import type { Comparer } from './comparer';
import type { LineUp } from '../system/line-ups';
import { clipOf } from '../losses/lost-samples';
import type { SolvedPlacement } from '../system/system';

/**
 * Looks for more evidence where the solution says it must be: loops are the proof of a line-up.
 * @returns new links; where nothing agrees there is none
 */
export async function closeLoops(
	clips: readonly AlignableClip[],
	{ links, positionOf }: FoundLinks,
	lineUps: readonly LineUp[],
	comparer: Comparer,
	atOnce: number,
	signal?: AbortSignal
): Promise<readonly Link[]> {
	const wanted = lineUps.flatMap((lineUp) => wantedPairs(clips, links, lineUp));
	const found = await pMap(
		wanted,
		async ({ a, b, lagSeconds, aroundSeconds, predictedSlope }) => {
			signal?.throwIfAborted();
			return examineClips(clips, { clip: a }, { clip: b }, comparer, {
				lagSeconds,
				aroundSeconds,
				...(predictedSlope === undefined ? {} : { predictedSlope }),
				positionOfA: positionOf(a),
				errorSeconds: PREDICTION_ERROR_SECONDS
			});
		},
		{ concurrency: atOnce }
	);
	return found.filter((link) => link !== undefined);
}

interface WantedPair {
	readonly a: number;
	readonly b: number;
	readonly lagSeconds: number;
	readonly aroundSeconds: number;
	/** How the lag drifts, seconds a second, where both clocks have been measured. */
	readonly predictedSlope?: number;
}

function wantedPairs(clips: readonly AlignableClip[], links: readonly Link[], lineUp: LineUp): readonly WantedPair[] {
	const placements = new Map(lineUp.placements.map((placement) => [clipOf(placement.clipId).clip, placement]));
	const linked = new Set(links.map(({ a, b }) => pairKey(a, b)));
	const measured = new Set(
		links.filter(({ evidence }) => evidence.rate).flatMap(({ a, b }) => [clips[a]!.device, clips[b]!.device])
	);
	const counts = new Map<number, number>();
	const count = (clip: number, by: number) => counts.set(clip, (counts.get(clip) ?? 0) + by);
	for (const { a, b, evidence } of links) {
		const by = evidence.strength >= STRONG && evidence.inliers >= 0.8 * evidence.windows ? 2 : 1;
		count(a, by);
		count(b, by);
	}
	const wanted: WantedPair[] = [];
	const members = [...placements.keys()].sort((a, b) => soundWorth(clips[b]!) - soundWorth(clips[a]!));
	for (const clip of [...members].reverse()) {
		if (clips[clip]!.fixed) continue;
		const partners = members
			.filter((other) => clips[other]!.device !== clips[clip]!.device && !linked.has(pairKey(clip, other)))
			.map((other) => ({ other, shared: sharedTime(clips, placements, clip, other) }))
			.filter(({ shared }) => shared.seconds >= MIN_SHARED_SECONDS)
			.sort(
				(x, y) => y.shared.seconds * partnerWorth(clips[y.other]!) - x.shared.seconds * partnerWorth(clips[x.other]!)
			);
		for (const { other, shared } of partners) {
			if ((counts.get(clip) ?? 0) >= WANTED_LINKS) break;
			linked.add(pairKey(clip, other));
			count(clip, 1);
			count(other, 1);
			const place = predicted(placements, other, clip, shared.middleSeconds);
			const areMeasured = [clip, other].every((one) => measured.has(clips[one]!.device));
			const predictedSlope = (placements.get(other)!.ratePpm - placements.get(clip)!.ratePpm) * 1e-6;
			wanted.push(areMeasured ? { ...place, predictedSlope } : place);
		}
	}
	return wanted;
}

function pairKey(a: number, b: number): string {
	return a < b ? `${a} ${b}` : `${b} ${a}`;
}

function partnerWorth(clip: AlignableClip): number {
	return clip.hasPicture ? 0.5 : 1;
}

type Placements = ReadonlyMap<number, SolvedPlacement>;

function sharedTime(clips: readonly AlignableClip[], placements: Placements, a: number, b: number) {
	const [x, y] = [placements.get(a)!, placements.get(b)!];
	const from = Math.max(x.startSeconds + clips[a]!.soundStartSeconds, y.startSeconds + clips[b]!.soundStartSeconds);
	const to = Math.min(
		x.startSeconds + clips[a]!.soundStartSeconds + clips[a]!.soundSeconds,
		y.startSeconds + clips[b]!.soundStartSeconds + clips[b]!.soundSeconds
	);
	return { seconds: to - from, middleSeconds: (from + to) / 2 };
}

/** Where the solution says a pair must agree, at a moment of the line-up. */
function predicted(placements: Placements, a: number, b: number, atSeconds: number): WantedPair {
	const mediaTime = ({ startSeconds, ratePpm }: SolvedPlacement) => (atSeconds - startSeconds) / (1 + ratePpm * 1e-6);
	const [x, y] = [placements.get(a)!, placements.get(b)!];
	const aroundSeconds = mediaTime(x);
	return { a, b, lagSeconds: aroundSeconds - mediaTime(y), aroundSeconds };
}
