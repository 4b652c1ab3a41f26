import { BLOCKS_A_SECOND, fromPeak, fromPower, READINGS_RATE } from './readings';

const BLOCK_SAMPLES = READINGS_RATE / BLOCKS_A_SECOND;
/** A top is what stays so near its greatest sample: where sound was cut off, it is flat. */
const TOP_SHARE = 0.97;

/** Level, peak and width of the top of each 5 ms of a second. @param from where it begins */
export function readBlocks(
	samples: Float32Array,
	from: number,
	levels: Uint8Array,
	peaks: Uint8Array,
	tops: Uint8Array
): void {
	for (let block = 0; block < BLOCKS_A_SECOND; block++) {
		const begin = from + block * BLOCK_SAMPLES;
		const end = begin + BLOCK_SAMPLES;
		let sum = 0;
		let peak = 0;
		let peakAt = begin;
		for (let i = begin; i < end; i++) {
			const value = samples[i]!;
			sum += value * value;
			const magnitude = Math.abs(value);
			if (magnitude > peak) {
				peak = magnitude;
				peakAt = i;
			}
		}
		levels[block] = fromPower(sum / BLOCK_SAMPLES);
		peaks[block] = fromPeak(peak);
		tops[block] = peak > 0 ? Math.min(255, topWidth(samples, peakAt)) : 0;
	}
}

function topWidth(samples: Float32Array, peakAt: number): number {
	const sign = Math.sign(samples[peakAt]!);
	const least = TOP_SHARE * Math.abs(samples[peakAt]!);
	let first = peakAt;
	let last = peakAt;
	while (first > 0 && sign * samples[first - 1]! >= least) first--;
	while (last + 1 < samples.length && sign * samples[last + 1]! >= least) last++;
	return last - first + 1;
}
