import { FAMILIAR_CORNER_SHARE, LOUD_CORNER_SHARE, MAX_CLOSE_BLEED_DB, MAX_CORNER_BELOW_DB } from '../limits/people';
import { shareOfBytes, shareOfCounts } from '../signal/byte-shares';
import { learnBleed } from './bleed';

/** A channel that may be a person's close microphone. */
export interface ChannelToSort {
	readonly name: string;
	/** Power bytes (`VOICE_BANDS`) in frames of the line-up, 0 where it does not run. */
	readonly levels: Uint8Array;
	/** Nothing is heard, or another channel holds the same. */
	readonly isLeftOut: boolean;
}

/** Room microphones are no voices. */
export const ROOM_NAMES = /room|amb|audience|saal|raum/i;

/** Names that say what a channel holds and that it is no person's; common practice on recorders. */
const NO_PERSON =
	/\b(room|amb(ience|ient)?|audience|atmos?|hall|boom|mix|master|desk|foh|l\/?r|stereo|music|playback|ltc|tc|timecode|spare|saal|raum|atmo)\b|^mix/i;
/** Names that a device gives by itself. */
const GENERIC =
	/^((ch(annel)?|tr(ack)?|input|in|mic|lav|a|audio)[ ._-]*)?\d*$|^(l|r|left|right|mono|links|rechts|front|centre|center|lfe)$/i;

/** What a channel's name tells of whose it is. */
export function personOf(name: string): string | undefined {
	const trimmed = name.trim();
	return trimmed === '' || NO_PERSON.test(trimmed) || GENERIC.test(trimmed) ? undefined : trimmed;
}

/** A person as far as the channels tell: his name, where one is known, and his channel's place in the list. */
export interface ProposedPerson {
	readonly name: string | undefined;
	readonly channel: number;
}

/**
 * Who may have spoken into a microphone of his own. Channels that are named after somebody are his; where none is, those
 * that stand clearly apart: one voice is loud in each, and only there.
 */
export function proposePeople(channels: readonly ChannelToSort[]): readonly ProposedPerson[] {
	const usable = channels.flatMap((channel, index) => (channel.isLeftOut ? [] : [{ ...channel, index }]));
	const named = usable.flatMap(({ name, index }) => {
		const person = personOf(name);
		return person === undefined ? [] : [{ name: person, channel: index }];
	});
	if (named.length > 0) return withoutRepeats(named);
	const candidates = usable.filter(({ name }) => !NO_PERSON.test(name));
	return apart(candidates.map(({ levels }) => levels)).map((at) => ({
		name: undefined,
		channel: candidates[at]!.index
	}));
}

/** A person that two channels are named after has the first one closest. */
function withoutRepeats(named: readonly { name: string; channel: number }[]): readonly ProposedPerson[] {
	const seen = new Set<string>();
	return named.filter(({ name }) => {
		const key = name.toLowerCase();
		if (seen.has(key)) return false;
		seen.add(key);
		return true;
	});
}

/** Channels that are left when those that hear what others hear are taken away one by one. */
function apart(levels: readonly Uint8Array[]): readonly number[] {
	let left = [...levels.keys()];
	while (left.length > 1) {
		const own = left.map((index) => levels[index]!);
		const worst = leastApart(own);
		if (worst === undefined) return left;
		left = left.filter((_, at) => at !== worst);
	}
	return [];
}

/** The channel that stands apart least, where one does not stand apart enough. */
function leastApart(levels: readonly Uint8Array[]): number | undefined {
	const model = learnBleed(levels);
	const count = levels.length;
	const highest = 10 ** (MAX_CLOSE_BLEED_DB / 10);
	let [worst, worstBleed] = [-1, highest];
	for (let person = 0; person < count; person++)
		for (let channel = 0; channel < count; channel++) {
			const bleed = model.bleed[person * count + channel]!;
			if (person === channel || bleed <= worstBleed) continue;
			// Of two that hear the same the one with less between loud and quiet stands farther off.
			worst = dynamicOf(levels[person]!) < dynamicOf(levels[channel]!) ? person : channel;
			worstBleed = bleed;
		}
	if (worst >= 0) return worst;
	for (let person = 0; person < count; person++) {
		if (model.cornerShares[person]! < FAMILIAR_CORNER_SHARE) return person;
		// Who speaks into it is as loud there as anything: what is only left over when others are silent is nobody.
		if (loudOf(levels[person]!) - loudInCorners(levels[person]!, model.corners, person) > MAX_CORNER_BELOW_DB * 2)
			return person;
	}
	return undefined;
}

function dynamicOf(levels: Uint8Array): number {
	return shareOfBytes(levels, 0.95) - shareOfBytes(levels, 0.1);
}

function loudOf(levels: Uint8Array): number {
	return shareOfBytes(levels, LOUD_CORNER_SHARE);
}

function loudInCorners(levels: Uint8Array, corners: Int16Array, person: number): number {
	const counts = new Uint32Array(256);
	for (let frame = 0; frame < levels.length; frame++) if (corners[frame] === person) counts[levels[frame]!]!++;
	return shareOfCounts(counts, LOUD_CORNER_SHARE);
}
