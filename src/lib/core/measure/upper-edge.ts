import { EDGE_BINS, EDGE_FALL_DB, LOWEST_EDGE_HZ } from '../limits/measure';
import { shareOfBytes } from '../signal/byte-shares';
import type { ChannelReadings } from './channel-readings';
import { decibelsOf, ENERGIES_A_SECOND, SPECTRUM_BIN_HZ, SPECTRUM_BINS } from './readings';

/**
 * Where a coder, a low rate or a telephone cut off what is above: the steepest fall of the median spectrum of the louder
 * half of all seconds. @returns hertz; nothing where it goes on to the end
 */
export function upperEdgeHz(readings: ChannelReadings): number | undefined {
	const spectrum = medianSpectrum(readings);
	if (!spectrum) return undefined;
	let [best, at] = [EDGE_FALL_DB, 0];
	for (let bin = Math.ceil(LOWEST_EDGE_HZ / SPECTRUM_BIN_HZ); bin + EDGE_BINS <= SPECTRUM_BINS; bin++) {
		const fall = meanOf(spectrum, bin - EDGE_BINS, bin) - meanOf(spectrum, bin, bin + EDGE_BINS);
		if (fall > best) [best, at] = [fall, bin];
	}
	return at === 0 ? undefined : at * SPECTRUM_BIN_HZ;
}

function medianSpectrum({ spectra, energies, seconds }: ChannelReadings): Float64Array | undefined {
	if (seconds === 0) return undefined;
	const loudness = Float32Array.from({ length: seconds }, (_, second) =>
		energies.subarray(second * ENERGIES_A_SECOND, (second + 1) * ENERGIES_A_SECOND).reduce((sum, one) => sum + one, 0)
	);
	const median = [...loudness].sort((a, b) => a - b)[seconds >> 1]!;
	const loud = [...loudness.keys()].filter((second) => loudness[second]! >= median && loudness[second]! > 0);
	if (loud.length === 0) return undefined;
	const own = new Uint8Array(loud.length);
	return Float64Array.from({ length: SPECTRUM_BINS }, (_, bin) => {
		for (const [index, second] of loud.entries()) own[index] = Math.max(1, spectra[second * SPECTRUM_BINS + bin]!);
		return decibelsOf(shareOfBytes(own, 0.5));
	});
}

function meanOf(values: Float64Array, from: number, to: number): number {
	let sum = 0;
	for (let at = from; at < to; at++) sum += values[at]!;
	return sum / (to - from);
}
