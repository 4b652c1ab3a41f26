import { describe, expect, it } from 'vitest';
import { STRAY_REASONS } from '../../core/solve/system/line-ups';
import { secondsToFlicks } from '../../core/time/flicks';
import { strayWords } from './stray-words';
import {
	clockRateWords,
	clockWords,
	countWords,
	lengthWords,
	millisecondsWords,
	ppmWords,
	progressWords,
	signedWords,
	sizeWords,
	timecodeWords,
	timeLeftWords
} from './words';

describe('words for the screen', () => {
	it('say lengths and times as the trade does', () => {
		expect(lengthWords(secondsToFlicks(8.24))).toBe('8.2 s');
		expect(lengthWords(secondsToFlicks(245))).toBe('4:05');
		expect(lengthWords(secondsToFlicks(3753.4))).toBe('1:02:33');
		expect(timecodeWords(secondsToFlicks(3661.04), { num: 25, den: 1 })).toBe('01:01:01:01');
		expect(clockWords(86_399.9)).toBe('23:59:59');
		expect(clockWords(86_400 + 61)).toBe('00:01:01');
	});

	it('say counts, sizes and rates', () => {
		expect(countWords(1, 'clip')).toBe('1 clip');
		expect(countWords(2, 'stray')).toBe('2 strays');
		expect(sizeWords(999)).toBe('999 bytes');
		expect(sizeWords(3_330_103)).toBe('3.3 MB');
		expect(sizeWords(25_000_000_000)).toBe('25 GB');
		expect(ppmWords(-45.04)).toBe('−45.0 ppm');
		expect(ppmWords(-1e-9)).toBe('0.0 ppm');
		expect(millisecondsWords(0.00091)).toBe('0.91 ms');
		expect(millisecondsWords(0.0123)).toBe('12.3 ms');
		expect(timeLeftWords(null)).toBe('');
		expect(timeLeftWords(44.2)).toBe('about 44 s left');
		expect(timeLeftWords(600)).toBe('about 10 min left');
	});

	it('give every stray a reason and a next step, in whole sentences', () => {
		for (const reason of STRAY_REASONS) {
			const { why, next } = strayWords(reason);
			expect(why).toMatch(/^[A-Z].*\.$/);
			expect(next).toMatch(/^[A-Z].*\.$/);
		}
	});

	it('signs numbers, but for nothing', () => {
		expect([1.234, -1.234, -0.001, 0].map(signedWords)).toEqual(['1.23', '−1.23', '0.00', '0.00']);
	});
});

it('says of a clock that one sync point tells nothing of it', () => {
	expect(clockRateWords({ method: 'sync point', ratePpm: 0 })).toBe('not known');
	expect(clockRateWords({ method: 'sound', ratePpm: 0 })).toBe('0.0 ppm');
});

it('says how far something is, without what is not known', () => {
	expect(progressWords(0.089, '525 of 5725 frames', 32)).toBe('8% · 525 of 5725 frames · about 32 s left');
	expect(progressWords(0, '', null)).toBe('0%');
});
