import { describe, expect, it } from 'vitest';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import { timeFromText, timeWords } from './score-times';

const S = FLICKS_PER_SECOND;
const RATE = { num: 25, den: 1 };
const TEN = 36_000;

describe('times of the score', () => {
	it.each([
		['timecode', 3661.48 * S, '01:01:01:12'],
		['clock time', 3661.48 * S, '11:01:01:12'],
		['seconds', 3661.48 * S, '3661.480 s'],
		['samples', 2 * S, '96000']
	] as const)('as %s', (shown, flicks, words) => {
		expect(timeWords(Math.round(flicks), shown, RATE, TEN)).toBe(words);
	});

	it('runs over midnight, and shows timecode where no clock is known', () => {
		expect(timeWords(7200 * S, 'clock time', RATE, 86_400 - 3600)).toBe('01:00:00:00');
		expect(timeWords(7200 * S, 'clock time', RATE, undefined)).toBe('02:00:00:00');
	});

	it.each([
		['01:01:01:12', 'timecode', 3661.48],
		['1:12', 'timecode', 1.48],
		['12', 'timecode', 0.48],
		['-0:12', 'timecode', -0.48],
		['11:01:01:12', 'clock time', 3661.48],
		['12.5 s', 'timecode', 12.5],
		['12,5', 'seconds', 12.5],
		['48000', 'samples', 1],
		['24000 smp', 'timecode', 0.5]
	] as const)('reads %s as %s', (text, shown, seconds) => {
		expect(timeFromText(text, shown, RATE, TEN)! / S).toBeCloseTo(seconds, 9);
	});

	it.each(['', 'soon', '1:99:00:00', '00:00:00:25', '1:2:3:4:5'])('does not take “%s” for a time', (text) => {
		expect(timeFromText(text, 'timecode', RATE, TEN)).toBeUndefined();
	});
});
