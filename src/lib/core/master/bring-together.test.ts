import { describe, expect, it } from 'vitest';
import { AS_RECORDED, type MasterChannel } from '../shoot/decisions';
import { flicksToSeconds, secondsToFlicks } from '../time/flicks';
import { apartMicrophones, broughtTogether } from './bring-together';

const channel = (index: number, part: Partial<MasterChannel> = {}): MasterChannel => ({
	...AS_RECORDED,
	deviceId: 'r',
	channel: index,
	...part
});
const person = (id: string, index: number) => ({
	id,
	name: id,
	mark: 0,
	channels: [{ deviceId: 'r', channel: index }]
});
const source = (index: number, ...people: object[]) => ({ deviceId: 'r', channel: index, people }) as never;
/** Channel 2 is a boom, 3 hears nobody well. */
const REPORT = {
	personIds: ['a', 'b'],
	sources: [
		source(0, {}, { laterSeconds: 0.004 }),
		source(1, { laterSeconds: 0.004 }, {}),
		source(2, { laterSeconds: 0.0062, isInverted: true }, { laterSeconds: 0.0064, isInverted: true }),
		source(3, {}, {})
	]
};
const PEOPLE = [person('a', 0), person('b', 1)];

describe('microphones of one mix', () => {
	it('that hear somebody later than his own come to it; his own stays, though it hears others later', () => {
		const master = [channel(0), channel(2), channel(3)];
		const apart = apartMicrophones(master, PEOPLE, REPORT);
		expect(apart.map((one) => [one.channel.channel, flicksToSeconds(one.shiftFlicks), one.isInverted])).toEqual([
			[2, -0.0062, true]
		]);
		const together = broughtTogether(master, apart);
		expect(together[1]).toEqual(channel(2, { shiftFlicks: secondsToFlicks(-0.0062), isInverted: true }));
		expect(apartMicrophones(together, PEOPLE, REPORT)).toEqual([]);
	});

	it('tell how far people lie apart where one microphone hears several', () => {
		const [one] = apartMicrophones([channel(0), channel(1), channel(2)], PEOPLE, REPORT);
		expect(one!.spreadSeconds).toBeCloseTo(0.0002, 9);
		expect(one!.personIds).toEqual(['a', 'b']);
	});

	it('that nobody’s own is with are left alone, and those that are moved already count so', () => {
		expect(apartMicrophones([channel(2), channel(3)], PEOPLE, REPORT)).toEqual([]);
		const moved = channel(2, { shiftFlicks: secondsToFlicks(-0.006), isInverted: true });
		const [one] = apartMicrophones([channel(0), moved], PEOPLE, REPORT);
		expect(flicksToSeconds(one!.shiftFlicks)).toBeCloseTo(-0.0002, 9);
		expect(one!.isInverted).toBe(false);
	});
});
