import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import { plainFftProvider } from '../../core/signal/fft';
import { fastFftProvider } from './fast-fft';

describe('fast FFT', () => {
	it.each([32, 4096, 131072])('agrees with the plain one at size %i, there and back', async (size) => {
		const fast = (await fastFftProvider())(size);
		const plain = plainFftProvider()(size);
		let state = 7;
		const samples = Float32Array.from({ length: size }, () => {
			state = (state * 1103515245 + 12345) % 2147483648;
			return state / 1073741824 - 1;
		});
		const a = new Float32Array(size);
		const b = new Float32Array(size);
		fast.forward(samples, a);
		plain.forward(samples, b);
		let worst = 0;
		for (let i = 0; i < size; i++) worst = Math.max(worst, Math.abs(a[i]! - b[i]!));
		expect(worst / Math.sqrt(size)).toBeLessThan(1e-5);
		fast.inverse(a, a);
		for (let i = 0; i < size; i += 97) expect(a[i]).toBeCloseTo(samples[i]!, 4);
	});

	it('convolves rows as the plain one does', async () => {
		const size = 4096;
		const random = seededRandom(5);
		const rows = Array.from({ length: 4 }, () => Float32Array.from({ length: size }, () => random() - 0.5));
		const [fast, plain] = [(await fastFftProvider())(size), plainFftProvider()(size)].map((fft) => {
			const spectra = rows.map((row) => {
				const spectrum = new Float32Array(size);
				fft.forward(row, spectrum);
				fft.arrange(spectrum);
				return spectrum;
			});
			const samples = new Float32Array(size);
			fft.convolve(spectra.slice(0, 2), spectra.slice(2), samples);
			return samples;
		});
		// By the definition, at some places.
		for (const place of [0, 1, 77, size - 1]) {
			let sum = 0;
			for (const [x, y] of [
				[rows[0]!, rows[2]!],
				[rows[1]!, rows[3]!]
			] as const)
				for (let i = 0; i < size; i++) sum += x[i]! * y[(place - i + size) % size]!;
			expect(fast![place]).toBeCloseTo(sum, 3);
			expect(plain![place]).toBeCloseTo(sum, 3);
		}
	});
});
