import { median } from '../fitting/median';
import { frameOfTimecode, framesOfDay, timecodeOfFrame } from '../time/timecode';
import { type Rational, ratePerSecond } from '../time/rational';

/**
 * Linear timecode: a label a frame, as sound. Eighty bits a frame, biphase mark: the level changes at each bit's
 * beginning, and in the middle of a 1. Its polarity says nothing. Source: SMPTE ST 12-1 (from memory).
 */
export interface LinearTimecodeFrame {
	/** Where its first bit begins, in samples. */
	readonly atSample: number;
	readonly hours: number;
	readonly minutes: number;
	readonly seconds: number;
	readonly frames: number;
	readonly dropFrame: boolean;
}

/** What a stretch of linear timecode says as a whole. */
export interface LinearTimecode {
	readonly rate: Rational;
	readonly dropFrame: boolean;
	/** Frame count since 00:00:00:00 that sample 0 would have, with its fraction. */
	readonly frameAtZero: number;
	/** Frames a second as the recorder's own clock measured them. */
	readonly framesPerSecond: number;
	/** Share of the frames within the stretch's time that were read and agree. */
	readonly quality: number;
	/** When the first and the last frame that agrees begin, in seconds. */
	readonly fromSeconds: number;
	readonly toSeconds: number;
}

const BITS = 80;
/** Bits a second at 27 frames: between 24 and 30, a bit is told from half a bit up to 10% off in speed. */
const MIDDLE_BITS_PER_SECOND = 27 * BITS;
/** Bits 64 to 79, the last one lowest. */
const SYNC_WORD = 0b0011_1111_1111_1101;
/** How quickly the length of a bit follows the sound. */
const BIT_FOLLOWING = 0.05;
/** Speeds beyond these are no play. */
const MIN_BIT = 0.78;
const MAX_BIT = 1.3;
/** A crossing counts when the level has gone this share of its peak beyond the middle. */
const HYSTERESIS = 0.25;
/** Peaks are forgotten in this time, in bits. */
const PEAK_BITS = 20;
/** Rumble and a microphone's offset are taken away below this. */
const HIGH_PASS_HZ = 150;
/** Softer than this is silence: about -72 dB of full scale. */
const MIN_PEAK = 2.5e-4;

/** Reads all frames of a sound that is linear timecode. @param samples one channel, full scale ±1 */
export function readLinearTimecode(samples: Float32Array, sampleRate: number): readonly LinearTimecodeFrame[] {
	const crossings = crossingsOf(samples, sampleRate);
	const middle = sampleRate / MIDDLE_BITS_PER_SECOND;
	const frames: LinearTimecodeFrame[] = [];
	let bit = middle;
	// The newest 80 bits, and where each began.
	const values = new Uint8Array(BITS);
	const starts = new Float64Array(BITS);
	let count = 0;
	let sync = 0;
	let half: number | undefined;
	const take = (value: 0 | 1, start: number) => {
		values[count % BITS] = value;
		starts[count % BITS] = start;
		count++;
		sync = ((sync << 1) | value) & 0xffff;
		if (count >= BITS && sync === SYNC_WORD) {
			const frame = frameOf((index) => values[(count + index) % BITS]!, starts[count % BITS]!);
			if (frame) frames.push(frame);
		}
	};
	const loseTrack = () => {
		count = 0;
		sync = 0;
		half = undefined;
	};
	for (let i = 1; i < crossings.length; i++) {
		const [from, length] = [crossings[i - 1]!, crossings[i]! - crossings[i - 1]!];
		if (length < 0.25 * bit || length > 1.5 * bit) {
			loseTrack();
		} else if (length > 0.75 * bit) {
			// A whole bit after half of one: something was missed.
			if (half !== undefined) loseTrack();
			take(0, from);
			bit += BIT_FOLLOWING * (length - bit);
		} else if (half === undefined) {
			half = from;
		} else {
			bit += BIT_FOLLOWING * (crossings[i]! - half - bit);
			take(1, half);
			half = undefined;
		}
		bit = Math.max(MIN_BIT * middle, Math.min(MAX_BIT * middle, bit));
	}
	return frames;
}

/** Where the sound crosses its middle level, to a fraction of a sample. */
function crossingsOf(samples: Float32Array, sampleRate: number): readonly number[] {
	const crossings: number[] = [];
	const highPass = Math.exp((-2 * Math.PI * HIGH_PASS_HZ) / sampleRate);
	const decay = Math.exp(-MIDDLE_BITS_PER_SECOND / PEAK_BITS / sampleRate);
	// A mean over about an eighth of a bit: noise above the signal goes, edges stay.
	const width = Math.max(1, Math.round(sampleRate / MIDDLE_BITS_PER_SECOND / 8));
	let [raw, passed, peak, sum] = [samples[0] ?? 0, 0, 0, 0];
	let smooth = 0;
	let side = 0;
	let candidate = 0;
	const recent = new Float64Array(width);
	for (let i = 0; i < samples.length; i++) {
		const value = samples[i]!;
		passed = highPass * (passed + value - raw);
		raw = value;
		sum += passed - recent[i % width]!;
		recent[i % width] = passed;
		const before = smooth;
		smooth = sum / width;
		const level = Math.abs(smooth);
		peak = Math.max(level, peak * decay);
		if (before < 0 !== smooth < 0) candidate = i - 1 + before / (before - smooth || 1);
		if (level < HYSTERESIS * peak || peak < MIN_PEAK) continue;
		const now = smooth < 0 ? -1 : 1;
		// The mean lags by half its width.
		if (side !== 0 && now !== side) crossings.push(candidate - (width - 1) / 2);
		side = now;
	}
	return crossings;
}

/** A frame's label from its bits, in binary-coded decimals; nothing where it is no time. */
function frameOf(bit: (index: number) => number, atSample: number): LinearTimecodeFrame | undefined {
	const number = (from: number, length: number) => {
		let value = 0;
		for (let i = length - 1; i >= 0; i--) value = 2 * value + bit(from + i);
		return value;
	};
	const units = [number(0, 4), number(16, 4), number(32, 4), number(48, 4)];
	const [frames, seconds, minutes, hours] = [
		10 * number(8, 2) + units[0]!,
		10 * number(24, 3) + units[1]!,
		10 * number(40, 3) + units[2]!,
		10 * number(56, 2) + units[3]!
	];
	if (units.some((one) => one > 9) || frames > 29 || seconds > 59 || minutes > 59 || hours > 23) return undefined;
	return { atSample, hours, minutes, seconds, frames, dropFrame: bit(10) === 1 };
}

const RATES: readonly Rational[] = [
	{ num: 24000, den: 1001 },
	{ num: 24, den: 1 },
	{ num: 25, den: 1 },
	{ num: 30000, den: 1001 },
	{ num: 30, den: 1 }
];
/** Fewer frames in a row say nothing. */
const MIN_FRAMES = 10;
/** A frame agrees when it begins within this share of a frame of where the others say. */
const AGREEMENT = 0.2;
/** Clocks of recorders stay within this of each other; beyond it the speed was changed, and only the count tells the rate. */
const MAX_CLOCK_ERROR = 4e-4;

/**
 * Puts frames together: what most of them agree on. Single frames that were misread are left out.
 * @returns nothing where there is no timecode to speak of
 */
export function summariseLinearTimecode(
	frames: readonly LinearTimecodeFrame[],
	sampleRate: number
): LinearTimecode | undefined {
	if (frames.length < MIN_FRAMES) return undefined;
	const dropFrame = frames.filter((frame) => frame.dropFrame).length > frames.length / 2;
	const spacing = medianSpacing(frames) / sampleRate;
	const rate = rateOf(frames, dropFrame, spacing);
	const counted = frames.flatMap((frame) => {
		const two = (value: number) => `${value}`.padStart(2, '0');
		const label = `${two(frame.hours)}:${two(frame.minutes)}:${two(frame.seconds)}:${two(frame.frames)}`;
		const count = frameOfTimecode(label, rate, dropFrame);
		return count === undefined ? [] : [{ at: frame.atSample / sampleRate, count }];
	});
	const [first] = counted;
	if (!first) return undefined;
	// Over midnight the count goes on.
	const day = framesOfDay(rate, dropFrame);
	const unbroken = counted.map(({ at, count }) => {
		const expected = first.count + (at - first.at) / spacing;
		return { at, count: count + day * Math.round((expected - count) / day) };
	});
	// Where each says that sample 0 lies; the median is right while most are.
	const zeroOf = ({ at, count }: { readonly at: number; readonly count: number }) => count - at / spacing;
	const zero = median(unbroken.map(zeroOf));
	const near = unbroken.filter((one) => Math.abs(zeroOf(one) - zero) < 1 + one.at * MAX_CLOCK_ERROR);
	const line = lineThrough(near);
	const agreeing = near.filter(({ at, count }) => Math.abs(line.atZero + line.perSecond * at - count) < AGREEMENT);
	if (agreeing.length < MIN_FRAMES) return undefined;
	const fine = lineThrough(agreeing);
	const [begin, end] = [agreeing[0]!, agreeing.at(-1)!];
	return {
		rate,
		dropFrame,
		frameAtZero: fine.atZero,
		framesPerSecond: fine.perSecond,
		quality: Math.min(1, agreeing.length / (end.count - begin.count + 1)),
		fromSeconds: begin.at,
		toSeconds: end.at
	};
}

/** Length of a frame in samples. */
function medianSpacing(frames: readonly LinearTimecodeFrame[]): number {
	const spacings = frames.slice(1).map(({ atSample }, index) => atSample - frames[index]!.atSample);
	return median(spacings);
}

/**
 * The rate by the highest frame number where the count is seen to turn over, by the spacing otherwise; the spacing tells
 * 23.976 from 24 where the speed is right.
 */
function rateOf(frames: readonly LinearTimecodeFrame[], dropFrame: boolean, spacing: number): Rational {
	if (dropFrame) return RATES[3]!;
	const turns = frames.slice(1).flatMap((frame, index) => {
		const before = frames[index]!;
		return frame.frames === 0 && before.frames > 20 ? [before.frames + 1] : [];
	});
	const base = turns.length > 0 ? median(turns) : undefined;
	const possible = RATES.filter((rate) => base === undefined || Math.round(ratePerSecond(rate)) === base);
	const off = (rate: Rational) => Math.abs(ratePerSecond(rate) * spacing - 1);
	const [nearest] = [...(possible.length > 0 ? possible : RATES)].sort((x, y) => off(x) - off(y));
	// At a changed speed 23.976 and 24 look alike: then the whole rate is meant.
	const whole = RATES.find(({ num, den }) => den === 1 && num === Math.round(ratePerSecond(nearest!)))!;
	return off(nearest!) <= MAX_CLOCK_ERROR ? nearest! : whole;
}

function lineThrough(points: readonly { readonly at: number; readonly count: number }[]) {
	const n = points.length;
	const meanAt = points.reduce((sum, { at }) => sum + at, 0) / n;
	const meanCount = points.reduce((sum, { count }) => sum + count, 0) / n;
	let [products, squares] = [0, 0];
	for (const { at, count } of points) {
		products += (at - meanAt) * (count - meanCount);
		squares += (at - meanAt) ** 2;
	}
	const perSecond = squares > 0 ? products / squares : 0;
	return { perSecond, atZero: meanCount - perSecond * meanAt };
}

/** The label at the sound's first sample. */
export function linearTimecodeLabel({ frameAtZero, rate, dropFrame }: LinearTimecode): string {
	return timecodeOfFrame(Math.round(frameAtZero), rate, dropFrame);
}
