import { describe, expect, it } from 'vitest';
import { createPlainFft, fftSizeFor } from './fft';

function naive(samples: Float32Array): Float64Array {
	const n = samples.length;
	const out = new Float64Array(n);
	for (let k = 0; k <= n / 2; k++) {
		let re = 0;
		let im = 0;
		for (let i = 0; i < n; i++) {
			re += samples[i]! * Math.cos((2 * Math.PI * k * i) / n);
			im -= samples[i]! * Math.sin((2 * Math.PI * k * i) / n);
		}
		if (k === 0) out[0] = re;
		else if (k === n / 2) out[1] = re;
		else {
			out[2 * k] = re;
			out[2 * k + 1] = im;
		}
	}
	return out;
}

describe('plain FFT', () => {
	const samples = Float32Array.from({ length: 64 }, (_, i) => Math.sin(i * 0.7) + 0.3 * Math.cos(i * i));

	it('equals the sum it stands for', () => {
		const spectrum = new Float32Array(64);
		createPlainFft(64).forward(samples, spectrum);
		const expected = naive(samples);
		for (let i = 0; i < 64; i++) expect(spectrum[i]).toBeCloseTo(expected[i]!, 4);
	});

	it('is undone by its inverse', () => {
		const fft = createPlainFft(64);
		const work = samples.slice();
		fft.forward(work, work);
		fft.inverse(work, work);
		for (let i = 0; i < 64; i++) expect(work[i]).toBeCloseTo(samples[i]!, 5);
	});

	it('takes powers of two only', () => {
		expect(() => createPlainFft(48)).toThrow(RangeError);
		expect(fftSizeFor(33)).toBe(64);
	});
});
