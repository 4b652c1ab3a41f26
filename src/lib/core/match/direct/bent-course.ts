import { BEND_SHARPENS, BENDING_OVERLAP_SECONDS, LEAST_BEND_SECONDS } from '../../limits/match';
import { type Equation, leastSquares } from '../../fitting/least-squares';
import { robustPolynomial } from '../../fitting/robust-fit';
import { type CoherentLine, offAgainst, sharpness, sumOn } from './coherent-line';
import { type SectionStack, STACK_STEP_SECONDS } from './section-stacks';

/** A moment of a, and how much later than the line says the same comes in b. */
export interface BendMoment {
	readonly aSeconds: number;
	readonly lateSeconds: number;
	/** What was heard there alone; nothing where the curve only goes on. */
	readonly heardSeconds?: number;
}

/** The curve on which all sections' patterns fall into one, where no line does. */
export interface BentCourse {
	/** Mean slope, to be added to the expected one. */
	readonly slope: number;
	readonly shape: Float32Array;
	/** What it leaves of the line with that slope, section by section. */
	readonly bend: readonly BendMoment[];
}

const MIN_SECTIONS = 8;
/** One swing with the warmth of the day is more than a cubic can follow. */
const DEGREE = 5;
const LEAST_SPREAD_SECONDS = 0.1e-3;
const ROUNDS = 4;
/** From one section to the next. */
const FOLLOWED_STEPS = Math.round(4e-3 / STACK_STEP_SECONDS);
/** About the curve: first wide, for some were lost on the way. The sum of all is like no other place. */
const WIDE_STEPS = Math.round(15e-3 / STACK_STEP_SECONDS);
const NEAR_STEPS = Math.round(1.5e-3 / STACK_STEP_SECONDS);
/** Share of what a curve must win that its first draft must show. */
const DRAFT_SHARE = 0.75;

/**
 * Clocks bend with the temperature. The sections are followed from the middle to both ends, each laid onto the sum of those
 * before it; then a smooth curve goes through them and each is laid onto the sum of all, again and again.
 * @returns nothing where the line will do: the curve must make the sum much sharper
 */
export function bentCourse(sections: readonly SectionStack[], line: CoherentLine): BentCourse | undefined {
	const times = sections.map(({ aSeconds }) => aSeconds);
	const half = (times.at(-1)! - times[0]!) / 2;
	if (sections.length < MIN_SECTIONS || 2 * half < BENDING_OVERLAP_SECONDS) return undefined;
	const centre = times[0]! + half;
	const onLine = (aSeconds: number) => line.slope * (aSeconds - line.middleSeconds);
	let lates = followed(sections, onLine);
	let curve = onLine;
	let shape = line.shape;
	for (let round = 0; round < ROUNDS; round++) {
		const { coefficients } = robustPolynomial(
			times.map((time) => (time - centre) / half),
			lates,
			DEGREE,
			LEAST_SPREAD_SECONDS
		);
		curve = (aSeconds) => coefficients.reduceRight((sum, c) => sum * ((aSeconds - centre) / half) + c, 0);
		const course = curve;
		shape = sumOn(sections, (aSeconds) => onLine(aSeconds) + course(aSeconds), 1);
		if (round === 0 && sharpness(shape) < DRAFT_SHARE * BEND_SHARPENS * sharpness(line.shape)) return undefined;
		const reach = round < ROUNDS - 1 ? WIDE_STEPS : NEAR_STEPS;
		lates = sections.map(({ values, aSeconds }) => {
			const late = onLine(aSeconds) + course(aSeconds);
			return course(aSeconds) + offAgainst(values, shape, late, reach);
		});
	}
	const straight = lineThrough(times, times.map(curve), line.middleSeconds);
	const bend = times.map((aSeconds, k) => ({
		aSeconds,
		lateSeconds: curve(aSeconds) - straight.at(aSeconds),
		heardSeconds: lates[k]! - straight.at(aSeconds)
	}));
	const most = Math.max(...bend.map(({ lateSeconds }) => Math.abs(lateSeconds)));
	if (most < LEAST_BEND_SECONDS || sharpness(shape) < BEND_SHARPENS * sharpness(line.shape)) return undefined;
	// About the line through the curve, as a line's own shape is: its middle is where that line says.
	const centred = sumOn(sections, (aSeconds) => onLine(aSeconds) + curve(aSeconds) - straight.middle, 1);
	return {
		slope: line.slope + straight.slope,
		shape: centred,
		bend
	};
}

/** How much later than a line each section comes, each laid onto those between it and the middle. */
function followed(sections: readonly SectionStack[], onLine: (aSeconds: number) => number): number[] {
	const lates = new Array<number>(sections.length).fill(0);
	const middle = sections.length >> 1;
	for (const direction of [1, -1]) {
		const sum = sections[middle]!.values.slice();
		for (let at = middle + direction, known = 1; sections[at]; at += direction, known++) {
			const { values, aSeconds } = sections[at]!;
			const before = lates[at - direction]!;
			// It goes on as it went.
			const expected = known > 1 ? 2 * before - lates[at - 2 * direction]! : before;
			const late = expected + offAgainst(values, sum, onLine(aSeconds) + expected, FOLLOWED_STEPS);
			lates[at] = late;
			const own = sumOn([sections[at]!], () => onLine(aSeconds) + late, 1);
			for (let i = 0; i < sum.length; i++) sum[i] = sum[i]! + own[i]!;
		}
	}
	return lates;
}

/** The best line through some points, about a middle. */
function lineThrough(xs: readonly number[], ys: readonly number[], middleSeconds: number) {
	const equations = xs.map((x, i): Equation => ({
		terms: [
			[0, 1],
			[1, x - middleSeconds]
		],
		value: ys[i]!,
		weight: 1
	}));
	const [middle, slope] = leastSquares(2, equations) as unknown as readonly [number, number];
	return { slope, middle, at: (x: number) => middle + slope * (x - middleSeconds) };
}
