import type { Rational } from './rational';

/**
 * Stored and passed times are whole flicks: 1/705 600 000 s, an open unit in which every film, television and NTSC
 * frame and every sample at 44.1, 48, 96 and 192 kHz is a whole number. 2^53 of them are 147 days.
 */
export const FLICKS_PER_SECOND = 705_600_000;

export function secondsToFlicks(seconds: number): number {
	return Math.round(seconds * FLICKS_PER_SECOND);
}

export function flicksToSeconds(flicks: number): number {
	return flicks / FLICKS_PER_SECOND;
}

/** Length of a frame or sample at a rate; whole for the rates named above. */
export function flicksPerFrame(rate: Rational): number {
	return (FLICKS_PER_SECOND * rate.den) / rate.num;
}

/** Start of a video frame of the line-up: index * den / num, never a running sum. */
export function videoFrameToFlicks(index: number, rate: Rational): number {
	return Math.round((index * FLICKS_PER_SECOND * rate.den) / rate.num);
}

/** The video frame that shows at a time: the last one that has begun. Half a flick of rounding is forgiven. */
export function flicksToVideoFrame(flicks: number, rate: Rational): number {
	return Math.floor(((flicks + 0.5) * rate.num) / (FLICKS_PER_SECOND * rate.den));
}

export function samplesToFlicks(samples: number, sampleRate: number): number {
	return Math.round((samples * FLICKS_PER_SECOND) / sampleRate);
}
