import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { ANALYSIS_SAMPLE_RATE } from '../../core/features/band-features';
import { risesIn, SHARP_MARGIN_SAMPLES, type SharpSound, strongestSharpSounds } from '../../core/features/sharp-sounds';

/** Heard at a time: 10 minutes are 10 MB. */
const STRETCH_SAMPLES = 600 * ANALYSIS_SAMPLE_RATE;
const SAMPLE_BYTES = 2;

/**
 * The sharp sounds of a file of prepared analysis sound (16-bit mono at `ANALYSIS_SAMPLE_RATE`), whatever its length.
 * For worker threads: it reads synchronously.
 */
export function findSharpSounds(path: string): readonly SharpSound[] {
	const { before, after } = SHARP_MARGIN_SAMPLES;
	const block = new Int16Array(before + STRETCH_SAMPLES + after);
	const file = openSync(path, 'r');
	try {
		const samples = Math.floor(fstatSync(file).size / SAMPLE_BYTES);
		const found: SharpSound[] = [];
		for (let from = 0; from < samples; from += STRETCH_SAMPLES) {
			const first = Math.max(0, from - before);
			const end = Math.min(samples, from + STRETCH_SAMPLES + after);
			const read = readSync(file, block, 0, (end - first) * SAMPLE_BYTES, first * SAMPLE_BYTES);
			for (const { seconds, riseDb } of risesIn(block.subarray(0, Math.floor(read / SAMPLE_BYTES)))) {
				const sample = Math.round(seconds * ANALYSIS_SAMPLE_RATE) + first;
				if (sample >= from && sample < from + STRETCH_SAMPLES)
					found.push({ seconds: sample / ANALYSIS_SAMPLE_RATE, riseDb });
			}
		}
		return strongestSharpSounds(found);
	} finally {
		closeSync(file);
	}
}
