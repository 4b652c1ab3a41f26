import pMap from 'p-map';
import { DIRECT_RATE_ERROR_PPM, HEARD_NEAR_SECONDS, HEARD_WELL_SECONDS } from '../../limits/solve';
import type { CommonSound } from '../../match/direct/common-sound';
import type { Meeting } from '../../match/direct/section-stacks';
import type { AlignableClip } from '../clip';
import type { Comparer } from '../links/comparer';
import { clipOf, type Loss, type Stretch, stretchesOf } from '../losses/lost-samples';
import type { LineUp } from '../system/line-ups';
import type { LinkedPair, SolvedPlacement } from '../system/system';

/** What is summed before the drift is looked for: the drift smears no longer stretch. */
const SECTION_SECONDS = 12;

/** What is listened to once more, and how. */
export interface DirectListening {
	readonly clips: readonly AlignableClip[];
	readonly losses: ReadonlyMap<number, readonly Loss[]>;
	readonly comparer: Comparer;
	readonly atOnce: number;
	/** About where each clip lies in its group: what has been listened to is listened to again. */
	readonly positionOf: (clip: number) => number;
	readonly signal?: AbortSignal;
}

/** A pair that was heard: where it was expected, and what came out. */
export interface HeardPair {
	readonly pair: LinkedPair;
	/** Whether one of the two is the line-up's reference. */
	readonly isWithReference: boolean;
	readonly meeting: Meeting;
	readonly sound: CommonSound | undefined;
}

/** What has been heard of pairs so far. */
export type Heard = ReadonlyMap<string, HeardPair>;

/**
 * Hears every pair of some line-ups at the rates that all evidence together has found.
 * @param before what was heard at other rates and places: it stands where those were about the same
 */
export async function hearPairs(lineUps: readonly LineUp[], before: Heard, listening: DirectListening): Promise<Heard> {
	const expected = lineUps.flatMap(({ placements, pairs, referenceDevice }) => {
		const byId = new Map(placements.map((placement) => [placement.clipId, placement]));
		return pairs.flatMap((pair) => {
			const meeting = meetingOf(pair, byId, listening);
			const isWithReference = [pair.a, pair.b].some(
				(id) => listening.clips[clipOf(id).clip]!.device === referenceDevice
			);
			return meeting ? [{ pair, meeting, isWithReference }] : [];
		});
	});
	const heard = await pMap(
		expected,
		async ({ pair, meeting, isWithReference }): Promise<readonly [string, HeardPair]> => {
			listening.signal?.throwIfAborted();
			const key = `${pair.a} ${pair.b}`;
			const known = before.get(key);
			if (known && isAsExpected(known, meeting)) return [key, { ...known, pair, isWithReference }];
			const [a, b] = [{ clip: clipOf(pair.a).clip }, { clip: clipOf(pair.b).clip }];
			const sound = await listening.comparer.hearCommon(a, b, meeting);
			return [key, { pair, meeting, isWithReference, sound }];
		},
		{ concurrency: listening.atOnce }
	);
	return new Map(heard);
}

/** Whether hearing a pair once more would give the same. */
function isAsExpected({ meeting: old }: HeardPair, meeting: Meeting): boolean {
	const between = meeting.aSeconds - old.aSeconds;
	const off = meeting.bSeconds - (old.bSeconds + between * (1 + old.slope));
	const { fromSeconds = 0, toSeconds = 0 } = meeting.limits?.a ?? {};
	const drift = Math.abs(meeting.slope - old.slope) * Math.min(toSeconds - fromSeconds, SECTION_SECONDS);
	return Math.abs(off) < HEARD_NEAR_SECONDS && drift < HEARD_WELL_SECONDS;
}

/** Where two clips meet in the middle of what they share, in their sounds' own times. */
function meetingOf(
	pair: LinkedPair,
	placements: ReadonlyMap<string, SolvedPlacement>,
	{ clips, losses, positionOf }: DirectListening
): Meeting | undefined {
	const [x, y] = [placements.get(pair.a)!, placements.get(pair.b)!];
	const [ofA, ofB] = [clipOf(pair.a), clipOf(pair.b)];
	const [a, b] = [clips[ofA.clip]!, clips[ofB.clip]!];
	if (a.fixed && b.fixed) return undefined;
	const [rateA, rateB] = [1 + x.ratePpm * 1e-6, 1 + y.ratePpm * 1e-6];
	const [spanA, spanB] = [soundOf(a, ofA.stretch, losses.get(ofA.clip)), soundOf(b, ofB.stretch, losses.get(ofB.clip))];
	const from = Math.max(x.startSeconds + spanA.fromSeconds * rateA, y.startSeconds + spanB.fromSeconds * rateB);
	const to = Math.min(x.startSeconds + spanA.toSeconds * rateA, y.startSeconds + spanB.toSeconds * rateB);
	if (to <= from) return undefined;
	const middle = (from + to) / 2;
	return {
		aSeconds: (middle - x.startSeconds) / rateA - a.soundStartSeconds,
		bSeconds: (middle - y.startSeconds) / rateB - b.soundStartSeconds,
		slope: rateA / rateB - 1,
		slopeError: DIRECT_RATE_ERROR_PPM * 1e-6,
		gridSeconds: -positionOf(ofA.clip) - a.soundStartSeconds,
		limits: { a: inSound(spanA, a), b: inSound(spanB, b) },
		...(pair.evidence.isSkimmed ? { isSkimmed: true } : {})
	};
}

/** The sound of a stretch, in media time. */
function soundOf(clip: AlignableClip, stretch: number, losses: readonly Loss[] = []): Stretch {
	const { fromSeconds, toSeconds } = stretchesOf(clip, losses)[stretch]!;
	return {
		fromSeconds: Math.max(fromSeconds, clip.soundStartSeconds),
		toSeconds: Math.min(toSeconds, clip.soundStartSeconds + clip.soundSeconds)
	};
}

function inSound({ fromSeconds, toSeconds }: Stretch, { soundStartSeconds }: AlignableClip): Stretch {
	return { fromSeconds: fromSeconds - soundStartSeconds, toSeconds: toSeconds - soundStartSeconds };
}
