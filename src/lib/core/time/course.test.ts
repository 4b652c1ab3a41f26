import { expect, it } from 'vitest';
import { type Course, courseAt, courseFrom, isUsableBend, ownTimeAt, straightBetween } from './course';

const SECOND = 705_600_000;
const straight: Course = { startFlicks: 3 * SECOND, rateFactor: 1 + 40e-6 };
/** 10 ppm faster, then 10 ppm slower, as seconds and milliseconds. */
const bend = [
	[0, -4],
	[300, -1],
	[600, 0],
	[1200, -6]
].map(([seconds, milliseconds]) => ({ ownFlicks: seconds! * SECOND, laterFlicks: (milliseconds! * SECOND) / 1000 }));
const bent: Course = { ...straight, bend };

it('goes straight where nothing bends', () => {
	expect(courseAt(straight, 10 * SECOND)).toBe(13 * SECOND + 40e-6 * 10 * SECOND);
	expect(ownTimeAt(straight, courseAt(straight, 1234.5))).toBeCloseTo(1234.5, 3);
});

it('adds what a bend says: on a line between its moments, level beyond them', () => {
	const later = (seconds: number) => (courseAt(bent, seconds * SECOND) - courseAt(straight, seconds * SECOND)) / SECOND;
	expect(later(300)).toBeCloseTo(-1e-3, 9);
	expect(later(450)).toBeCloseTo(-0.5e-3, 9);
	expect([later(-50), later(5000)]).toEqual([expect.closeTo(-4e-3, 9), expect.closeTo(-6e-3, 9)]);
});

it('finds its own time again, to less than a flick', () => {
	for (const seconds of [-20, 0, 1, 299.99, 300, 450.123, 1199, 9000])
		expect(Math.abs(ownTimeAt(bent, courseAt(bent, seconds * SECOND)) - seconds * SECOND)).toBeLessThan(0.01);
});

it('is the same course for a file that begins within it', () => {
	const file = courseFrom(bent, 200 * SECOND);
	expect(courseAt(file, 250 * SECOND)).toBeCloseTo(courseAt(bent, 450 * SECOND), 3);
	expect(courseFrom(straight, SECOND)).toEqual({ startFlicks: 4 * SECOND + 40e-6 * SECOND, rateFactor: 1 + 40e-6 });
});

it('is straightened for a stretch, true at both of its ends', () => {
	const [from, to] = [courseAt(bent, 350 * SECOND), courseAt(bent, 800 * SECOND)];
	const line = straightBetween(bent, from, to);
	expect(line.bend).toBeUndefined();
	expect(ownTimeAt(line, from)).toBeCloseTo(350 * SECOND, 0);
	expect(ownTimeAt(line, to)).toBeCloseTo(800 * SECOND, 0);
	expect(straightBetween(straight, from, to)).toBe(straight);
});

it('refuses what no clock does', () => {
	expect(isUsableBend(bend)).toBe(true);
	expect(isUsableBend([...bend].reverse())).toBe(false);
	expect(isUsableBend([bend[0]!, bend[0]!])).toBe(false);
	expect(isUsableBend([bend[0]!, { ownFlicks: SECOND, laterFlicks: SECOND }])).toBe(false);
});
