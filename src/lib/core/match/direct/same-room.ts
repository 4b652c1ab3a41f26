import { MIN_ROOM_LIKENESS, ROOM_RIVAL_SHARE } from '../../limits/match';
import { topOfPeak } from '../../fitting/top-of-peak';
import { STACK_STEP_SECONDS } from './section-stacks';

/** A shape laid over those of the same two places: how much later it comes, and how like them it is (1: the same). */
export interface LaidShape {
	readonly index: number;
	readonly lateSeconds: number;
	readonly likeness: number;
	/** How like them it would be elsewhere. */
	readonly runnerUp: number;
}

/** Shapes that show one room from one place, each laid over the others, and their sum. */
export interface SameRoom {
	readonly members: readonly LaidShape[];
	readonly shape: Float32Array;
}

/** Expected places are off by no more. */
const MOST_SECONDS = 0.038;
const MOST_STEPS = Math.round(MOST_SECONDS / STACK_STEP_SECONDS);
const COARSE = 4;
const ROUNDS = 2;
/** Nearer places are the same. */
const OWN_FOOT_STEPS = Math.round(0.5e-3 / STACK_STEP_SECONDS);

/**
 * Two devices that stay where they are hear each other's room the same in every clip: direct sound and echoes make one
 * pattern, which may come earlier or later as a whole. Laid over each other the patterns tell how the clips lie to a
 * fraction of a sample, and their sum shows the direct sound where none of them does.
 * @param shapes of one pair of devices @param weights how much each counts
 * @returns rooms of two shapes and more; what fits no other is in none
 */
export function sameRooms(shapes: readonly Float32Array[], weights: readonly number[]): readonly SameRoom[] {
	const rooms: SameRoom[] = [];
	let left = shapes.map((_, index) => index).sort((x, y) => weights[y]! - weights[x]! || x - y);
	while (left.length > 1) {
		const [first] = left;
		let shape = scaled(shapes[first!]!);
		let members: readonly LaidShape[] = [{ index: first!, lateSeconds: 0, likeness: 1, runnerUp: 0 }];
		for (let round = 0; round < ROUNDS; round++) {
			members = left
				.map((index) => ({ index, ...layOver(shapes[index]!, shape) }))
				.filter(({ likeness, runnerUp }) => likeness >= MIN_ROOM_LIKENESS && runnerUp <= ROOM_RIVAL_SHARE * likeness);
			// A shape that repeats within itself knows no place, not even on itself.
			if (members.length === 0) break;
			shape = meanOf(
				members.map(({ index, lateSeconds }) => ({
					values: scaled(shapes[index]!),
					weight: weights[index]!,
					shift: Math.round(lateSeconds / STACK_STEP_SECONDS)
				}))
			);
		}
		if (members.length > 1) rooms.push({ members, shape });
		const taken = new Set([first, ...members.map(({ index }) => index)]);
		left = left.filter((index) => !taken.has(index));
	}
	return rooms;
}

/** Where one shape fits another best: how much later it comes, to parts of a step. */
function layOver(own: Float32Array, onto: Float32Array): Omit<LaidShape, 'index'> {
	let best = { shift: 0, likeness: -1 };
	const coarse = new Float64Array(2 * Math.ceil(MOST_STEPS / COARSE) + 2);
	const consider = (shift: number, stride: number) => {
		const likeness = likenessAt(own, onto, shift, stride);
		if (likeness > best.likeness) best = { shift, likeness };
		return likeness;
	};
	for (let shift = -MOST_STEPS, k = 0; shift <= MOST_STEPS; shift += COARSE, k++) coarse[k] = consider(shift, COARSE);
	const around = best.shift;
	let runnerUp = 0;
	for (let shift = -MOST_STEPS, k = 0; shift <= MOST_STEPS; shift += COARSE, k++)
		if (Math.abs(shift - around) > OWN_FOOT_STEPS) runnerUp = Math.max(runnerUp, coarse[k]!);
	best = { shift: around, likeness: -1 };
	for (let shift = around - COARSE; shift <= around + COARSE; shift++) consider(shift, 1);
	const [before, after] = [best.shift - 1, best.shift + 1].map((shift) => likenessAt(own, onto, shift, 1)) as [
		number,
		number
	];
	const part = topOfPeak(before, best.likeness, after);
	return { lateSeconds: (best.shift + part) * STACK_STEP_SECONDS, likeness: best.likeness, runnerUp };
}

/** Correlation coefficient of one shape, read later by so many steps, and another. */
function likenessAt(own: Float32Array, onto: Float32Array, shift: number, stride: number): number {
	let [xy, xx, yy] = [0, 0, 0];
	const to = Math.min(onto.length, own.length - shift);
	for (let i = Math.max(0, -shift); i < to; i += stride) {
		const [x, y] = [own[i + shift]!, onto[i]!];
		xy += x * y;
		xx += x * x;
		yy += y * y;
	}
	return xx > 0 && yy > 0 ? xy / Math.sqrt(xx * yy) : 0;
}

/** Brought to one loudness. */
function scaled(values: Float32Array): Float32Array {
	const size = Math.sqrt(values.reduce((sum, value) => sum + value * value, 0));
	return size > 0 ? values.map((value) => value / size) : values;
}

/** Mean of shapes, each read so many steps later; of those that reach so far. */
function meanOf(
	laid: readonly { readonly values: Float32Array; readonly weight: number; readonly shift: number }[]
): Float32Array {
	const out = new Float32Array(laid[0]!.values.length);
	const weights = new Float32Array(out.length);
	for (const { values, weight, shift } of laid) {
		const to = Math.min(out.length, values.length - shift);
		for (let i = Math.max(0, -shift); i < to; i++) {
			out[i] = out[i]! + weight * values[i + shift]!;
			weights[i] = weights[i]! + weight;
		}
	}
	return out.map((sum, i) => (weights[i]! > 0 ? sum / weights[i]! : 0));
}
