import { describe, expect, it } from 'vitest';
import { LOW_CUT_RUN_UP_SECONDS, LowCut } from './low-cut';

const RATE = 48_000;

/** Level of a tone behind the cut against before it, in dB, once it has settled. */
function levelDb(cutHz: number, toneHz: number): number {
	const cut = new LowCut(cutHz, RATE);
	let [before, after] = [0, 0];
	for (let i = 0; i < 2 * RATE; i++) {
		const x = Math.sin((2 * Math.PI * toneHz * i) / RATE);
		const y = cut.next(x);
		if (i < RATE) continue;
		before += x * x;
		after += y * y;
	}
	return 10 * Math.log10(after / before);
}

describe('a low cut', () => {
	// Butterworth 1930, of second order: |H|² = 1 / (1 + (cut / f)⁴).
	it.each([20, 40, 80, 100, 160, 640])('of 80 Hz falls at %i Hz as a Butterworth filter of second order does', (hz) => {
		expect(levelDb(80, hz)).toBeCloseTo(-10 * Math.log10(1 + (80 / hz) ** 4), 1);
	});

	it('forgets what was before within its run-up', () => {
		const [early, late] = [new LowCut(20, RATE), new LowCut(20, RATE)];
		for (let i = 0; i < RATE; i++) early.next(1);
		for (let i = 0; i < LOW_CUT_RUN_UP_SECONDS * RATE; i++) {
			early.next(0);
			late.next(0);
		}
		expect(Math.abs(early.next(0) - late.next(0))).toBeLessThan(10 ** (-120 / 20));
	});

	it('refuses frequencies that are none', () => {
		for (const hz of [0, -1, 24_000, NaN]) expect(() => new LowCut(hz, RATE)).toThrow(RangeError);
	});
});
