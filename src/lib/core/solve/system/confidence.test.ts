import { KNOWN_BOND } from '../../limits/solve';
import { describe, expect, it } from 'vitest';
import { confidences } from './confidence';

const bond = (a: string, b: string, chance: number) => ({ a, b, certainty: -Math.log(chance) });

describe('confidence', () => {
	it('of a clip on one bond is that bond’s', () => {
		const sure = confidences(['root', 'clip'], [bond('root', 'clip', 0.05)], 'root');
		expect(sure.get('clip')).toBeCloseTo(0.95, 3);
		expect(sure.get('root')).toBeCloseTo(0.95, 3);
	});

	it('grows with independent bonds, for all would have to be wrong', () => {
		const sure = confidences(
			['root', 'clip', 'other'],
			[bond('root', 'clip', 0.1), bond('root', 'other', 0.001), bond('other', 'clip', 0.2)],
			'root'
		);
		expect(sure.get('clip')).toBeCloseTo(0.98, 3);
		expect(sure.get('other')).toBe(0.999);
	});

	it('is no better for clips that only hold each other', () => {
		const sure = confidences(['root', 'one', 'other'], [bond('root', 'one', 0.1), bond('one', 'other', 1e-6)], 'root');
		expect(sure.get('one')).toBeCloseTo(0.9, 3);
		expect(sure.get('other')).toBeCloseTo(0.9, 3);
	});

	it('goes through what is known, and back along what was used', () => {
		const known = { a: 'root', b: 'part', certainty: KNOWN_BOND };
		const sure = confidences(
			['root', 'part', 'x', 'y', 'clip'],
			[
				known,
				bond('part', 'x', 0.1),
				bond('root', 'y', 0.1),
				bond('x', 'y', 0.1),
				bond('x', 'clip', 0.1),
				bond('y', 'clip', 0.1)
			],
			'root'
		);
		expect(sure.get('part')).toBe(0.999);
		expect(sure.get('clip')).toBeCloseTo(0.99, 3);
	});
});
