import type { FftProvider, RealFft } from '../../core/signal/fft';

interface Pffft {
	readonly HEAPF32: Float32Array;
	_pffft_new_setup(size: number, transform: number): number;
	_pffft_aligned_malloc(bytes: number): number;
	_pffft_transform(setup: number, input: number, output: number, work: number, direction: number): void;
	_pffft_zreorder(setup: number, input: number, output: number, direction: number): void;
	_pffft_zconvolve_accumulate(setup: number, x: number, y: number, sum: number, scaling: number): void;
	_pffft_transform_ordered(setup: number, input: number, output: number, work: number, direction: number): void;
}

const REAL = 0;
const FORWARD = 0;
const BACKWARD = 1;

/**
 * Transforms by PFFFT compiled to WebAssembly with SIMD: four to eight times as quick as the plain ones here.
 * Setups are kept for the life of the thread; the largest decides the memory (12 bytes a sample).
 */
export async function fastFftProvider(): Promise<FftProvider> {
	// The package ships no types.
	// @ts-expect-error untyped module
	const { default: create } = (await import('@echogarden/pffft-wasm/simd')) as { default: () => Promise<Pffft> };
	const wasm = await create();
	const bySize = new Map<number, RealFft>();
	return (size) => {
		let fft = bySize.get(size);
		if (!fft) {
			fft = createFastFft(wasm, size);
			bySize.set(size, fft);
		}
		return fft;
	};
}

function createFastFft(wasm: Pffft, size: number): RealFft {
	const setup = wasm._pffft_new_setup(size, REAL);
	if (setup === 0) throw new RangeError(`No FFT of size ${size}.`);
	const buffer = wasm._pffft_aligned_malloc(size * 4);
	const work = wasm._pffft_aligned_malloc(size * 4);
	if (buffer === 0 || work === 0) throw new RangeError(`Not enough memory for an FFT of size ${size}.`);
	const at = buffer / 4;
	// Asked for at the first convolution: only few sizes need them.
	let operands: readonly [number, number] | undefined;
	const takeOperands = (): readonly [number, number] => {
		operands ??= [wasm._pffft_aligned_malloc(size * 4), wasm._pffft_aligned_malloc(size * 4)];
		if (operands.includes(0)) throw new RangeError(`Not enough memory for an FFT of size ${size}.`);
		return operands;
	};
	return {
		size,
		forward(samples, spectrum) {
			// The heap's view is read anew each time: it is replaced when the memory grows.
			wasm.HEAPF32.set(samples, at);
			wasm._pffft_transform_ordered(setup, buffer, buffer, work, FORWARD);
			spectrum.set(wasm.HEAPF32.subarray(at, at + size));
		},
		inverse(spectrum, samples) {
			wasm.HEAPF32.set(spectrum, at);
			wasm._pffft_transform_ordered(setup, buffer, buffer, work, BACKWARD);
			const heap = wasm.HEAPF32;
			const scale = 1 / size;
			for (let i = 0; i < size; i++) samples[i] = heap[at + i]! * scale;
		},
		arrange(spectrum) {
			wasm.HEAPF32.set(spectrum, at);
			wasm._pffft_zreorder(setup, buffer, work, BACKWARD);
			spectrum.set(wasm.HEAPF32.subarray(work / 4, work / 4 + size));
		},
		convolve(x, y, samples) {
			const [one, other] = takeOperands();
			wasm.HEAPF32.fill(0, at, at + size);
			for (const [index, row] of x.entries()) {
				wasm.HEAPF32.set(row, one / 4);
				wasm.HEAPF32.set(y[index]!, other / 4);
				wasm._pffft_zconvolve_accumulate(setup, one, other, buffer, 1 / size);
			}
			wasm._pffft_transform(setup, buffer, buffer, work, BACKWARD);
			samples.set(wasm.HEAPF32.subarray(at, at + size));
		}
	};
}
