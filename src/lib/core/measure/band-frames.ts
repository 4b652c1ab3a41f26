import type { FftProvider } from '../signal/fft';
import {
	BAND_EDGE_BINS,
	BANDS,
	FRAMES_A_SECOND,
	fromPower,
	READINGS_RATE,
	SPECTRUM_BINS,
	TRANSFORM_SIZE
} from './readings';

const HOP_SAMPLES = READINGS_RATE / FRAMES_A_SECOND;
/** 32 ms. */
const WINDOW_SAMPLES = 1536;
/** Samples before and after a second that its first and last frames reach for. */
export const FRAME_REACH = (WINDOW_SAMPLES - HOP_SAMPLES) / 2;
const BINS_TOGETHER = TRANSFORM_SIZE / 2 / SPECTRUM_BINS;

/** Reads frames of bands and the mean spectrum of a second off its sound. */
export interface BandReader {
	/** @param samples a second, with `FRAME_REACH` more on both sides */
	read(samples: Float32Array, bands: Uint8Array, spectrum: Uint8Array): void;
}

/** Powers are mean squares: those of all bands together are that of the sound, but for what lies beyond them. */
export function createBandReader(provider: FftProvider): BandReader {
	const fft = provider(TRANSFORM_SIZE);
	const window = Float32Array.from(
		{ length: WINDOW_SAMPLES },
		(_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / WINDOW_SAMPLES)
	);
	const scale = 2 / (TRANSFORM_SIZE * window.reduce((sum, weight) => sum + weight * weight, 0));
	const work = new Float32Array(TRANSFORM_SIZE);
	const powers = new Float64Array(TRANSFORM_SIZE / 2);
	const sums = new Float64Array(TRANSFORM_SIZE / 2);
	return {
		read(samples, bands, spectrum) {
			sums.fill(0);
			for (let frame = 0; frame < FRAMES_A_SECOND; frame++) {
				const from = frame * HOP_SAMPLES;
				for (let i = 0; i < WINDOW_SAMPLES; i++) work[i] = samples[from + i]! * window[i]!;
				work.fill(0, WINDOW_SAMPLES);
				fft.forward(work, work);
				for (let bin = 1; bin < powers.length; bin++) {
					const re = work[2 * bin]!;
					const im = work[2 * bin + 1]!;
					const power = scale * (re * re + im * im);
					powers[bin] = power;
					sums[bin] = sums[bin]! + power;
				}
				for (let band = 0; band < BANDS; band++) {
					let power = 0;
					for (let bin = BAND_EDGE_BINS[band]!; bin < BAND_EDGE_BINS[band + 1]!; bin++) power += powers[bin]!;
					bands[frame * BANDS + band] = fromPower(power);
				}
			}
			for (let bin = 0; bin < SPECTRUM_BINS; bin++) {
				let power = 0;
				for (let own = bin * BINS_TOGETHER; own < (bin + 1) * BINS_TOGETHER; own++) power += sums[own]!;
				spectrum[bin] = fromPower(power / FRAMES_A_SECOND);
			}
		}
	};
}
