import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../../demo/random';
import { bentCourse } from './bent-course';
import { coherentLine } from './coherent-line';
import { type SectionStack, STACK_STEP_SECONDS } from './section-stacks';

const LENGTH = 2881;
const SECONDS = 7200;
const COUNT = 24;

/** Two talkers' patterns of direct sound and echoes; who speaks changes from section to section. */
function patterns(seed: number): readonly ((step: number) => number)[] {
	const random = seededRandom(seed);
	return [0, 1].map((talker) => {
		const arrivals = Array.from({ length: 10 }, (_, k) => ({
			at: k === 0 ? 1300 + 40 * talker : 1320 + 500 * random(),
			height: k === 0 ? 2 : random() < 0.3 ? -1 : 1
		}));
		return (step: number) =>
			arrivals.reduce((sum, { at, height }) => sum + height * Math.exp(-(((step - at) / 3) ** 2)), 0);
	});
}

function sectionsOf(lateAt: (aSeconds: number) => number, seed: number): readonly SectionStack[] {
	const talkers = patterns(seed);
	const random = seededRandom(seed + 50);
	return Array.from({ length: COUNT }, (_, k) => {
		const aSeconds = 60 + (k * (SECONDS - 120)) / (COUNT - 1);
		const late = lateAt(aSeconds) / STACK_STEP_SECONDS;
		const shares = [random(), random()];
		const values = Float32Array.from({ length: LENGTH }, (_, i) =>
			talkers.reduce((sum, read, talker) => sum + shares[talker]! * read(i - late), 0.3 * (random() + random() - 1))
		);
		return { aSeconds, values };
	});
}

describe('a clock that bends', () => {
	/** One swing of 10 ppm to both sides in two hours, as in the simulator. */
	const swing = (aSeconds: number) =>
		((10e-6 * SECONDS) / (2 * Math.PI)) * (1 - Math.cos((2 * Math.PI * aSeconds) / SECONDS));

	it('is followed to half a millisecond, though talkers change, at any mean rate', () => {
		for (const [seed, rate] of [
			[1, 0],
			[2, 3e-6],
			[3, -7e-6]
		] as const) {
			const sections = sectionsOf((at) => swing(at) + rate * (at - SECONDS / 2), seed);
			const line = coherentLine(sections, 40e-6);
			const bent = bentCourse(sections, line)!;
			const found = bent.bend.map(
				({ aSeconds, lateSeconds }) =>
					lateSeconds + bent.slope * (aSeconds - line.middleSeconds) - rate * (aSeconds - SECONDS / 2)
			);
			const off = found.map((late, k) => late - swing(sections[k]!.aSeconds));
			const mean = off.reduce((sum, one) => sum + one, 0) / off.length;
			expect(Math.max(...off.map((one) => Math.abs(one - mean)))).toBeLessThan(0.5e-3);
			expect(bent.bend.reduce((sum, { lateSeconds }) => sum + lateSeconds, 0)).toBeCloseTo(0, 9);
		}
	});

	it('is not seen where a line will do, nor in noise, nor in short overlaps', () => {
		const straight = sectionsOf((at) => 5e-6 * (at - SECONDS / 2), 4);
		expect(bentCourse(straight, coherentLine(straight, 40e-6))).toBeUndefined();
		const random = seededRandom(9);
		const noise = straight.map((one) => ({ ...one, values: one.values.map(() => random() + random() - 1) }));
		expect(bentCourse(noise, coherentLine(noise, 40e-6))).toBeUndefined();
		const short = sectionsOf(swing, 5).map((one) => ({ ...one, aSeconds: one.aSeconds / 10 }));
		expect(bentCourse(short, coherentLine(short, 40e-6))).toBeUndefined();
	});
});
