import type { FftProvider, RealFft } from '../../core/signal/fft';

interface Pffft {
	readonly HEAPF32: Float32Array;
	_pffft_new_setup(size: number, transform: number): number;
	_pffft_aligned_malloc(bytes: number): number;
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
		}
	};
}
