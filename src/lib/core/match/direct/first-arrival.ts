import {
	ARRIVAL_FLOOR_HEIGHT,
	ARRIVAL_SHARE,
	ARRIVAL_SHARE_DRY,
	ARRIVAL_SHARE_NEAR,
	DRY_RATIO,
	LIKELY_ARRIVAL_HEIGHT,
	LIKELY_DRY_RATIO,
	SURE_ARRIVAL_HEIGHT,
	SURE_ARRIVAL_SHARE,
	SURE_DRY_RATIO
} from '../../limits/match';
import { median } from '../../fitting/median';
import { topOfPeak } from '../../fitting/top-of-peak';
import { STACK_STEP_SECONDS } from './section-stacks';

/** Where the direct sound stands in a shape of two sounds' correlation. */
export interface FirstArrival {
	/** How much later than the shape's middle, in seconds. */
	readonly lateSeconds: number;
	/** Whether one of the two has the other polarity. */
	readonly isInverted: boolean;
	/** Height over what the quiet side gives. */
	readonly height: number;
	/** Highest of all over what the quiet side gives. */
	readonly highest: number;
	/** How much louder the side of the echoes is. */
	readonly ratio: number;
	/** Whether b hears the echoes: the quiet side comes before the direct sound. */
	readonly isBLive: boolean;
}

/** Whether a first arrival is the direct sound beyond doubt, no echo that stands higher. */
export function isDirect({ highest, height, ratio }: FirstArrival): boolean {
	return highest >= SURE_ARRIVAL_HEIGHT && (height >= SURE_ARRIVAL_SHARE * highest || ratio >= SURE_DRY_RATIO);
}

/** Whether it is the direct sound more likely than not. */
export function isLikelyDirect({ highest, ratio }: FirstArrival): boolean {
	return highest >= LIKELY_ARRIVAL_HEIGHT && ratio >= LIKELY_DRY_RATIO;
}

const steps = (seconds: number) => Math.round(seconds / STACK_STEP_SECONDS);
/** Values of so long a time are one in the search for the change. */
const BIN = steps(0.5e-3);
const LEAST_SIDE = steps(8e-3);
const BEFORE_CHANGE = steps(4e-3);
const AFTER_FIRST = steps(0.6e-3);
/** So near the highest a tone leaves peaks to both sides. */
const NEAR = steps(3e-3);

/**
 * Against a dry sound the whitened correlation is what the room makes of a click: nothing, then the direct sound, then
 * echoes. The side that is quiet tells which of the two is dry, and the first arrival after it is the direct sound, though
 * echoes that fall together stand higher.
 */
export function firstArrival(shape: Float32Array): FirstArrival {
	const change = changeOf(shape);
	const isBLive = change.before < change.after;
	// As if the quiet side came first.
	const values = isBLive ? shape : shape.toReversed();
	const at = isBLive ? change.at : shape.length - 1 - change.at;
	const quiet = values.subarray(0, Math.max(LEAST_SIDE, at - BEFORE_CHANGE));
	const floor = Math.max(1e-9, median(quiet.map(Math.abs)));
	let top = 0;
	for (let i = 0; i < values.length; i++) if (Math.abs(values[i]!) > Math.abs(values[top]!)) top = i;
	const highest = Math.abs(values[top]!);
	const ratio = median(values.subarray(at + BEFORE_CHANGE).map(Math.abs)) / floor;
	const enoughAt = (i: number) => Math.max(ARRIVAL_FLOOR_HEIGHT * floor, highest * shareFor(ratio, top - i));
	let first = 0;
	while (first < top && Math.abs(values[first]!) < enoughAt(first)) first++;
	let best = first;
	for (let i = first; i <= Math.min(values.length - 1, first + AFTER_FIRST); i++)
		if (Math.abs(values[i]!) > Math.abs(values[best]!)) best = i;
	const height = (i: number) => (values[i] === undefined ? undefined : Math.abs(values[i]));
	const place = best + topOfPeak(height(best - 1), height(best)!, height(best + 1)) - (values.length - 1) / 2;
	return {
		lateSeconds: (isBLive ? place : -place) * STACK_STEP_SECONDS,
		isInverted: values[best]! < 0,
		height: Math.abs(values[best]!) / floor,
		highest: highest / floor,
		ratio,
		isBLive
	};
}

/** Share of the highest that an arrival needs that comes so many steps before it. */
function shareFor(ratio: number, stepsBefore: number): number {
	if (ratio < DRY_RATIO) return ARRIVAL_SHARE;
	return stepsBefore < NEAR ? ARRIVAL_SHARE_NEAR : ARRIVAL_SHARE_DRY;
}

/** Where a shape goes from quiet to loud, or back: the split that leaves the two sides' sizes most alike within themselves. */
function changeOf(shape: Float32Array): { readonly at: number; readonly before: number; readonly after: number } {
	const bins = Array.from({ length: Math.floor(shape.length / BIN) }, (_, bin) => {
		let sum = 0;
		for (let i = bin * BIN; i < (bin + 1) * BIN; i++) sum += Math.abs(shape[i]!);
		return Math.log(sum / BIN + 1e-9);
	});
	const total = bins.reduce((sum, value) => sum + value, 0);
	const least = Math.ceil(LEAST_SIDE / BIN);
	let [gain, left] = [-1, 0];
	let result = { at: 0, before: 0, after: 0 };
	for (const [bin, value] of bins.entries()) {
		if (bin >= least && bin <= bins.length - least) {
			const [before, after] = [left / bin, (total - left) / (bins.length - bin)];
			const own = bin * (bins.length - bin) * (before - after) ** 2;
			if (own > gain) {
				gain = own;
				result = { at: bin * BIN, before, after };
			}
		}
		left += value;
	}
	return result;
}
