import { describe, expect, it } from 'vitest';
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
});
