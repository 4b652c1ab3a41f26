import { STEADY_SAMPLES, WINDOW_SILENT_POWER } from '../../limits/match';
import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import { type FftProvider, fftSizeFor } from '../../signal/fft';

/** Lowest and highest frequency that may speak: rumble and the edge of the decoder's filter may not. */
const LOWEST_HZ = 120;
const HIGHEST_HZ = 3_700;

/** Correlates passages; keeps its working memory from one to the next. */
export type WindowCorrelator = (
	a: Int16Array,
	aFrom: number,
	aStep: number,
	b: Int16Array,
	bFrom: number,
	length: number,
	reach: number
) => Float32Array | undefined;

/**
 * Whitened cross-correlation of one passage, over lags of ± `reach` samples about the expected one.
 * Source: Knapp and Carter 1976, the phase transform (from memory).
 *
 * The correlator takes: a, samples around the passage, read at `aFrom + i * aStep` by cubic interpolation (`aStep`
 * takes a known difference of clocks out); b, samples of the other clip, where the passage begins at `bFrom`; `length`,
 * samples of the passage. It gives 2 * reach + 1 values; the middle is the expected lag; positive lags mean b's sound
 * comes later in b. In units of their own root mean square. Nothing when a side is silent there.
 */
export function createWindowCorrelator(provider: FftProvider): WindowCorrelator {
	const work = new Map<number, readonly [Float32Array, Float32Array]>();
	const value = new Float32Array(1);
	const float: FloatBits = { value, bits: new Int32Array(value.buffer) };
	const tapers = new Map<number, Float32Array>();
	return (a, aFrom, aStep, b, bFrom, length, reach) => {
		const size = fftSizeFor(length + 2 * reach);
		let buffers = work.get(size);
		if (!buffers) work.set(size, (buffers = [new Float32Array(size), new Float32Array(size)]));
		let taper = tapers.get(length);
		if (!taper) tapers.set(length, (taper = taperOf(Math.floor(length / 8))));
		const [x, y] = buffers;
		const powerA = fillTapered(x, a, aFrom, aStep, length, taper);
		const powerB = fillPlain(y, b, bFrom - reach, length + 2 * reach);
		if (powerA < WINDOW_SILENT_POWER || powerB < WINDOW_SILENT_POWER) return undefined;
		const fft = provider(size);
		fft.forward(x, x);
		fft.forward(y, y);
		whitenedProduct(x, y, size, float);
		fft.inverse(y, y);
		const out = y.slice(0, 2 * reach + 1);
		let squares = 0;
		for (let i = 0; i < out.length; i++) squares += out[i]! * out[i]!;
		const scale = squares > 0 ? 1 / Math.sqrt(squares / out.length) : 0;
		for (let i = 0; i < out.length; i++) out[i] = out[i]! * scale;
		return out;
	};
}

/** Rise of a window's edge; its fall is the same backwards. */
function taperOf(length: number): Float32Array {
	return Float32Array.from({ length }, (_, i) => 0.5 - 0.5 * Math.cos((Math.PI * i) / length));
}

/** @returns mean square of what was filled in, before the taper */
function fillTapered(
	target: Float32Array,
	samples: Int16Array,
	from: number,
	step: number,
	length: number,
	taper: Float32Array
): number {
	if (step === 1 && Number.isInteger(from)) copyInto(target, samples, from, length);
	else resampleInto(target, samples, from, step, length);
	target.fill(0, length);
	const power = meanSquare(target, length);
	for (let i = 0; i < taper.length; i++) {
		target[i] = target[i]! * taper[i]!;
		target[length - 1 - i] = target[length - 1 - i]! * taper[i]!;
	}
	return power;
}

function fillPlain(target: Float32Array, samples: Int16Array, from: number, length: number): number {
	copyInto(target, samples, from, length);
	target.fill(0, length);
	return meanSquare(target, length);
}

function meanSquare(values: Float32Array, length: number): number {
	let power = 0;
	for (let i = 0; i < length; i++) power += values[i]! * values[i]!;
	return power / length;
}

/** Samples `from` … `from + length`, zero outside. A loop: `set` is slow from one kind of numbers to another. */
function copyInto(target: Float32Array, samples: Int16Array, from: number, length: number): void {
	const first = Math.min(length, Math.max(0, -from));
	const end = Math.max(first, Math.min(length, samples.length - from));
	target.fill(0, 0, first);
	for (let i = first; i < end; i++) target[i] = samples[from + i]!;
	target.fill(0, end, length);
}

/** Four-point cubic (Catmull and Rom 1974), its place between two samples kept for a stretch; zero outside. */
function resampleInto(target: Float32Array, samples: Int16Array, from: number, step: number, length: number): void {
	for (let start = 0; start < length; start += STEADY_SAMPLES) {
		const end = Math.min(length, start + STEADY_SAMPLES);
		// Right in the middle of the stretch.
		const position = from + ((start + end - 1) / 2) * step - (end - 1 - start) / 2;
		const whole = Math.floor(position);
		const t = position - whole;
		if (whole < 1 || whole + end - start + 2 >= samples.length) {
			for (let i = start; i < end; i++) target[i] = samples[whole + i - start] ?? 0;
			continue;
		}
		const c0 = 0.5 * t * (t * (2 - t) - 1);
		const c1 = 0.5 * (t * t * (3 * t - 5) + 2);
		const c2 = 0.5 * t * (t * (4 - 3 * t) + 1);
		const c3 = 0.5 * t * t * (t - 1);
		let p0 = samples[whole - 1]!;
		let p1 = samples[whole]!;
		let p2 = samples[whole + 1]!;
		for (let i = start, at = whole + 2; i < end; i++, at++) {
			const p3 = samples[at]!;
			target[i] = c0 * p0 + c1 * p1 + c2 * p2 + c3 * p3;
			p0 = p1;
			p1 = p2;
			p2 = p3;
		}
	}
}

/** A float and its bits, in one place. */
interface FloatBits {
	readonly value: Float32Array;
	readonly bits: Int32Array;
}

/** Bits of the float 1, and of a float raised to -7/16: nearly a logarithm, taken 7/16 times, the other way round. */
const BITS_OF_ONE = 0x3f800000;
const BITS_OF_RAISED_ONE = Math.floor((BITS_OF_ONE / 16) * 23);

/**
 * conj(x) * y over its magnitude to the power of 7/8, within the band that may speak; into y. The power of 1 would be
 * the full phase transform; a little softer keeps more windows below -15 dB. The power is read off the floats' bits,
 * which are nearly a logarithm: right to 6%, which is all that whitening needs (the trick is Blinn's, 1997; memory).
 */
function whitenedProduct(x: Float32Array, y: Float32Array, size: number, { value, bits }: FloatBits): void {
	const lowest = Math.round((LOWEST_HZ * size) / ANALYSIS_SAMPLE_RATE);
	const highest = Math.round((HIGHEST_HZ * size) / ANALYSIS_SAMPLE_RATE);
	y.fill(0, 0, 2 * lowest);
	y.fill(0, 2 * highest + 2);
	for (let bin = lowest, i = 2 * lowest; bin <= highest; bin++, i += 2) {
		const xr = x[i]!;
		const xi = x[i + 1]!;
		const yr = y[i]!;
		const yi = y[i + 1]!;
		const re = xr * yr + xi * yi;
		const im = xr * yi - xi * yr;
		value[0] = re * re + im * im + 1e-20;
		bits[0] = BITS_OF_RAISED_ONE - (bits[0]! >> 4) * 7;
		const scale = value[0]!;
		y[i] = re * scale;
		y[i + 1] = im * scale;
	}
}

/**
 * Place of the highest absolute value near `around`, to a fraction of a sample: windowed-sinc interpolation in
 * steps of 1/16, then a parabola.
 */
export function sharpPeak(
	row: Float32Array,
	around: number,
	radius: number
): { readonly index: number; readonly height: number } {
	const from = Math.max(0, Math.round(around - radius));
	const to = Math.min(row.length - 1, Math.round(around + radius));
	let best = from;
	for (let i = from; i <= to; i++) if (Math.abs(row[i]!) > Math.abs(row[best]!)) best = i;
	const sign = row[best]! < 0 ? -1 : 1;
	let fine = best;
	let height = Math.abs(row[best]!);
	for (let k = -15; k <= 15; k++) {
		const value = sign * sincAt(row, best + k / 16);
		if (value > height) {
			height = value;
			fine = best + k / 16;
		}
	}
	const before = sign * sincAt(row, fine - 1 / 16);
	const after = sign * sincAt(row, fine + 1 / 16);
	const bend = before - 2 * height + after;
	const shift = bend < 0 ? (0.5 * (before - after)) / bend / 16 : 0;
	return { index: fine + Math.max(-1 / 16, Math.min(1 / 16, shift)), height };
}

function sincAt(row: Float32Array, position: number): number {
	const whole = Math.round(position);
	let sum = 0;
	for (let i = Math.max(0, whole - 8); i <= Math.min(row.length - 1, whole + 8); i++) {
		const x = position - i;
		const sinc = Math.abs(x) < 1e-9 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
		sum += row[i]! * sinc * (0.5 + 0.5 * Math.cos((Math.PI * x) / 9));
	}
	return sum;
}
