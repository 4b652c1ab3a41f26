/**
 * A real discrete Fourier transform of one size.
 *
 * Spectra are packed in `size` numbers: bin 0 (real), bin size/2 (real), then real and imaginary
 * part of bins 1 … size/2 - 1.
 */
export interface RealFft {
	/** Number of real samples, a power of two, at least 32. */
	readonly size: number;
	/** Spectrum of `samples` (length `size`) into `spectrum` (length `size`); both may be the same array. */
	forward(samples: Float32Array, spectrum: Float32Array): void;
	/** Samples of `spectrum`, scaled so that it undoes `forward`; both may be the same array. */
	inverse(spectrum: Float32Array, samples: Float32Array): void;
	/** Brings a spectrum, in place, into the order of bins that `convolve` works in: the transform's own. */
	arrange(spectrum: Float32Array): void;
	/** Samples of the sum, row by row, of products of arranged spectra: several convolutions, added up. */
	convolve(x: readonly Float32Array[], y: readonly Float32Array[], samples: Float32Array): void;
}

/** Gives the transform of a size; sizes are powers of two from 32 up. */
export type FftProvider = (size: number) => RealFft;

/** The least power of two that is at least `length`, and at least 32. */
export function fftSizeFor(length: number): number {
	let size = 32;
	while (size < length) size *= 2;
	return size;
}

/**
 * A provider in plain TypeScript: the fallback where no faster one is at hand, and the oracle of the tests.
 * Transforms are kept by size.
 */
export function plainFftProvider(): FftProvider {
	const bySize = new Map<number, RealFft>();
	return (size) => {
		let fft = bySize.get(size);
		if (!fft) {
			fft = createPlainFft(size);
			bySize.set(size, fft);
		}
		return fft;
	};
}

/**
 * Real transform by one complex transform of half the size (radix 2, decimation in time).
 * Source: Cooley and Tukey 1965; the packing of reals is textbook practice.
 * @throws RangeError size is not a power of two of at least 32
 */
export function createPlainFft(size: number): RealFft {
	if (size < 32 || (size & (size - 1)) !== 0) {
		throw new RangeError(`An FFT size must be a power of two of at least 32, not ${size}.`);
	}
	const half = size / 2;
	const re = new Float64Array(half);
	const im = new Float64Array(half);
	const cosine = new Float64Array(half);
	const sine = new Float64Array(half);
	for (let i = 0; i < half; i++) {
		cosine[i] = Math.cos((-2 * Math.PI * i) / size);
		sine[i] = Math.sin((-2 * Math.PI * i) / size);
	}
	const reversed = bitReversal(half);

	function complexTransform(): void {
		for (let i = 0; i < half; i++) {
			const j = reversed[i]!;
			if (j > i) {
				const r = re[i]!;
				re[i] = re[j]!;
				re[j] = r;
				const m = im[i]!;
				im[i] = im[j]!;
				im[j] = m;
			}
		}
		for (let span = 1; span < half; span *= 2) {
			const stride = half / span;
			for (let start = 0; start < half; start += 2 * span) {
				for (let k = 0; k < span; k++) {
					const wr = cosine[k * stride]!;
					const wi = sine[k * stride]!;
					const a = start + k;
					const b = a + span;
					const tr = re[b]! * wr - im[b]! * wi;
					const ti = re[b]! * wi + im[b]! * wr;
					re[b] = re[a]! - tr;
					im[b] = im[a]! - ti;
					re[a] = re[a]! + tr;
					im[a] = im[a]! + ti;
				}
			}
		}
	}

	const fft: RealFft = {
		size,
		forward(samples, spectrum) {
			for (let i = 0; i < half; i++) {
				re[i] = samples[2 * i]!;
				im[i] = samples[2 * i + 1]!;
			}
			complexTransform();
			spectrum[0] = re[0]! + im[0]!;
			spectrum[1] = re[0]! - im[0]!;
			for (let k = 1; k < half; k++) {
				const m = half - k;
				const evenRe = (re[k]! + re[m]!) / 2;
				const evenIm = (im[k]! - im[m]!) / 2;
				const oddRe = (im[k]! + im[m]!) / 2;
				const oddIm = (re[m]! - re[k]!) / 2;
				spectrum[2 * k] = evenRe + oddRe * cosine[k]! - oddIm * sine[k]!;
				spectrum[2 * k + 1] = evenIm + oddRe * sine[k]! + oddIm * cosine[k]!;
			}
		},
		inverse(spectrum, samples) {
			// The conjugate of the forward transform of the conjugate.
			re[0] = (spectrum[0]! + spectrum[1]!) / 2;
			im[0] = -(spectrum[0]! - spectrum[1]!) / 2;
			for (let k = 1; k < half; k++) {
				const m = half - k;
				const ar = spectrum[2 * k]!;
				const ai = spectrum[2 * k + 1]!;
				const br = spectrum[2 * m]!;
				const bi = -spectrum[2 * m + 1]!;
				const evenRe = (ar + br) / 2;
				const evenIm = (ai + bi) / 2;
				const diffRe = (ar - br) / 2;
				const diffIm = (ai - bi) / 2;
				// Multiply by the conjugate twiddle to get the odd part back.
				const oddRe = diffRe * cosine[k]! + diffIm * sine[k]!;
				const oddIm = diffIm * cosine[k]! - diffRe * sine[k]!;
				re[k] = evenRe - oddIm;
				im[k] = -(evenIm + oddRe);
			}
			complexTransform();
			for (let i = 0; i < half; i++) {
				samples[2 * i] = re[i]! / half;
				samples[2 * i + 1] = -im[i]! / half;
			}
		},
		arrange() {
			// Products are taken in the order of bins.
		},
		convolve(x, y, samples) {
			samples.fill(0);
			for (const [index, row] of x.entries()) addProduct(samples, row, y[index]!);
			fft.inverse(samples, samples);
		}
	};
	return fft;
}

/** Adds the product of two packed spectra. */
function addProduct(sum: Float32Array, x: Float32Array, y: Float32Array): void {
	sum[0] = sum[0]! + x[0]! * y[0]!;
	sum[1] = sum[1]! + x[1]! * y[1]!;
	for (let i = 2; i < sum.length; i += 2) {
		const xr = x[i]!;
		const xi = x[i + 1]!;
		const yr = y[i]!;
		const yi = y[i + 1]!;
		sum[i] = sum[i]! + xr * yr - xi * yi;
		sum[i + 1] = sum[i + 1]! + xr * yi + xi * yr;
	}
}

function bitReversal(length: number): Uint32Array {
	const reversed = new Uint32Array(length);
	const bits = Math.log2(length);
	for (let i = 0; i < length; i++) {
		reversed[i] = (reversed[i >> 1]! >> 1) | ((i & 1) << (bits - 1));
	}
	return reversed;
}
