import { bandFeatures } from '../../core/features/band-features';
import { sharpSounds, type SharpSound } from '../../core/features/sharp-sounds';
import { type FeatureSpectra, featureSpectra } from '../../core/match/candidates';
import { type Listening, matchPair, type PairMatch } from '../../core/match/match-pair';
import type { FftProvider } from '../../core/signal/fft';
import { fastFftProvider } from './fast-fft';

export type EngineTask =
	| { readonly kind: 'listen'; readonly samples: Float32Array }
	| {
			readonly kind: 'match';
			readonly a: Listening;
			readonly b: Listening;
			readonly keyA: string;
			readonly keyB: string;
	  };

export interface Listened {
	readonly listening: Listening;
	readonly sharpSounds: readonly SharpSound[];
}

/** Spectra are worth keeping: each clip meets many others at the same size. Bytes a worker may hold. */
const MOST_SPECTRA_BYTES = 768 * 2 ** 20;

let provider: Promise<FftProvider> | undefined;
const spectraByKey = new Map<string, FeatureSpectra>();
let spectraBytes = 0;

/** One piece of work of the engine, in a worker thread. Sound and features lie in shared memory. */
export default async function runEngineTask(task: EngineTask): Promise<Listened | PairMatch> {
	provider ??= fastFftProvider();
	const fft = await provider;
	if (task.kind === 'listen') {
		const features = bandFeatures(task.samples, fft);
		const shared = { frames: features.frames, energy: toShared(features.energy), flux: toShared(features.flux) };
		return { listening: { samples: task.samples, features: shared }, sharpSounds: sharpSounds(task.samples) };
	}
	const keys = new Map<Listening, string>([
		[task.a, task.keyA],
		[task.b, task.keyB]
	]);
	return matchPair(task.a, task.b, fft, (listening, size) => spectraOf(keys.get(listening)!, listening, size, fft));
}

function spectraOf(key: string, listening: Listening, size: number, fft: FftProvider): FeatureSpectra {
	const full = `${key} ${size}`;
	let spectra = spectraByKey.get(full);
	if (spectra) {
		spectraByKey.delete(full);
	} else {
		spectra = featureSpectra(listening.features, size, fft);
		spectraBytes += bytesOf(spectra);
	}
	spectraByKey.set(full, spectra);
	// Least recently used first; the two of this pair stay.
	for (const [oldest, one] of spectraByKey) {
		if (spectraBytes <= MOST_SPECTRA_BYTES || spectraByKey.size <= 2) break;
		spectraByKey.delete(oldest);
		spectraBytes -= bytesOf(one);
	}
	return spectra;
}

function bytesOf(spectra: FeatureSpectra): number {
	return spectra.rows.length * spectra.size * 4;
}

function toShared(values: Float32Array): Float32Array {
	const shared = new Float32Array(new SharedArrayBuffer(values.byteLength));
	shared.set(values);
	return shared;
}
