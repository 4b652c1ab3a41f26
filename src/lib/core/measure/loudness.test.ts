import { describe, expect, it } from 'vitest';
import { plainFftProvider } from '../signal/fft';
import { integratedLoudness } from './loudness';
import { createMeter } from './meter';
import { ENERGIES_A_SECOND, READINGS_RATE, readingAt, RECORD_BYTES } from './readings';

/** A stereo tone of 1 kHz: stretches of seconds at a level of its peak. */
function tone(stretches: readonly (readonly [seconds: number, levelDb: number])[]): Float32Array {
	const seconds = stretches.reduce((sum, [own]) => sum + own, 0);
	const out = new Float32Array(2 * Math.round(seconds * READINGS_RATE));
	let at = 0;
	for (const [own, levelDb] of stretches) {
		const factor = 10 ** (levelDb / 20);
		for (const end = at + Math.round(own * READINGS_RATE); at < end; at++)
			out[2 * at] = out[2 * at + 1] = factor * Math.sin((2 * Math.PI * 1000 * at) / READINGS_RATE);
	}
	return out;
}

/** Loudness of two channels together, as BS.1770 sums them. */
function loudnessOf(interleaved: Float32Array): number | undefined {
	const energies: number[] = [];
	const meter = createMeter(2, plainFftProvider(), (records) => {
		const [left, right] = [readingAt(records, 0), readingAt(records, RECORD_BYTES)];
		for (let i = 0; i < ENERGIES_A_SECOND; i++) energies.push(left.energies[i]! + right.energies[i]!);
	});
	meter.add(interleaved);
	meter.finish();
	return integratedLoudness(energies);
}

// EBU Tech 3341 (2016), table 1: minimum requirements test signals, stereo tones of 1 kHz; tolerance 0.1 LU.
describe('loudness of the signals of EBU Tech 3341', () => {
	it.each([
		['1', [[20, -23]], -23],
		['2', [[20, -33]], -33],
		[
			'3',
			[
				[10, -36],
				[60, -23],
				[10, -36]
			],
			-23
		],
		[
			'4',
			[
				[10, -72],
				[10, -36],
				[60, -23],
				[10, -36],
				[10, -72]
			],
			-23
		],
		[
			'5',
			[
				[20, -26],
				[20.1, -20],
				[20, -26]
			],
			-23
		]
	] as const)(
		'test case %s',
		(_, stretches, expected) => {
			expect(Math.abs(loudnessOf(tone(stretches))! - expected)).toBeLessThanOrEqual(0.1);
		},
		60_000
	);

	it('says nothing of what is under the absolute gate', () => {
		expect(loudnessOf(tone([[3, -80]]))).toBeUndefined();
	});
});
