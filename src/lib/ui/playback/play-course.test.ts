import { describe, expect, it } from 'vitest';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import { playCourse } from './play-course';

const S = FLICKS_PER_SECOND;
const RATE = 48_000;

describe('the course of playing', () => {
	it('goes straight on without a loop, to the sample after two hours', () => {
		const course = playCourse(3 * S, undefined);
		expect(course.at(7200 * RATE)).toBe(7203 * S);
		expect(course.untilJump(5)).toBe(Infinity);
	});

	it('goes round in whole samples, from any point before the end', () => {
		const course = playCourse(9 * S, { inFlicks: 10 * S, outFlicks: 12 * S });
		expect(course.at(0)).toBe(9 * S);
		expect(course.untilJump(0)).toBe(3 * RATE);
		expect(course.at(3 * RATE - 1)).toBe(12 * S - S / RATE);
		expect(course.at(3 * RATE)).toBe(10 * S);
		// The thousandth time round there is no error yet.
		expect(course.at(3 * RATE + 2000 * RATE + 7)).toBe(10 * S + (7 * S) / RATE);
		expect(course.untilJump(3 * RATE + 2000 * RATE + 7)).toBe(2 * RATE - 7);
	});

	it('takes a loop that is no whole number of samples for the nearest one', () => {
		const course = playCourse(0, { inFlicks: 0, outFlicks: 0.4 * (S / RATE) });
		expect(course.untilJump(0)).toBe(1);
	});

	it('leaves a loop that lies behind alone', () => {
		expect(playCourse(20 * S, { inFlicks: 10 * S, outFlicks: 12 * S }).at(RATE)).toBe(21 * S);
	});
});
