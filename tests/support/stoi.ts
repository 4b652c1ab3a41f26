import { fftSizeFor } from '../../src/lib/core/signal/fft';
import { plainFftProvider } from '../../src/lib/core/signal/fft';

const RATE = 10_000;
const FRAME = 256;
const HOP = FRAME / 2;
const BANDS = 15;
const LOWEST_HZ = 150;
const SEGMENT = 30;
/** The paper takes every segment; every fifteenth, half over each other, is enough to rank by over minutes. */
const SEGMENT_STEP = 15;
const CLIP_DB = -15;
const SILENT_DB = 40;
const TRANSFORM = fftSizeFor(512);

/**
 * Short-time objective intelligibility: how well what is heard keeps the envelopes of clean speech, 0 to 1.
 * Source: Taal, Hendriks, Heusdens, Jensen 2011, "An algorithm for intelligibility prediction of time-frequency weighted noisy
 * speech", IEEE TASLP 19(7), equations 1 to 6.
 * @param clean and heard, in step with each other, at `rate`
 */
export function intelligibility(clean: Float32Array, heard: Float32Array, rate: number): number {
	const [x, y] = [clean, heard].map((samples) => resampled(samples, rate)) as [Float32Array, Float32Array];
	const frames = audibleFrames(x);
	const [a, b] = [x, y].map((samples) => bandEnvelopes(samples, frames)) as [Float64Array[], Float64Array[]];
	let [sum, count] = [0, 0];
	for (let end = SEGMENT; end <= frames.length; end += SEGMENT_STEP)
		for (let band = 0; band < BANDS; band++) {
			sum += likeness(a[band]!.subarray(end - SEGMENT, end), b[band]!.subarray(end - SEGMENT, end));
			count++;
		}
	return count === 0 ? 0 : sum / count;
}

/** Straight lines between samples will do: what is above 4.3 kHz is not looked at. */
function resampled(samples: Float32Array, rate: number): Float32Array {
	const step = rate / RATE;
	return Float32Array.from({ length: Math.floor(samples.length / step) }, (_, i) => {
		const at = i * step;
		const before = Math.floor(at);
		return samples[before]! + (at - before) * ((samples[before + 1] ?? 0) - samples[before]!);
	});
}

/** Beginnings of frames of clean speech that are at most 40 dB softer than the loudest. */
function audibleFrames(clean: Float32Array): readonly number[] {
	const starts = Array.from({ length: Math.max(0, Math.floor((clean.length - FRAME) / HOP)) }, (_, i) => i * HOP);
	const level = (from: number) => {
		let sum = 1e-20;
		for (let i = from; i < from + FRAME; i++) sum += clean[i]! ** 2;
		return 10 * Math.log10(sum);
	};
	const levels = starts.map(level);
	const loudest = levels.reduce((greatest, one) => Math.max(greatest, one), -Infinity);
	return starts.filter((_, i) => levels[i]! > loudest - SILENT_DB);
}

function bandEnvelopes(samples: Float32Array, frames: readonly number[]): Float64Array[] {
	const fft = plainFftProvider()(TRANSFORM);
	const work = new Float32Array(TRANSFORM);
	const out = Array.from({ length: BANDS }, () => new Float64Array(frames.length));
	const edges = Array.from({ length: BANDS }, (_, band) => {
		const centre = LOWEST_HZ * 2 ** (band / 3);
		return [centre * 2 ** (-1 / 6), centre * 2 ** (1 / 6)].map((hz) => Math.round((hz * TRANSFORM) / RATE));
	});
	for (const [index, from] of frames.entries()) {
		work.fill(0);
		for (let i = 0; i < FRAME; i++)
			work[i] = samples[from + i]! * (0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 1)) / (FRAME + 1)));
		fft.forward(work, work);
		for (const [band, [low, high]] of edges.entries()) {
			let power = 0;
			for (let bin = low!; bin < high!; bin++) power += work[2 * bin]! ** 2 + work[2 * bin + 1]! ** 2;
			out[band]![index] = Math.sqrt(power);
		}
	}
	return out;
}

/** Correlation of two envelopes, the heard one brought to the clean one's level and cut where it stands too far above. */
function likeness(clean: Float64Array, heard: Float64Array): number {
	const norm = (values: Float64Array) => Math.sqrt(values.reduce((sum, one) => sum + one * one, 0));
	const scale = norm(clean) / Math.max(1e-20, norm(heard));
	const most = 1 + 10 ** (-CLIP_DB / 20);
	const cut = heard.map((one, i) => Math.min(one * scale, clean[i]! * most));
	const [meanA, meanB] = [clean, cut].map((values) => values.reduce((sum, one) => sum + one, 0) / values.length);
	let [product, a, b] = [0, 1e-20, 1e-20];
	for (let i = 0; i < clean.length; i++) {
		const [x, y] = [clean[i]! - meanA!, cut[i]! - meanB!];
		product += x * y;
		a += x * x;
		b += y * y;
	}
	return product / Math.sqrt(a * b);
}
