import { describe, expect, it } from 'vitest';
import { leastSquares, robustLeastSquares } from './least-squares';

describe('least squares', () => {
	// A line through (0, 1), (1, 3), (2, 4), (3, 4): 1.5 + x by the textbook's normal equations.
	const points = [
		[0, 1],
		[1, 3],
		[2, 4],
		[3, 4]
	] as const;
	const line = points.map(([x, y]) => ({
		terms: [
			[0, 1],
			[1, x]
		] as const,
		value: y,
		weight: 1
	}));

	it('fits a line as by hand', () => {
		const [intercept, slope] = leastSquares(2, line);
		expect(intercept).toBeCloseTo(1.5, 12);
		expect(slope).toBeCloseTo(1, 12);
	});

	it('says so when an unknown stays open', () => {
		expect(() => leastSquares(2, [{ terms: [[0, 1]], value: 1, weight: 1 }])).toThrow('leave an unknown open');
	});

	it('lets a doubtful value go that all others contradict', () => {
		const values = [23, 24, 22, 25, 21, -189, 312];
		const equations = values.map((value) => ({ terms: [[0, 1]] as const, value, weight: 1 / 36, doubtful: true }));
		expect(robustLeastSquares(1, equations)[0]).toBeCloseTo(23, 0);
	});
});
