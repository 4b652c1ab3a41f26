import { median } from '../../fitting/median';
import {
	DIRECT_DEVIATION_SECONDS,
	LEAST_RATE_DEVIATION_PPM,
	LIKELY_DEVIATION_SECONDS,
	LIKELY_VOTE,
	POOR_VOTE,
	SURE_VOTE,
	SURE_VOTE_SHARE,
	TALKERS_APART_SECONDS,
	WITHOUT_REFERENCE
} from '../../limits/solve';
import { SURE_DRY_RATIO } from '../../limits/match';
import type { CommonSound } from '../../match/direct/common-sound';
import { type FirstArrival, firstArrival, isDirect, isLikelyDirect } from '../../match/direct/first-arrival';
import { type LaidShape, sameRooms } from '../../match/direct/same-room';
import type { BendMoment } from '../../match/direct/bent-course';
import type { DirectMoment, PairEvidence } from '../../match/fit/pair-evidence';
import type { SharedMoment } from '../../match/fit/window-fit';
import type { AlignableClip } from '../clip';
import { clipOf } from '../losses/lost-samples';
import type { LinkedPair } from '../system/system';
import type { Heard, HeardPair } from './hear-pairs';

type WithSound = HeardPair & { readonly sound: CommonSound };

/**
 * Tells the direct sound from its echoes, pair by pair and room by room.
 * @returns better evidence for the pairs that were heard
 */
export function directEvidence(heard: Heard, clips: readonly AlignableClip[]): ReadonlyMap<LinkedPair, PairEvidence> {
	const all = [...heard.values()].flatMap((one) => (one.sound ? [{ ...one, sound: one.sound }] : []));
	const moments = new Map<WithSound, DirectMoment>();
	const arrivals = new Map(all.map((one) => [one, firstArrival(one.sound.shape)]));
	for (const [one, arrival] of arrivals) {
		const deviationSeconds = deviationOf(arrival);
		if (deviationSeconds !== undefined) moments.set(one, momentOf(one, arrival.lateSeconds, deviationSeconds, clips));
	}
	for (const [devices, group] of byDevices(all, clips)) {
		// As if all went from the one device to the other.
		const shapes = group.map(({ one: { sound }, isTurned }) => (isTurned ? sound.shape.toReversed() : sound.shape));
		const weights = group.map(({ one }) => Math.sqrt(one.sound.sections));
		for (const [at, { members, shape }] of sameRooms(shapes, weights).entries()) {
			const own = members.map((member) => ownArrival(member, group[member.index]!, arrivals));
			for (const [one, moment] of roomMoments(`${devices} ${at}`, firstArrival(shape), own, clips))
				moments.set(one, moment);
		}
	}
	return new Map(
		all.map((one) => {
			const arrival = arrivals.get(one)!;
			const bent = one.sound.bend && { moments: bentMoments(one, one.sound.bend, arrival.lateSeconds, clips) };
			return [one.pair, { ...withHeardRate(one), ...bent, ...directOf(moments.get(one), arrival) }];
		})
	);
}

function directOf(direct: DirectMoment | undefined, arrival: FirstArrival): Pick<PairEvidence, 'direct'> {
	if (!direct) return {};
	return { direct: isDirect(arrival) ? { ...direct, isInverted: arrival.isInverted } : direct };
}

/** Moments along a curve: single windows of the first look were followed along a simpler one. */
function bentMoments(
	{ pair, sound }: WithSound,
	bend: readonly BendMoment[],
	lateSeconds: number,
	clips: readonly AlignableClip[]
): readonly SharedMoment[] {
	const [startA, startB] = startsOf(pair, clips);
	return bend.flatMap(({ aSeconds, heardSeconds }) => {
		if (heardSeconds === undefined) return [];
		const bSeconds =
			sound.bSeconds + (aSeconds - sound.aSeconds) * (1 + (sound.slope ?? 0)) + heardSeconds + lateSeconds;
		return [{ aSeconds: startA + aSeconds, bSeconds: startB + bSeconds, weight: 1 }];
	});
}

function startsOf({ a, b }: LinkedPair, clips: readonly AlignableClip[]): readonly [number, number] {
	return [clips[clipOf(a).clip]!.soundStartSeconds, clips[clipOf(b).clip]!.soundStartSeconds];
}

/** A pair's evidence with the rate that all of what it shares tells. */
function withHeardRate({ pair: { evidence }, sound: { slope, slopeDeviation } }: WithSound): PairEvidence {
	if (slope === undefined || slopeDeviation === undefined) return evidence;
	const deviationPpm = Math.max(LEAST_RATE_DEVIATION_PPM, slopeDeviation * 1e6);
	return { ...evidence, rate: { differencePpm: slope * 1e6, deviationPpm, isWhole: true } };
}

/** How well a first arrival tells the place; nothing where it tells none. */
function deviationOf(arrival: FirstArrival): number | undefined {
	if (isDirect(arrival)) return DIRECT_DEVIATION_SECONDS * Math.max(1, SURE_DRY_RATIO / arrival.ratio) ** 4;
	return isLikelyDirect(arrival) ? LIKELY_DEVIATION_SECONDS : undefined;
}

/** A pair among those of the same two devices. */
interface Grouped {
	readonly one: WithSound;
	/** Whether it goes from the second device to the first. */
	readonly isTurned: boolean;
}

/** What one member of a room says by itself. */
interface OwnArrival extends Grouped {
	/** How much later its pattern comes than that of all. */
	readonly lateSeconds: number;
	readonly arrival: FirstArrival;
	/** Where in the pattern of all its first arrival lies. */
	readonly common: number;
}

function ownArrival(
	{ lateSeconds }: LaidShape,
	grouped: Grouped,
	arrivals: ReadonlyMap<WithSound, FirstArrival>
): OwnArrival {
	const arrival = arrivals.get(grouped.one)!;
	return { ...grouped, lateSeconds, arrival, common: (grouped.isTurned ? -1 : 1) * arrival.lateSeconds - lateSeconds };
}

/** What the pattern of a room says of all its members. */
function roomMoments(
	id: string,
	common: FirstArrival,
	own: readonly OwnArrival[],
	clips: readonly AlignableClip[]
): readonly (readonly [WithSound, DirectMoment])[] {
	const vote = voteOf(own);
	const isSure = isDirect(common) || vote.isSure;
	const place = vote.isSure || !isDirect(common) ? vote.place : common.lateSeconds;
	const deviations = [common, ...own.map(({ arrival }) => arrival)].filter(isDirect).map((one) => deviationOf(one)!);
	const deviationSeconds = isSure ? Math.min(...deviations) : DIRECT_DEVIATION_SECONDS;
	return own.map(({ one, isTurned, lateSeconds }) => {
		const moment = momentOf(one, (isTurned ? -1 : 1) * (place + lateSeconds), deviationSeconds, clips);
		return [one, isSure ? moment : { ...moment, room: { id, isTurned } }];
	});
}

/**
 * The place in a room's pattern that most members take for the direct sound. Talkers sit at different distances, so
 * that their places lie some milliseconds apart.
 */
function voteOf(own: readonly OwnArrival[]): { readonly place: number; readonly isSure: boolean } {
	const votes = own
		.map(({ arrival, common }) => ({
			at: common,
			isSure: isDirect(arrival),
			weight: isDirect(arrival) ? SURE_VOTE : isLikelyDirect(arrival) ? LIKELY_VOTE : POOR_VOTE
		}))
		.sort((x, y) => x.at - y.at);
	const weightOf = (some: readonly { readonly weight: number }[]) => some.reduce((sum, { weight }) => sum + weight, 0);
	const around = votes.map(({ at }) => votes.filter((one) => one.at >= at && one.at <= at + TALKERS_APART_SECONDS));
	const best = around.reduce((one, other) => (weightOf(other) > weightOf(one) ? other : one));
	const isSure = best.some((one) => one.isSure) && weightOf(best) >= SURE_VOTE_SHARE * weightOf(votes);
	return { place: median(best.map(({ at }) => at)), isSure };
}

/** Pairs of the same two devices, where there are several. */
function byDevices(
	heard: readonly WithSound[],
	clips: readonly AlignableClip[]
): readonly (readonly [string, readonly Grouped[]])[] {
	const groups = new Map<string, Grouped[]>();
	for (const one of heard) {
		const [a, b] = [one.pair.a, one.pair.b].map((id) => clips[clipOf(id).clip]!.device) as [string, string];
		const isTurned = a > b;
		const key = JSON.stringify(isTurned ? [b, a] : [a, b]);
		groups.set(key, [...(groups.get(key) ?? []), { one, isTurned }]);
	}
	return [...groups].filter(([, group]) => group.length > 1);
}

function momentOf(
	{ pair, sound, isWithReference }: WithSound,
	lateSeconds: number,
	deviationSeconds: number,
	clips: readonly AlignableClip[]
): DirectMoment {
	const [startA, startB] = startsOf(pair, clips);
	return {
		aSeconds: sound.aSeconds + startA,
		bSeconds: sound.bSeconds + startB + lateSeconds,
		deviationSeconds: isWithReference ? deviationSeconds : deviationSeconds * WITHOUT_REFERENCE
	};
}
