import { describe, expect, it } from 'vitest';
import type { Person, Speech } from '../shoot/person';
import { secondsToFlicks } from '../time/flicks';
import { factorAt } from './gain-curve';
import type { HeardSpeech } from './heard-speech';
import { openingOf } from './who-opens';

const channel = (index: number) => ({ deviceId: 'recorder', channel: index });
const person = (id: string, ...channels: number[]): Person => ({
	id,
	name: id,
	mark: 0,
	channels: channels.map(channel)
});
const speech = (personId: string, from: number, to: number): Speech => ({
	personId,
	inFlicks: secondsToFlicks(from),
	outFlicks: secondsToFlicks(to),
	confidence: 1,
	isByHand: false
});
const heard = (people: readonly Person[], stretches: readonly Speech[]): HeardSpeech => ({
	people,
	speech: stretches,
	sets: [],
	sources: [],
	personIds: people.map((one) => one.id)
});
const MASTER = [channel(0), channel(1), channel(2)];

describe('a microphone that opens by who speaks', () => {
	const known = heard(
		[person('host', 0), person('guest', 1, 0)],
		[speech('host', 10, 20), speech('guest', 19, 30), speech('guest', 30.4, 40)]
	);
	const dbAt = (index: number, seconds: number) =>
		20 * Math.log10(factorAt(openingOf(channel(index), MASTER, known, -15)!, secondsToFlicks(seconds)));

	it('is open for its own, turned down for others, a little in pauses', () => {
		expect([5, 15, 25, 39, 45].map((seconds) => Math.round(dbAt(0, seconds)))).toEqual([-10, 0, -15, -15, -10]);
		expect([5, 15, 25, 39, 45].map((seconds) => Math.round(dbAt(1, seconds)))).toEqual([-10, -15, 0, 0, -10]);
	});

	it('is open before the word begins, and stays through breaths and overlaps', () => {
		expect(dbAt(0, 9.981)).toBeCloseTo(0, 3);
		expect(dbAt(0, 9.949)).toBeCloseTo(-10, 3);
		expect(dbAt(1, 30.2)).toBeCloseTo(0, 3);
		expect([19.5, 19.9].map((seconds) => dbAt(0, seconds) + dbAt(1, seconds))).toEqual([0, 0]);
	});

	it('that is nobody’s stays open, and who has none opens all', () => {
		expect(openingOf(channel(2), MASTER, known, -15)).toBeUndefined();
		const guestless = heard([person('host', 0), person('guest', 7)], [speech('host', 0, 5), speech('guest', 10, 20)]);
		expect(factorAt(openingOf(channel(0), MASTER, guestless, -15)!, secondsToFlicks(15))).toBe(1);
	});
});
