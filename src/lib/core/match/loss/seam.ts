import { MAX_REPEATED_SECONDS, MIN_LEAD, MIN_SEAM_LIKENESS, SEAM_SILENT_POWER } from '../../limits/match';
import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import { type FftProvider, fftSizeFor } from '../../signal/fft';
import { sharpPeak, type WindowCorrelator } from '../windows/window-correlation';

/** Less cannot be told from chance. */
const MIN_REPEATED_SAMPLES = 0.05 * ANALYSIS_SAMPLE_RATE;
const APART_SAMPLES = 8;

/**
 * How much of a file's end is heard again at the beginning of the file that goes on: the normalised product over each
 * possible stretch (all by one transform; textbook practice), its place by the phase transform to a part of a sample.
 * @param tail the end of the one, @param head the beginning of the next; 16 bits at `ANALYSIS_SAMPLE_RATE`
 * @returns seconds; nothing where nothing is repeated
 */
export function repeatedSeconds(
	tail: Int16Array,
	head: Int16Array,
	provider: FftProvider,
	correlate: WindowCorrelator
): number | undefined {
	const most = Math.min(tail.length, head.length, MAX_REPEATED_SECONDS * ANALYSIS_SAMPLE_RATE);
	if (most < MIN_REPEATED_SAMPLES) return undefined;
	const end = tail.subarray(tail.length - most);
	const likeness = likenessByLength(end, head.subarray(0, most), provider);
	let best = MIN_REPEATED_SAMPLES;
	for (let length = best; length <= most; length++) if (likeness[length]! > likeness[best]!) best = length;
	if (likeness[best]! < MIN_SEAM_LIKENESS) return undefined;
	for (let length = MIN_REPEATED_SAMPLES; length <= most; length++) {
		const isApart = Math.abs(length - best) > APART_SAMPLES;
		if (isApart && likeness[length]! > likeness[best]! - MIN_LEAD) return undefined;
	}
	const correlation = correlate(end, most - best, 1, head, 0, best, APART_SAMPLES);
	if (!correlation) return undefined;
	// Positive: the same comes later in the head, so more of it is repeated.
	const off = sharpPeak(correlation, APART_SAMPLES, 2).index - APART_SAMPLES;
	return (best + off) / ANALYSIS_SAMPLE_RATE;
}

/** Normalised product of the last n samples of one with the first n of another, for all n. */
function likenessByLength(end: Int16Array, head: Int16Array, provider: FftProvider): Float32Array {
	const most = end.length;
	const size = fftSizeFor(2 * most);
	const fft = provider(size);
	// The end backwards: a product of spectra is then its correlation.
	const [x, y, products] = [new Float32Array(size), new Float32Array(size), new Float32Array(size)];
	for (let i = 0; i < most; i++) x[i] = end[most - 1 - i]!;
	y.set(head);
	for (const spectrum of [x, y]) {
		fft.forward(spectrum, spectrum);
		fft.arrange(spectrum);
	}
	fft.convolve([x], [y], products);
	const likeness = new Float32Array(most + 1);
	let [inEnd, inHead] = [0, 0];
	for (let length = 1; length <= most; length++) {
		inEnd += end[most - length]! ** 2;
		inHead += head[length - 1]! ** 2;
		const isHeard = Math.min(inEnd, inHead) > SEAM_SILENT_POWER * length;
		likeness[length] = isHeard ? products[length - 1]! / Math.sqrt(inEnd * inHead) : 0;
	}
	return likeness;
}
