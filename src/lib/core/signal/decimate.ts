import type { FftProvider, RealFft } from './fft';

/** Where the low pass begins to fall, as a share of half the lower rate; at that half it has fallen to nothing. */
const PASS_SHARE = 0.9;
/** Samples of the lower rate that a block gives; the outermost ones, where its ends touch, are thrown away. */
const BLOCK_SAMPLES = 4096;
const MARGIN_SAMPLES = 160;

/** Brings sound to a rate that is a whole fraction of its own. Nothing is delayed: output 0 stands over input 0. */
export interface Decimator {
	/** Input samples of a block: from `first` on, where the first output kept stands `margin` input samples later. */
	readonly inputSamples: number;
	readonly marginSamples: number;
	/** Output samples a block gives. */
	readonly outputSamples: number;
	/** @param input `inputSamples` long, is overwritten @returns `outputSamples`, valid until the next call */
	run(input: Float32Array): Float32Array;
}

/**
 * Low pass and decimation in one, in the frequency domain: a long transform, of which only the lower part goes back
 * through a short one (overlap and save; textbook practice).
 * @param factor a whole number; the provider must have transforms of `4096 * factor`
 */
export function createDecimator(factor: number, provider: FftProvider): Decimator {
	const inputSamples = BLOCK_SAMPLES * factor;
	const long: RealFft = provider(inputSamples);
	const short: RealFft = provider(BLOCK_SAMPLES);
	const gains = Float32Array.from(
		{ length: BLOCK_SAMPLES / 2 },
		(_, bin) => lowPass(bin / (BLOCK_SAMPLES / 2)) / factor
	);
	const spectrum = new Float32Array(BLOCK_SAMPLES);
	return {
		inputSamples,
		marginSamples: MARGIN_SAMPLES * factor,
		outputSamples: BLOCK_SAMPLES - 2 * MARGIN_SAMPLES,
		run(input) {
			long.forward(input, input);
			spectrum[0] = input[0]! * gains[0]!;
			spectrum[1] = 0;
			for (let bin = 1; bin < BLOCK_SAMPLES / 2; bin++) {
				spectrum[2 * bin] = input[2 * bin]! * gains[bin]!;
				spectrum[2 * bin + 1] = input[2 * bin + 1]! * gains[bin]!;
			}
			short.inverse(spectrum, spectrum);
			return spectrum.subarray(MARGIN_SAMPLES, BLOCK_SAMPLES - MARGIN_SAMPLES);
		}
	};
}

/** Flat, then a raised cosine down to nothing. @param share of half the lower rate, 0 to 1 */
function lowPass(share: number): number {
	if (share <= PASS_SHARE) return 1;
	return 0.5 + 0.5 * Math.cos((Math.PI * (share - PASS_SHARE)) / (1 - PASS_SHARE));
}
