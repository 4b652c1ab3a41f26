import {
	MIN_DEVIATION,
	MIN_SLOPE_WINDOWS,
	RIVAL_APART,
	SLOPE_AGREEMENT_SECONDS,
	SLOPE_RIVAL_SHARE
} from '../../limits/match';
/** How fast two clocks part, from windows of sound that came from several places. */
export interface ClockSlope {
	/** Seconds a second. */
	readonly slope: number;
	/** One standard deviation of it. */
	readonly deviation: number;
	/** Windows that agree with at least two others. */
	readonly agreeing: number;
}

/** Half the width of the kernel that collects votes, in standard deviations. */
const KERNEL_REACH = 2.5;

/**
 * Who speaks decides how long the sound is on its way: lags lie on several parallel lines, a few milliseconds apart,
 * one a talker. A line through all of them leans as the talk wanders over the stage. So no line is fitted: each two
 * windows vote for the slope between them; votes of the same talker fall together, all others spread out.
 *
 * @param times of the windows, in seconds @param lags found there, in seconds, less what is expected
 * @param reach greatest slope that is looked for, to both sides of 0
 * @returns nothing when there are too few windows, or too few of them agree
 */
export function clockSlope(times: readonly number[], lags: readonly number[], reach: number): ClockSlope | undefined {
	if (times.length < MIN_SLOPE_WINDOWS) return undefined;
	const length = Math.max(...times) - Math.min(...times);
	if (!(length > 0)) return undefined;
	const step = SLOPE_AGREEMENT_SECONDS / length / 2;
	const votes = collectVotes(times, lags, reach, step);
	let highest = 0;
	for (let bin = 1; bin < votes.length; bin++) if (votes[bin]! > votes[highest]!) highest = bin;
	if (hasRival(votes, highest, step, length)) return undefined;
	return refined(times, lags, highest * step - reach);
}

/** Whether another slope, well apart, has nearly as many votes: then neither is to be believed. */
function hasRival(votes: Float64Array, highest: number, step: number, length: number): boolean {
	const apart = Math.ceil((RIVAL_APART * SLOPE_AGREEMENT_SECONDS) / length / step);
	for (let bin = 0; bin < votes.length; bin++) {
		if (Math.abs(bin - highest) > apart && votes[bin]! > SLOPE_RIVAL_SHARE * votes[highest]!) return true;
	}
	return false;
}

function collectVotes(times: readonly number[], lags: readonly number[], reach: number, step: number): Float64Array {
	const bins = 2 * Math.ceil(reach / step) + 1;
	const votes = new Float64Array(bins);
	for (let i = 0; i < times.length; i++) {
		for (let j = 0; j < i; j++) {
			const apart = Math.abs(times[i]! - times[j]!);
			if (apart === 0) continue;
			const slope = (lags[i]! - lags[j]!) / (times[i]! - times[j]!);
			const width = (SLOPE_AGREEMENT_SECONDS * Math.SQRT2) / apart;
			const from = Math.max(0, Math.ceil((slope - KERNEL_REACH * width + reach) / step));
			const to = Math.min(bins - 1, Math.floor((slope + KERNEL_REACH * width + reach) / step));
			// Windows far apart say more about the slope than neighbours do.
			for (let bin = from; bin <= to; bin++) {
				const off = (bin * step - reach - slope) / width;
				votes[bin] = votes[bin]! + apart * Math.exp(-0.5 * off * off);
			}
		}
	}
	return votes;
}

function refined(times: readonly number[], lags: readonly number[], begin: number): ClockSlope | undefined {
	let slope = begin;
	let agreeing = 0;
	let spread = SLOPE_AGREEMENT_SECONDS;
	let meanSquareTime = 0;
	for (let round = 0; round < 4; round++) {
		const partners = new Uint16Array(times.length);
		let [products, squares, residuals, count] = [0, 0, 0, 0];
		for (let i = 0; i < times.length; i++) {
			for (let j = 0; j < i; j++) {
				const apart = times[i]! - times[j]!;
				const between = lags[i]! - lags[j]!;
				const off = between - slope * apart;
				if (Math.abs(off) > KERNEL_REACH * SLOPE_AGREEMENT_SECONDS) continue;
				products += apart * between;
				squares += apart * apart;
				residuals += off * off;
				count++;
				partners[i] = partners[i]! + 1;
				partners[j] = partners[j]! + 1;
			}
		}
		if (squares === 0) return undefined;
		slope = products / squares;
		agreeing = partners.reduce((sum, one) => sum + (one >= 2 ? 1 : 0), 0);
		spread = Math.sqrt(residuals / count / 2);
		meanSquareTime = squares / count / 2;
	}
	if (agreeing < MIN_SLOPE_WINDOWS || agreeing < times.length / 4) return undefined;
	// Textbook deviation of a slope; talkers share it out among several lines, hence half of the windows.
	const deviation = Math.max(0.05e-3, spread) / Math.sqrt(meanSquareTime * (agreeing / 2));
	return { slope, deviation: Math.max(MIN_DEVIATION, deviation), agreeing };
}
