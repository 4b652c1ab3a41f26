import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import { plainFftProvider } from '../signal/fft';
import { sharpPeak, windowCorrelation } from './window-correlation';

const provider = plainFftProvider();

function noise(length: number, seed: number): Float32Array {
	const random = seededRandom(seed);
	return Float32Array.from({ length }, () => random() + random() + random() - 1.5);
}

describe('whitened correlation of a passage', () => {
	it('finds a delay of whole samples exactly', () => {
		const a = noise(40_000, 1);
		const b = new Float32Array(40_000);
		b.set(a.subarray(0, 35_200), 4_800);
		const row = windowCorrelation(a, 8_000, 1, b, 8_000 + 4_700, 16_000, 800, provider)!;
		expect(sharpPeak(row, 800, 800).index - 800).toBeCloseTo(100, 1);
	});

	it('hears a reversed polarity as the same place', () => {
		const a = noise(30_000, 2);
		const row = windowCorrelation(
			a,
			8_000,
			1,
			a.map((x) => -x),
			8_037,
			12_000,
			400,
			provider
		)!;
		expect(sharpPeak(row, 400, 400).index - 400).toBeCloseTo(-37, 1);
	});

	it('finds fractions of a sample', () => {
		// A sum of sines, 12.3 samples later by construction; 0.05 of a sample are 6 microseconds.
		const random = seededRandom(3);
		const partials = Array.from({ length: 400 }, () => ({ hz: 150 + 3_000 * random(), phase: 6.283 * random() }));
		const at = (shift: number) =>
			Float32Array.from({ length: 24_000 }, (_, i) =>
				partials.reduce((sum, { hz, phase }) => sum + Math.sin((2 * Math.PI * hz * (i - shift)) / 8_000 + phase), 0)
			);
		const row = windowCorrelation(at(0), 4_000, 1, at(12.3), 4_000, 16_000, 200, provider)!;
		expect(Math.abs(sharpPeak(row, 200, 200).index - 200 - 12.3)).toBeLessThan(0.05);
	});

	it('takes a known difference of clocks out', () => {
		const a = noise(80_000, 4);
		const row = windowCorrelation(a, 30_000, 1.00008, a, 30_000, 100, 50, provider);
		expect(row).toHaveLength(101);
		const silent = windowCorrelation(a, 0, 1, new Float32Array(80_000), 0, 8_000, 100, provider);
		expect(silent).toBeUndefined();
	});
});
