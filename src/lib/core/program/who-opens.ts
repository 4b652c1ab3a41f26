import { OPENING, PAUSE_DB } from '../limits/master';
import { type ChannelKey, isSameChannel } from '../master/report';
import type { Person } from '../shoot/person';
import type { Range } from '../shoot/lookup';
import { FLICKS_PER_SECOND, secondsToFlicks } from '../time/flicks';
import { curveThrough, type GainCurve, type LevelStep } from './gain-curve';
import { type HeardSpeech, joined } from './heard-speech';

/**
 * How a channel of the master opens and closes by who speaks: open for those whom it is closest to of all channels of the
 * master, turned down while others speak, a little while nobody does.
 * @returns nothing for a channel that is nobody's, which stays open
 */
export function openingOf(
	channel: ChannelKey,
	master: readonly ChannelKey[],
	{ people, speech }: HeardSpeech,
	closedDb: number
): GainCurve | undefined {
	const own = (person: Person) => person.channels.find((one) => master.some((other) => isSameChannel(one, other)));
	const owners = new Set(people.filter((person) => isOf(own(person), channel)).map((person) => person.id));
	if (owners.size === 0 || speech.length === 0) return undefined;
	// Who has no microphone in the master is heard by all that there are.
	const homeless = new Set(people.filter((person) => !own(person)).map((person) => person.id));
	const bridged = secondsToFlicks(OPENING.bridgedSeconds);
	const opening = joined(
		speech.filter(({ personId }) => owners.has(personId) || homeless.has(personId)),
		bridged
	);
	const closing = joined(
		speech.filter(({ personId }) => !owners.has(personId)),
		bridged
	);
	return curveThrough(levels(opening, closing, closedDb), OPENING);
}

function isOf(own: ChannelKey | undefined, channel: ChannelKey): boolean {
	return own !== undefined && isSameChannel(own, channel);
}

/** Open in some stretches, else closed in others, else as in a pause. */
function levels(opening: readonly Range[], closing: readonly Range[], closedDb: number): readonly LevelStep[] {
	const pauseDb = Math.max(closedDb, PAUSE_DB);
	const moments = [...opening, ...closing].flatMap((one) => [one.inFlicks, one.outFlicks]).sort((a, b) => a - b);
	const steps: LevelStep[] = [{ atFlicks: moments[0]! - FLICKS_PER_SECOND, levelDb: pauseDb }];
	let [open, closed] = [0, 0];
	for (const moment of new Set(moments)) {
		while (open < opening.length && opening[open]!.outFlicks <= moment) open++;
		while (closed < closing.length && closing[closed]!.outFlicks <= moment) closed++;
		const isOpen = (opening[open]?.inFlicks ?? Infinity) <= moment;
		const isClosed = (closing[closed]?.inFlicks ?? Infinity) <= moment;
		const levelDb = isOpen ? 0 : isClosed ? closedDb : pauseDb;
		if (levelDb !== steps.at(-1)!.levelDb) steps.push({ atFlicks: moment, levelDb });
	}
	return steps;
}
