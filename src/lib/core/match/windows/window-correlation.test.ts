import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../../demo/random';
import { plainFftProvider } from '../../signal/fft';
import { toAnalysisSound } from '../../features/band-features';
import { createWindowCorrelator, sharpPeak } from './window-correlation';

const correlate = createWindowCorrelator(plainFftProvider());

function noise(length: number, seed: number): Int16Array {
	const random = seededRandom(seed);
	return toAnalysisSound(Float32Array.from({ length }, () => 0.5 * (random() + random() + random() - 1.5)));
}

describe('whitened correlation of a passage', () => {
	it('finds a delay of whole samples exactly', () => {
		const a = noise(40_000, 1);
		const b = new Int16Array(40_000);
		b.set(a.subarray(0, 35_200), 4_800);
		const row = correlate(a, 8_000, 1, b, 8_000 + 4_700, 16_000, 800)!;
		expect(sharpPeak(row, 800, 800).index - 800).toBeCloseTo(100, 1);
	});

	it('hears a reversed polarity as the same place', () => {
		const a = noise(30_000, 2);
		const row = correlate(
			a,
			8_000,
			1,
			a.map((x) => -x),
			8_037,
			12_000,
			400
		)!;
		expect(sharpPeak(row, 400, 400).index - 400).toBeCloseTo(-37, 1);
	});

	it('finds fractions of a sample', () => {
		// A sum of sines, 12.3 samples later by construction; 0.05 of a sample are 6 microseconds.
		const random = seededRandom(3);
		const partials = Array.from({ length: 400 }, () => ({ hz: 150 + 3_000 * random(), phase: 6.283 * random() }));
		const at = (shift: number) =>
			toAnalysisSound(
				Float32Array.from({ length: 24_000 }, (_, i) =>
					partials.reduce(
						(sum, { hz, phase }) => sum + 0.01 * Math.sin((2 * Math.PI * hz * (i - shift)) / 8_000 + phase),
						0
					)
				)
			);
		const row = correlate(at(0), 4_000, 1, at(12.3), 4_000, 16_000, 200)!;
		expect(Math.abs(sharpPeak(row, 200, 200).index - 200 - 12.3)).toBeLessThan(0.05);
	});

	it('takes a known difference of clocks out', () => {
		const a = noise(80_000, 4);
		const row = correlate(a, 30_000, 1.00008, a, 30_000, 100, 50);
		expect(row).toHaveLength(101);
		const silent = correlate(a, 0, 1, new Int16Array(80_000), 0, 8_000, 100);
		expect(silent).toBeUndefined();
	});
});
