import type { FftProvider } from '../signal/fft';

/** Rate of the sound that is analysed, in samples a second. Speech and claps have what is needed below 4 kHz. */
export const ANALYSIS_SAMPLE_RATE = 8_000;
/** What a sample of 1 (full scale) is in the 16-bit sound that is analysed: half the memory of floats, -98 dB of noise. */
export const FULL_SCALE = 32_768;
/** Analysis frames a second. */
export const FEATURE_RATE = 50;
export const FEATURE_HOP_SAMPLES = ANALYSIS_SAMPLE_RATE / FEATURE_RATE;
export const FEATURE_WINDOW_SAMPLES = 256;
/** Log-spaced edges, 200 to 3 500 Hz: above rumble, below the cut of telephone-band memos. */
const BAND_EDGES_HZ = [200, 286, 409, 585, 837, 1197, 1711, 2447, 3500] as const;
export const BAND_COUNT = BAND_EDGES_HZ.length - 1;
/** Power below which a band counts as silent (about -100 dB of full scale). */
const POWER_FLOOR = 1e-9;

/** What is compared to find coarse lags: two views of eight bands, one number an analysis frame each. */
export interface BandFeatures {
	readonly frames: number;
	/** Log energy less its moving mean of one second, band after band: `BAND_COUNT * frames` numbers. */
	readonly energy: Float32Array;
	/** Rise of log energy from frame to frame, falls are zero, less its moving mean; same layout. */
	readonly flux: Float32Array;
}

/** Sound as the engine takes it: mono at `ANALYSIS_SAMPLE_RATE`, 16 bits. */
export function toAnalysisSound(samples: ArrayLike<number>): Int16Array {
	const out = new Int16Array(samples.length);
	for (let i = 0; i < out.length; i++)
		out[i] = Math.max(-FULL_SCALE, Math.min(FULL_SCALE - 1, Math.round(samples[i]! * FULL_SCALE)));
	return out;
}

/** How many analysis frames a sound has: `floor((n - 256) / 160) + 1`, none if n < 256. */
export function frameCount(samples: number): number {
	return samples < FEATURE_WINDOW_SAMPLES
		? 0
		: Math.floor((samples - FEATURE_WINDOW_SAMPLES) / FEATURE_HOP_SAMPLES) + 1;
}

/** Band features of mono sound at `ANALYSIS_SAMPLE_RATE`; as many frames as `frameCount` says. */
export function bandFeatures(samples: Int16Array, provider: FftProvider): BandFeatures {
	const frames = frameCount(samples.length);
	const energy = logEnergies(samples, frames, provider);
	const flux = new Float32Array(energy.length);
	for (let band = 0; band < BAND_COUNT; band++) {
		const row = energy.subarray(band * frames, (band + 1) * frames);
		const rise = flux.subarray(band * frames, (band + 1) * frames);
		for (let i = 1; i < frames; i++) rise[i] = Math.max(0, row[i]! - row[i - 1]!);
		removeMovingMean(rise, FEATURE_RATE / 2);
		removeMovingMean(row, FEATURE_RATE / 2);
	}
	return { frames, energy, flux };
}

function logEnergies(samples: Int16Array, frames: number, provider: FftProvider): Float32Array {
	const fft = provider(FEATURE_WINDOW_SAMPLES);
	const window = Float32Array.from(
		{ length: FEATURE_WINDOW_SAMPLES },
		(_, i) => (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / FEATURE_WINDOW_SAMPLES)) / FULL_SCALE
	);
	const binEdges = BAND_EDGES_HZ.map((hz) => Math.round((hz * FEATURE_WINDOW_SAMPLES) / ANALYSIS_SAMPLE_RATE));
	const work = new Float32Array(FEATURE_WINDOW_SAMPLES);
	const energy = new Float32Array(BAND_COUNT * frames);
	for (let frame = 0; frame < frames; frame++) {
		const at = frame * FEATURE_HOP_SAMPLES;
		for (let i = 0; i < FEATURE_WINDOW_SAMPLES; i++) work[i] = samples[at + i]! * window[i]!;
		fft.forward(work, work);
		for (let band = 0; band < BAND_COUNT; band++) {
			let power = 0;
			for (let bin = binEdges[band]!; bin < binEdges[band + 1]!; bin++) {
				power += work[2 * bin]! * work[2 * bin]! + work[2 * bin + 1]! * work[2 * bin + 1]!;
			}
			energy[band * frames + frame] = Math.log(power / FEATURE_WINDOW_SAMPLES + POWER_FLOOR);
		}
	}
	return energy;
}

function removeMovingMean(row: Float32Array, radius: number): void {
	const n = row.length;
	const sums = new Float64Array(n + 1);
	for (let i = 0; i < n; i++) sums[i + 1] = sums[i]! + row[i]!;
	for (let i = 0; i < n; i++) {
		const from = Math.max(0, i - radius);
		const to = Math.min(n, i + radius + 1);
		row[i] = row[i]! - (sums[to]! - sums[from]!) / (to - from);
	}
}
