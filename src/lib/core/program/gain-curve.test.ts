import { describe, expect, it } from 'vitest';
import { FLICKS_PER_SECOND } from '../time/flicks';
import { curveThrough, factorAt, readCurve } from './gain-curve';

const RAMPS = { aheadSeconds: 0.05, upSeconds: 0.03, downSeconds: 0.2 };
const at = (seconds: number) => seconds * FLICKS_PER_SECOND;
const steps = (...pairs: (readonly [number, number])[]) =>
	pairs.map(([seconds, levelDb]) => ({ atFlicks: at(seconds), levelDb }));

describe('a curve through levels', () => {
	const curve = curveThrough(steps([0, -20], [10, 0], [20, -20]), RAMPS);

	it.each([
		[0, 0.1],
		[9.949, 0.1],
		[9.965, 0.55],
		[9.98, 1],
		[20, 1],
		[20.1, 0.55],
		[20.21, 0.1],
		[99, 0.1]
	])('at %f s stands at %f', (seconds, factor) => {
		expect(factorAt(curve, at(seconds))).toBeCloseTo(factor, 6);
	});

	it('goes up again from where it is when it was still going down', () => {
		const cut = curveThrough(steps([0, 0], [10, -20], [10.15, 0]), RAMPS);
		expect(factorAt(cut, at(10.1))).toBeCloseTo(0.55, 6);
		expect(factorAt(cut, at(10.13))).toBeCloseTo(1, 6);
		expect(cut.atFlicks).toEqual([...cut.atFlicks].sort((a, b) => a - b));
	});

	it('is read from front to back, and after a jump, as anywhere', () => {
		const read = readCurve(curve);
		for (const seconds of [-1, 5, 9.96, 9.97, 15, 20.05, 30, 9.96, 0])
			expect(read(at(seconds))).toBe(factorAt(curve, at(seconds)));
	});

	it('of nothing stands still', () => {
		expect(factorAt(curveThrough([], RAMPS), at(3))).toBe(1);
	});
});
