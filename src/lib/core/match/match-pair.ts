import type { BandFeatures } from '../features/band-features';
import type { FftProvider } from '../signal/fft';
import { candidateFftSize, candidateLags, type FeatureSpectra, featureSpectra } from './candidates';
import { type PairEvidence, pairEvidence } from './pair-evidence';

/** A clip's sound as the engine compares it. */
export interface Listening {
	readonly samples: Float32Array;
	readonly features: BandFeatures;
}

export type PairMatch =
	| { readonly kind: 'evidence'; readonly evidence: PairEvidence }
	/** Two or more places fit about equally well. */
	| { readonly kind: 'ambiguous'; readonly places: readonly PairEvidence[] }
	| { readonly kind: 'none' };

/** Candidates below this height are never right, over hundreds of simulated pairs (engine notes: false ones reach 7.5). */
const LEAST_CANDIDATE_HEIGHT = 4;
/** Nor are those far below the best one: a true place towers over chance, and a rival of it would as well. */
const LEAST_SHARE_OF_BEST = 0.35;
/** A second place is a rival when it has this share of the best one's evidence. */
const RIVAL_SHARE = 0.7;

/** Gives a clip's spectra at a size; a cache may stand behind it. */
export type SpectraSource = (listening: Listening, size: number) => FeatureSpectra;

/** Compares two clips: coarse lags first, each then looked at closely. */
export function matchPair(
	a: Listening,
	b: Listening,
	provider: FftProvider,
	spectra: SpectraSource = (one, size) => featureSpectra(one.features, size, provider)
): PairMatch {
	if (a.features.frames < 40 || b.features.frames < 40) return { kind: 'none' };
	const size = candidateFftSize(a.features.frames, b.features.frames);
	const candidates = candidateLags(spectra(a, size), spectra(b, size), provider);
	const found: PairEvidence[] = [];
	for (const candidate of candidates) {
		if (candidate.height < Math.max(LEAST_CANDIDATE_HEIGHT, LEAST_SHARE_OF_BEST * candidates[0]!.height)) continue;
		const evidence = pairEvidence(a.samples, b.samples, candidate.lagSeconds, provider);
		if (evidence && !found.some((one) => samePlace(one, evidence))) found.push(evidence);
	}
	found.sort((x, y) => worth(y) - worth(x));
	const [best, ...others] = found;
	if (!best) return { kind: 'none' };
	const rivals = others.filter((one) => worth(one) > RIVAL_SHARE * worth(best));
	return rivals.length > 0 ? { kind: 'ambiguous', places: [best, ...rivals] } : { kind: 'evidence', evidence: best };
}

function samePlace(a: PairEvidence, b: PairEvidence): boolean {
	return Math.abs(a.lagSeconds - b.lagSeconds) < 0.15;
}

/** Agreement over the whole overlap counts, not one strong window. */
function worth(evidence: PairEvidence): number {
	return evidence.strength * Math.sqrt(evidence.inliers) * (evidence.inliers / evidence.windows);
}
