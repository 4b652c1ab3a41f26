import { ANALYSIS_SAMPLE_RATE, FULL_SCALE } from './band-features';

/** Root mean square of the loudest half second that still counts as silence: -72 dB of full scale. */
const SILENCE = 2.5e-4 * FULL_SCALE;

/** Whether there is nothing to hear anywhere. @param samples 16-bit mono at `ANALYSIS_SAMPLE_RATE` */
export function isSilent(samples: Int16Array): boolean {
	const block = ANALYSIS_SAMPLE_RATE / 2;
	for (let from = 0; from < samples.length; from += block) {
		const to = Math.min(samples.length, from + block);
		let power = 0;
		let mean = 0;
		for (let i = from; i < to; i++) {
			power += samples[i]! * samples[i]!;
			mean += samples[i]!;
		}
		const n = to - from;
		if (power / n - (mean / n) ** 2 > SILENCE * SILENCE) return false;
	}
	return true;
}
