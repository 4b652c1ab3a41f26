import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../../demo/random';
import { coherentLine } from './coherent-line';
import { type SectionStack, STACK_STEP_SECONDS } from './section-stacks';
import { sameRooms } from './same-room';

const LENGTH = 2881;

/** A pattern of ten arrivals, read anywhere between its steps. */
function pattern(seed: number): (step: number) => number {
	const random = seededRandom(seed);
	const arrivals = Array.from({ length: 10 }, () => ({ at: 500 + 1800 * random(), height: random() < 0.3 ? -1 : 1 }));
	return (step) => arrivals.reduce((sum, { at, height }) => sum + height * Math.exp(-(((step - at) / 4) ** 2)), 0);
}

function shapeOf(read: (step: number) => number, lateSeconds: number, noise: number, seed: number): Float32Array {
	const random = seededRandom(seed);
	return Float32Array.from(
		{ length: LENGTH },
		(_, i) => read(i - lateSeconds / STACK_STEP_SECONDS) + noise * (random() + random() - 1)
	);
}

describe('coherent line', () => {
	it('finds the drift that makes one pattern of all sections, to hundredths of ppm over an hour', () => {
		const read = pattern(1);
		for (const slope of [-13.3e-6, 0.4e-6, 7e-6]) {
			const sections: SectionStack[] = Array.from({ length: 24 }, (_, k) => ({
				aSeconds: 100 + k * 150,
				values: shapeOf(read, slope * (k - 11.5) * 150, 0.4, 10 + k)
			}));
			const line = coherentLine(sections, 30e-6);
			expect(Math.abs(line.slope - slope) * 1e6).toBeLessThan(0.02);
			expect(line.slopeDeviation! * 1e6).toBeLessThan(0.05);
			expect(line.middleSeconds).toBe(100 + 11.5 * 150);
			expect(line.likeness).toBeGreaterThan(0.5);
		}
	});

	it('tells no drift from noise', () => {
		const sections: SectionStack[] = Array.from({ length: 24 }, (_, k) => ({
			aSeconds: k * 150,
			values: shapeOf(() => 0, 0, 1, 50 + k)
		}));
		const line = coherentLine(sections, 30e-6);
		expect(line.slopeDeviation).toBeUndefined();
		expect(line.likeness).toBeLessThan(0.3);
	});
});

describe('same rooms', () => {
	it('lays shapes of one room over each other to a hundredth of a millisecond, and leaves others apart', () => {
		const [one, other] = [pattern(2), pattern(3)];
		const late = [0, 0.0042, -0.017, 0.0301];
		const shapes = [
			...late.map((seconds, k) => shapeOf(one, seconds, 0.2, 80 + k)),
			...[0.001, 0.006].map((seconds, k) => shapeOf(other, seconds, 0.2, 90 + k)),
			shapeOf(() => 0, 0, 1, 99)
		];
		const rooms = sameRooms(shapes, [9, 1, 1, 1, 2, 1, 1]);
		expect(rooms.map(({ members }) => members.map(({ index }) => index).sort())).toEqual([
			[0, 1, 2, 3],
			[4, 5]
		]);
		const lateOf = (index: number) => rooms[0]!.members.find((one) => one.index === index)!.lateSeconds;
		for (const [index, seconds] of late.entries())
			expect(Math.abs(lateOf(index) - lateOf(0) - seconds)).toBeLessThan(1.5e-5);
	});

	it('takes nothing for a room that repeats within itself, and comes to an end', () => {
		const tone = (seed: number) => shapeOf((step) => Math.sin((2 * Math.PI * step) / 40), 0, 0.1, seed);
		expect(sameRooms([tone(1), tone(2), tone(3)], [1, 1, 1])).toEqual([]);
		expect(sameRooms([new Float32Array(LENGTH), new Float32Array(LENGTH)], [1, 1])).toEqual([]);
	});
});
