import { describe, expect, it } from 'vitest';
import { correctClock, sampleAt } from './clock-correction';
import { panGains } from '../master/gains';

describe('clock correction', () => {
	it.each([100, 1_000, 10_000, 18_000])('keeps a tone of %i Hz to 16 bits between the samples', (hz) => {
		const sound = Float32Array.from({ length: 4800 }, (_, i) => Math.sin((2 * Math.PI * hz * i) / 48000));
		let worst = 0;
		for (let i = 100; i < 4700; i++) {
			const position = 100 + (i - 100) * 1.000062 * 0.99;
			worst = Math.max(
				worst,
				Math.abs(sampleAt(sound, 1, 0, position) - Math.sin((2 * Math.PI * hz * position) / 48000))
			);
		}
		expect(20 * Math.log10(worst)).toBeLessThan(-88);
	});

	it('reads one channel of several, and silence outside', () => {
		const sound = Float32Array.from({ length: 400 }, (_, i) => (i % 4 === 2 ? 1 : 0));
		expect(sampleAt(sound, 4, 2, 50)).toBeCloseTo(1, 6);
		expect(sampleAt(sound, 4, 1, 50)).toBe(0);
		expect(sampleAt(sound, 4, 2, -40)).toBe(0);
	});

	it.each([5_000, 10_000, 18_000])('brings a whole row onto another clock as exactly, at %i Hz', (hz) => {
		const sound = Float32Array.from({ length: 4800 }, (_, i) => Math.sin((2 * Math.PI * hz * i) / 48000));
		const row = new Float32Array(4500);
		correctClock(sound, [row], 100.37, 1 / 1.000062, 0, row.length);
		let worst = 0;
		for (const [i, value] of row.entries()) {
			const position = 100.37 + i / 1.000062;
			worst = Math.max(worst, Math.abs(value - Math.sin((2 * Math.PI * hz * position) / 48000)));
		}
		expect(20 * Math.log10(worst)).toBeLessThan(-88);
	});

	it('copies whole samples bit by bit, channel by channel, and is silent outside', () => {
		const sound = Float32Array.from({ length: 300 }, (_, i) => Math.fround(Math.sin(i)));
		const rows = [0, 1, 2].map(() => new Float32Array(110));
		correctClock(sound, rows, -5, 1, 0, 110);
		for (const [channel, row] of rows.entries())
			for (const [i, value] of row.entries()) expect(value).toBe(i < 5 || i >= 105 ? 0 : sound[(i - 5) * 3 + channel]);
	});

	it('plays the middle on both sides', () => {
		expect(panGains(0)).toEqual([1, 1]);
		expect(panGains(-1)).toEqual([1, 0]);
		expect(panGains(1)).toEqual([0, 1]);
	});
});
