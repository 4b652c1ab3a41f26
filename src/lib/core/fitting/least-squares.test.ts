import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import { type Equation, leastSquares, robustLeastSquares } from './least-squares';

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

	it('leaves no gradient, whatever hangs on what', () => {
		const random = seededRandom(6);
		const unknowns = 400;
		const equations: Equation[] = [{ terms: [[7, 1]], value: 3, weight: 1e6 }];
		for (let i = 0; i < unknowns; i++) {
			const [near, any] = [Math.max(0, i - 1 - Math.floor(9 * random())), Math.floor(unknowns * random())];
			// Most hang on a neighbour and on one of three that all know; some on anything.
			for (const other of i % 10 === 0 ? [near, i % 3, any] : [near, i % 3]) {
				if (other === i) continue;
				const terms = [[i, 1] as const, [other, -1] as const, [unknowns - 1 - (i % 5), 1e-3] as const];
				equations.push({ terms, value: 10 * random(), weight: 0.1 + random() });
			}
		}
		const x = leastSquares(unknowns, equations);
		const gradient = new Float64Array(unknowns);
		for (const { terms, value, weight } of equations) {
			const off = terms.reduce((sum, [unknown, p]) => sum + p * x[unknown]!, -value);
			for (const [unknown, p] of terms) gradient[unknown] = gradient[unknown]! + weight * p * off;
		}
		expect(Math.max(...gradient.map(Math.abs))).toBeLessThan(1e-6);
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
