import { FLICKS_PER_SECOND } from '../time/flicks';
import { decibelsToFactor } from '../master/gains';

/** A factor over time: straight lines between moments, level before the first and after the last. At least one moment. */
export interface GainCurve {
	readonly atFlicks: readonly number[];
	readonly factors: readonly number[];
}

/** From a moment on a level is wanted. */
export interface LevelStep {
	readonly atFlicks: number;
	readonly levelDb: number;
}

/** How levels are reached, in seconds. */
export interface Ramps {
	/** A rise begins so long before its moment. */
	readonly aheadSeconds: number;
	readonly upSeconds: number;
	/** A fall begins at its moment. */
	readonly downSeconds: number;
}

/**
 * A curve through levels. A ramp that is not over when the next one begins is cut off there.
 * @param steps in order of time; the first is where it begins
 */
export function curveThrough(steps: readonly LevelStep[], ramps: Ramps): GainCurve {
	const first = steps[0];
	const atFlicks: number[] = [first?.atFlicks ?? 0];
	const factors: number[] = [decibelsToFactor(first?.levelDb ?? 0)];
	for (const { atFlicks: moment, levelDb } of steps.slice(1)) {
		const wanted = decibelsToFactor(levelDb);
		const last = factors.at(-1)!;
		if (wanted === last) continue;
		const rises = wanted > last;
		const begins = rises ? moment - ramps.aheadSeconds * FLICKS_PER_SECOND : moment;
		const lasts = (rises ? ramps.upSeconds : ramps.downSeconds) * FLICKS_PER_SECOND;
		const factor = cutOff(atFlicks, factors, begins);
		const from = Math.max(begins, atFlicks.at(-1)!);
		if (from > atFlicks.at(-1)! || factor !== factors.at(-1)!) {
			atFlicks.push(from);
			factors.push(factor);
		}
		atFlicks.push(from + lasts);
		factors.push(wanted);
	}
	return { atFlicks, factors };
}

/** Takes away what a curve does from a moment on. @returns its factor there */
function cutOff(atFlicks: number[], factors: number[], moment: number): number {
	const factor = factorAt({ atFlicks, factors }, moment);
	while (atFlicks.length > 1 && atFlicks.at(-1)! > moment) {
		atFlicks.pop();
		factors.pop();
	}
	return factor;
}

export function factorAt(curve: GainCurve, flicks: number): number {
	return factorBetween(curve, firstAfter(curve.atFlicks, flicks), flicks);
}

/** Reads a curve from front to back: the next moment is found where the last one was. */
export function readCurve(curve: GainCurve): (flicks: number) => number {
	const { atFlicks } = curve;
	let next = -1;
	return (flicks) => {
		if (next < 0 || (next > 0 && atFlicks[next - 1]! > flicks)) next = firstAfter(atFlicks, flicks);
		while (next < atFlicks.length && atFlicks[next]! <= flicks) next++;
		return factorBetween(curve, next, flicks);
	};
}

function factorBetween({ atFlicks, factors }: GainCurve, next: number, flicks: number): number {
	if (next === 0) return factors[0]!;
	if (next === atFlicks.length) return factors[next - 1]!;
	const [from, to] = [atFlicks[next - 1]!, atFlicks[next]!];
	const share = (flicks - from) / (to - from);
	return factors[next - 1]! + share * (factors[next]! - factors[next - 1]!);
}

function firstAfter(atFlicks: readonly number[], flicks: number): number {
	let [low, high] = [0, atFlicks.length];
	while (low < high) {
		const middle = (low + high) >> 1;
		if (atFlicks[middle]! <= flicks) low = middle + 1;
		else high = middle;
	}
	return low;
}
