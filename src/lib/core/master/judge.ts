import { HALL_DISTINCT_DB } from '../limits/people';
import type { FrameRange } from '../measure/clipping';
import { noiseDb, OTHERWISE, roomTailDb, speechDb, type SpeechMap, speechMap } from '../measure/heard-people';
import type { MicrophoneLag } from '../measure/microphone-lag';
import type { SoundMeasures } from '../measure/sound-measures';
import { closeSpeech } from '../people/close-speech';
import { confidenceOf } from '../people/confidence';
import { proposePeople, ROOM_NAMES } from '../people/propose';
import type { FrameStretch } from '../people/stretches';
import { shareOfBytes } from '../signal/byte-shares';
import type { HeardChannel, SpeakingPerson } from './heard-channel';
import { type HeardFaults, type HeardPerson, type Points, pointsOf } from './rank';
import { reasonsFor } from './reasons';
import { type SetOfChannels, setsOf } from './sets';

export interface SpokenStretch {
	readonly person: number;
	readonly fromFrame: number;
	readonly toFrame: number;
	/** That it is his, 0 to 1. */
	readonly confidence: number;
}

/** What is measured of a source, in words of numbers. What could not be taken is left out. */
export interface SourceMeasures {
	readonly loudnessLufs?: number;
	readonly truePeakDbtp?: number;
	/** Of who is heard best. */
	readonly speechToNoiseDb?: number;
	readonly roomTailDb?: number;
	readonly noiseDb?: number;
	readonly clippedShare: number;
	readonly dropOuts: number;
	/** Against speech. */
	readonly humDb?: number;
	readonly isHumHeard?: boolean;
	readonly rumbleDb?: number;
	readonly upperEdgeHz?: number;
}

export interface JudgedSource extends Points {
	readonly deviceId: string;
	readonly channel: number;
	readonly name: string;
	readonly coverage: number;
	readonly sentence: string;
	readonly measures: SourceMeasures;
	/**
	 * For each person by himself, with how loud he is (dB of full scale, 211 to 4 008 Hz), and how he is heard against the channel
	 * that is closest to him, where that was listened to.
	 */
	readonly people: readonly (HeardPerson &
		Partial<MicrophoneLag> & { readonly points: number; readonly levelDb?: number })[];
	readonly isDead: boolean;
	readonly sameAs?: number;
	/** Where faults lie, in frames of the stretch. */
	readonly clipped: readonly FrameRange[];
	readonly droppedOut: readonly FrameRange[];
	readonly loudestHumFrame?: number;
	readonly loudestRumbleFrame?: number;
}

export interface JudgedSet extends Points, SetOfChannels {
	readonly coverage: number;
	readonly sentence: string;
}

export interface Judgement {
	/** Best first. */
	readonly sets: readonly JudgedSet[];
	readonly sources: readonly JudgedSource[];
	readonly people: readonly SpeakingPerson[];
	/** In order of time. */
	readonly speech: readonly SpokenStretch[];
}

/**
 * Who speaks when, and how well each source has them.
 * @param given people as an editor has named them; proposed by names and levels where he has not
 * @param range frames in which sources are measured; all of them where it is left out
 */
export function judge(
	channels: readonly HeardChannel[],
	given?: readonly SpeakingPerson[],
	range?: FrameRange
): Judgement {
	const people = given ?? proposed(channels);
	const withChannel = people.flatMap(({ channels: own }, person) =>
		own.length > 0 ? [{ person, channel: own[0]! }] : []
	);
	const found =
		withChannel.length > 0
			? stretchesOf(
					channels,
					withChannel.map((one) => one.channel)
				)
			: [];
	const stretches = people.map((_, person) => found[withChannel.findIndex((one) => one.person === person)] ?? []);
	const isAnybody = stretches.some((own) => own.length > 0);
	// Where nobody is known, all speech counts as one person's.
	const heard = isAnybody ? { people, stretches } : anybody(channels);
	const frames = channels[0]?.track.speech.length ?? 0;
	const map = speechMap(heard.stretches, frames);
	if (range) {
		map.fill(OTHERWISE, 0, range.fromFrame);
		map.fill(OTHERWISE, range.toFrame);
	}
	const sources = channels.map((_, index) => judgeSource(channels, index, heard.people, map));
	const sets = setsOf(channels, people).map((set) => judgeSet(set, channels, sources, heard.people.length));
	const ranked = (a: JudgedSource, b: JudgedSource) =>
		Number(a.isDead) - Number(b.isDead) || b.points - a.points || Number(a.sameAs ?? -1) - Number(b.sameAs ?? -1);
	return {
		sets: [...sets].sort((a, b) => b.points - a.points),
		sources: [...sources].sort(ranked),
		people,
		speech: stretches
			.flatMap((own, person) =>
				own.map(({ from, to, evidence }) => ({
					person,
					fromFrame: from,
					toFrame: to,
					confidence: confidenceOf(evidence)
				}))
			)
			.sort((a, b) => a.fromFrame - b.fromFrame || a.person - b.person)
	};
}

function proposed(channels: readonly HeardChannel[]): readonly SpeakingPerson[] {
	const found = proposePeople(
		channels.map(({ name, track, sound, sameAs }) => ({
			name,
			levels: track.voice,
			isLeftOut: sound.isDead || sameAs !== undefined
		}))
	);
	return found.map(({ name, channel }, index) => ({ name: name ?? `Person ${index + 1}`, channels: [channel] }));
}

/**
 * Who speaks when. A room channel takes music and applause as its own, where everybody is far softer on it than on his own
 * microphone.
 */
function stretchesOf(
	channels: readonly HeardChannel[],
	close: readonly number[]
): readonly (readonly FrameStretch[])[] {
	const levels = close.map((index) => channels[index]!.track.voice);
	const hall = channels.find(
		({ name, coverage, sound }, index) =>
			ROOM_NAMES.test(name) && coverage > 0.95 && !sound.isDead && !close.includes(index)
	);
	if (hall) {
		const { stretches, model } = closeSpeech([...levels, hall.track.voice]);
		const count = levels.length + 1;
		const isDistinct = levels.every(
			(_, person) => model.bleed[person * count + levels.length]! <= 10 ** (-HALL_DISTINCT_DB / 10)
		);
		if (isDistinct) return stretches.slice(0, -1);
	}
	return closeSpeech(levels).stretches;
}

/** All speech as one person's, on the channel with most between loud and quiet. */
function anybody(channels: readonly HeardChannel[]): {
	readonly people: readonly SpeakingPerson[];
	readonly stretches: readonly (readonly FrameStretch[])[];
} {
	const dynamic = ({ track: { voice }, coverage }: HeardChannel) =>
		coverage * (shareOfBytes(voice, 0.95) - shareOfBytes(voice, 0.1));
	const live = [...channels.keys()].filter((index) => !channels[index]!.sound.isDead);
	const [best] = live.sort((a, b) => dynamic(channels[b]!) - dynamic(channels[a]!));
	if (best === undefined) return { people: [], stretches: [] };
	return { people: [{ name: '', channels: [best] }], stretches: closeSpeech([channels[best]!.track.voice]).stretches };
}

function judgeSource(
	channels: readonly HeardChannel[],
	index: number,
	people: readonly SpeakingPerson[],
	map: SpeechMap
): JudgedSource {
	const { deviceId, channel, name, coverage, track, sound, sameAs } = channels[index]!;
	const noise = noiseDb(track.speech, map);
	const levels = people.map((_, person) => speechDb(track.speech, map, person));
	const heard = people.map((one, person): HeardPerson => {
		const level = levels[person];
		const closest = one.channels[0];
		const tail =
			closest === undefined ? undefined : roomTailDb(track.speech, channels[closest]!.track.speech, map, person, noise);
		return {
			...(level === undefined || noise === undefined ? {} : { speechToNoiseDb: level - noise }),
			...(tail === undefined ? {} : { roomTailDb: tail })
		};
	});
	const faults = faultsOf(sound, meanLevel(levels));
	const points = sound.isDead ? NOTHING_HEARD : pointsOf(heard, faults);
	const best = heard.reduce<HeardPerson>(
		(a, b) => ((b.speechToNoiseDb ?? -Infinity) > (a.speechToNoiseDb ?? -Infinity) ? b : a),
		{}
	);
	return {
		...points,
		deviceId,
		channel,
		name,
		coverage,
		sentence: sound.isDead ? 'Nothing is heard in it.' : reasonsFor(points, faults, coverage),
		measures: {
			...(sound.loudnessLufs === undefined ? {} : { loudnessLufs: sound.loudnessLufs }),
			...(sound.truePeakDbtp === undefined ? {} : { truePeakDbtp: sound.truePeakDbtp }),
			...best,
			...(noise === undefined ? {} : { noiseDb: noise }),
			...faults
		},
		people: heard.map((one, person) => ({
			...one,
			...(levels[person] === undefined ? {} : { levelDb: levels[person] }),
			points: sound.isDead ? 0 : pointsOf([one], faults).points
		})),
		isDead: sound.isDead,
		...(sameAs === undefined ? {} : { sameAs }),
		clipped: sound.clipping.passages,
		droppedOut: sound.dropOuts,
		...(sound.hum?.isHeard ? { loudestHumFrame: sound.hum.loudestFrame } : {}),
		...(sound.loudestRumbleFrame === undefined ? {} : { loudestRumbleFrame: sound.loudestRumbleFrame })
	};
}

const NOTHING_HEARD: Points = {
	points: 0,
	losses: { noise: 0, room: 0, uneven: 0, dull: 0, clipped: 0, dropOuts: 0, hum: 0, rumble: 0 }
};

function faultsOf(sound: SoundMeasures, speechLevelDb: number | undefined): HeardFaults {
	return {
		clippedShare: sound.clipping.share,
		dropOuts: sound.dropOuts.length,
		...(sound.upperEdgeHz === undefined ? {} : { upperEdgeHz: sound.upperEdgeHz }),
		...(speechLevelDb === undefined || !sound.hum
			? {}
			: { humDb: sound.hum.levelDb - speechLevelDb, isHumHeard: sound.hum.isHeard }),
		...(speechLevelDb === undefined || sound.rumbleDb === undefined ? {} : { rumbleDb: sound.rumbleDb - speechLevelDb })
	};
}

function meanLevel(levelsDb: readonly (number | undefined)[]): number | undefined {
	const powers = levelsDb.flatMap((level) => (level === undefined ? [] : 10 ** (level / 10)));
	return powers.length === 0 ? undefined : 10 * Math.log10(powers.reduce((sum, one) => sum + one, 0) / powers.length);
}

/** A set has each person as its best channel for him does, and the faults of all channels that are needed for that. */
function judgeSet(
	set: SetOfChannels,
	channels: readonly HeardChannel[],
	sources: readonly JudgedSource[],
	people: number
): JudgedSet {
	const own = set.channels.map((index) => sources[index]!);
	const best = Array.from({ length: people }, (_, person) =>
		own.reduce((a, b) => (b.people[person]!.points > a.people[person]!.points ? b : a))
	);
	const needed = best.length > 0 ? [...new Set(best)] : own;
	const faults = worstOf(needed.map((one) => one.measures));
	const points = pointsOf(
		best.map((one, person) => one.people[person]!),
		faults
	);
	const coverage = Math.min(...set.channels.map((index) => channels[index]!.coverage));
	return { ...set, ...points, coverage, sentence: reasonsFor(points, faults, coverage) };
}

function worstOf(measures: readonly SourceMeasures[]): HeardFaults {
	const greatest = (values: readonly number[]) => (values.length === 0 ? undefined : Math.max(...values));
	const edges = measures.flatMap((one) => one.upperEdgeHz ?? []);
	const humDb = greatest(measures.flatMap((one) => (one.isHumHeard ? (one.humDb ?? []) : [])));
	const rumbleDb = greatest(measures.flatMap((one) => one.rumbleDb ?? []));
	return {
		clippedShare: greatest(measures.map((one) => one.clippedShare)) ?? 0,
		dropOuts: measures.reduce((sum, one) => sum + one.dropOuts, 0),
		...(edges.length === 0 ? {} : { upperEdgeHz: Math.min(...edges) }),
		...(humDb === undefined ? {} : { humDb, isHumHeard: true }),
		...(rumbleDb === undefined ? {} : { rumbleDb })
	};
}
