import type { AlignableClip } from '../clip';
import { clipOf } from '../losses/lost-samples';
import type { LineUp } from '../system/line-ups';
import type { Heard, HeardPair } from './hear-pairs';

/** A moment of a clip whose clock bends: how much later it lies than on the straight line that its start and rate draw. */
export interface ClipBendMoment {
	readonly mediaSeconds: number;
	readonly laterSeconds: number;
}

/** How a clip's clock bends, its moments in order. */
export type ClipBend = readonly ClipBendMoment[];

/** How clips' clocks bend against the reference of their line-up, by their places in the list: those that were heard with it. */
export function clipBends(
	heard: Heard,
	lineUps: readonly LineUp[],
	clips: readonly AlignableClip[]
): ReadonlyMap<number, ClipBend> {
	const bends = new Map<number, ClipBend>();
	for (const { pairs, referenceDevice } of lineUps) {
		for (const { a, b } of pairs) {
			const one = heard.get(`${a} ${b}`);
			const [clipA, clipB] = [clipOf(a).clip, clipOf(b).clip];
			const isToReference = clips[clipA]!.device === referenceDevice;
			if (!one || isToReference === (clips[clipB]!.device === referenceDevice)) continue;
			const bend = bendOf(one, isToReference ? 'b' : 'a', clips);
			const bending = isToReference ? clipB : clipA;
			if (bend && bend.length > (bends.get(bending)?.length ?? 0)) bends.set(bending, bend);
		}
	}
	return bends;
}

/** @param side the one that bends: the other's clock counts as true */
function bendOf({ pair, sound }: HeardPair, side: 'a' | 'b', clips: readonly AlignableClip[]): ClipBend | undefined {
	if (!sound?.bend || sound.slope === undefined) return undefined;
	const { aSeconds, bSeconds, slope } = sound;
	const startSeconds = clips[clipOf(pair[side]).clip]!.soundStartSeconds;
	return sound.bend.map((moment) =>
		side === 'a'
			? { mediaSeconds: startSeconds + moment.aSeconds, laterSeconds: moment.lateSeconds }
			: {
					mediaSeconds: startSeconds + bSeconds + (moment.aSeconds - aSeconds) * (1 + slope) + moment.lateSeconds,
					laterSeconds: -moment.lateSeconds
				}
	);
}
