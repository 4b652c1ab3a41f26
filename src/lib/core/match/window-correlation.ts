import { ANALYSIS_SAMPLE_RATE } from '../features/band-features';
import { type FftProvider, fftSizeFor } from '../signal/fft';

/** Lowest and highest frequency that may speak: rumble and the edge of the decoder's filter may not. */
const LOWEST_HZ = 120;
const HIGHEST_HZ = 3_700;

/**
 * Whitened cross-correlation of one passage, over lags of ± `reach` samples about the expected one.
 * Source: Knapp and Carter 1976, the phase transform (from memory).
 *
 * @param a samples around the passage, read at `aFrom + i * aStep` by cubic interpolation: `aStep` takes a
 *   known difference of clocks out @param b samples of the other clip; the passage begins at `bFrom`
 * @param length samples of the passage
 * @returns 2 * reach + 1 values; the middle is the expected lag; positive lags mean b's sound comes later in b.
 *   In units of their own root mean square. Nothing when a side is silent there.
 */
export function windowCorrelation(
	a: Float32Array,
	aFrom: number,
	aStep: number,
	b: Float32Array,
	bFrom: number,
	length: number,
	reach: number,
	provider: FftProvider
): Float32Array | undefined {
	const size = fftSizeFor(length + 2 * reach);
	const x = new Float32Array(size);
	const y = new Float32Array(size);
	const powerA = fillTapered(x, a, aFrom, aStep, length);
	const powerB = fillPlain(y, b, bFrom - reach, length + 2 * reach);
	// Digital silence, or next to it (-84 dB): nothing to compare.
	if (powerA < 4e-9 || powerB < 4e-9) return undefined;
	const fft = provider(size);
	fft.forward(x, x);
	fft.forward(y, y);
	whitenedProduct(x, y, size);
	fft.inverse(y, y);
	const out = new Float32Array(2 * reach + 1);
	let squares = 0;
	for (let i = 0; i < out.length; i++) {
		out[i] = y[i]!;
		squares += y[i]! * y[i]!;
	}
	const scale = squares > 0 ? 1 / Math.sqrt(squares / out.length) : 0;
	for (let i = 0; i < out.length; i++) out[i] = out[i]! * scale;
	return out;
}

function fillTapered(target: Float32Array, samples: Float32Array, from: number, step: number, length: number): number {
	const taper = Math.floor(length / 8);
	let power = 0;
	const plain = step === 1 && Number.isInteger(from);
	for (let i = 0; i < length; i++) {
		const value = plain ? (samples[from + i] ?? 0) : cubicAt(samples, from + i * step);
		const edge = Math.min(i, length - 1 - i);
		target[i] = edge < taper ? value * (0.5 - 0.5 * Math.cos((Math.PI * edge) / taper)) : value;
		power += value * value;
	}
	return power / length;
}

function fillPlain(target: Float32Array, samples: Float32Array, from: number, length: number): number {
	let power = 0;
	for (let i = 0; i < length; i++) {
		const index = from + i;
		const value = index >= 0 && index < samples.length ? samples[index]! : 0;
		target[i] = value;
		power += value * value;
	}
	return power / length;
}

/** Four-point cubic (Catmull and Rom 1974); zero outside. */
function cubicAt(samples: Float32Array, position: number): number {
	const whole = Math.floor(position);
	if (whole < 1 || whole + 2 >= samples.length) return whole >= 0 && whole < samples.length ? samples[whole]! : 0;
	const t = position - whole;
	const p1 = samples[whole]!;
	if (t === 0) return p1;
	const p0 = samples[whole - 1]!;
	const p2 = samples[whole + 1]!;
	const p3 = samples[whole + 2]!;
	return p1 + 0.5 * t * (p2 - p0 + t * (2 * p0 - 5 * p1 + 4 * p2 - p3 + t * (3 * (p1 - p2) + p3 - p0)));
}

/**
 * conj(x) * y over its magnitude to the power of 7/8, within the band that may speak; into y. The power of 1 would be
 * the full phase transform; a little softer keeps more windows below -15 dB. Three roots are far quicker than a power.
 */
function whitenedProduct(x: Float32Array, y: Float32Array, size: number): void {
	const lowest = Math.round((LOWEST_HZ * size) / ANALYSIS_SAMPLE_RATE);
	const highest = Math.round((HIGHEST_HZ * size) / ANALYSIS_SAMPLE_RATE);
	y[0] = 0;
	y[1] = 0;
	for (let bin = 1; bin < size / 2; bin++) {
		const i = 2 * bin;
		if (bin < lowest || bin > highest) {
			y[i] = 0;
			y[i + 1] = 0;
			continue;
		}
		const re = x[i]! * y[i]! + x[i + 1]! * y[i + 1]!;
		const im = x[i]! * y[i + 1]! - x[i + 1]! * y[i]!;
		const half = Math.sqrt(Math.sqrt(re * re + im * im));
		const quarter = Math.sqrt(half);
		const scale = half > 1e-10 ? 1 / (half * quarter * Math.sqrt(quarter)) : 0;
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
