import { describe, expect, it } from 'vitest';
import { Thinning } from './thinning';

/** A machine that shows so many pictures in time; looked at ten times a second. */
function play(thinning: Thinning, fromSeconds: number, seconds: number, wanted: number, able: number): number[] {
	const every: number[] = [];
	for (let tick = 0; tick < 10 * seconds; tick++) {
		const due = wanted / thinning.every / 10;
		const exact = Math.min(due, able / 10);
		thinning.note({ exact, late: due - exact }, 1000 * fromSeconds + 100 * tick);
		if (tick % 10 === 9) every.push(thinning.every);
	}
	return every;
}

describe('leaving pictures out', () => {
	it('does nothing on a machine that keeps up', () => {
		expect(new Set(play(new Thinning(), 0, 30, 400, 1000))).toEqual(new Set([1]));
	});

	it('leaves out as many as needed, within seconds, and never more than four of five', () => {
		expect(play(new Thinning(), 0, 5, 400, 210).at(-1)).toBe(2);
		expect(play(new Thinning(), 0, 8, 400, 20).at(-1)).toBe(5);
	});

	it('goes back slowly once the machine is free', () => {
		const thinning = new Thinning();
		play(thinning, 0, 7, 400, 110);
		expect(thinning.every).toBe(4);
		const every = play(thinning, 7, 40, 400, 1000);
		expect(every.slice(0, 2)).toEqual([4, 4]);
		expect(every.at(-1)).toBe(1);
	});

	it('tries more ever more seldom where it fails', () => {
		const every = play(new Thinning(), 0, 120, 400, 210);
		const tries = every.filter((one, index) => one === 1 && every[index - 1] === 2).length;
		expect(tries).toBeGreaterThan(1);
		expect(tries).toBeLessThan(8);
		expect(every.filter((one) => one === 2).length).toBeGreaterThan(100);
	});

	it('a pause says nothing', () => {
		const thinning = new Thinning();
		play(thinning, 0, 5, 400, 210);
		play(thinning, 100, 2, 400, 210);
		expect(thinning.every).toBe(2);
	});
});
