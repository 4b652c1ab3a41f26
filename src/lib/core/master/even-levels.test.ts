import { expect, it } from 'vitest';
import { AS_RECORDED } from '../shoot/decisions';
import { evenLevels } from './even-levels';

const channel = (index: number, gainDb = 0) => ({ ...AS_RECORDED, deviceId: 'r', channel: index, gainDb });
const person = (id: string, ...own: number[]) => ({
	id,
	name: id,
	mark: 0,
	channels: own.map((index) => ({ deviceId: 'r', channel: index }))
});
const source = (index: number, ...levels: (number | undefined)[]) =>
	({
		deviceId: 'r',
		channel: index,
		people: levels.map((levelDb) => ({ points: 0, ...(levelDb === undefined ? {} : { levelDb }) }))
	}) as never;
const REPORT = { personIds: ['a', 'b'], sources: [source(0, -30, -50), source(1, -48, -20), source(2, -33, -33)] };

it('has everybody as loud as the others, around the mean', () => {
	const even = evenLevels([channel(0), channel(1, -2), channel(2)], [person('a', 2, 0), person('b', 1)], REPORT)!;
	// a is at -33 on the room, which is named closest to him; b at -22.
	expect(even.map((one) => one.gainDb)).toEqual([0, -7.5, 5.5]);
});

it('says nothing where fewer than two are known', () => {
	expect(evenLevels([channel(0)], [person('a', 0), person('b', 1)], REPORT)).toBeUndefined();
	expect(evenLevels([channel(0), channel(1)], [], REPORT)).toBeUndefined();
});
