import { ANALYSIS_SAMPLE_RATE, bandFeatures } from '../features/band-features';
import { type Listening, matchPair, type PairMatch, type SpectraSource } from '../match/match-pair';
import type { FftProvider } from '../signal/fft';
import { type LinkedPair, type LineUp, type SolvableClip, solveLineUps, type StrayReason } from './line-ups';

/** A clip as the engine takes it: what is known of it, and its sound if it has any. */
export interface AlignableClip extends SolvableClip {
	/** Mono at `ANALYSIS_SAMPLE_RATE`, in [-1, 1]. */
	readonly samples?: Float32Array;
	/** Media time of the first sample; later than 0 where the picture starts before the sound. */
	readonly soundStartSeconds: number;
}

export interface Stray {
	readonly clipId: string;
	readonly reason: StrayReason;
	/** For an ambiguous clip: how many places it could have against its best partner. */
	readonly places?: number;
}

export interface Alignment {
	readonly lineUps: readonly LineUp[];
	readonly strays: readonly Stray[];
}

/** Two clips to be compared, by their place in the list. */
export type PairTask = readonly [a: number, b: number];

/** Shorter sound than this can be anywhere. */
const SHORTEST_SECONDS = 1.2;
/** Root mean square of the loudest second that still counts as silence: -72 dB of full scale. */
const SILENCE = 2.5e-4;

/** Why a clip cannot even be compared; nothing when it can. */
export function cannotCompare(clip: AlignableClip): StrayReason | undefined {
	if (!clip.samples) return 'no sound stream';
	if (clip.samples.length < SHORTEST_SECONDS * ANALYSIS_SAMPLE_RATE) return 'too short to tell';
	return isSilent(clip.samples) ? 'silent' : undefined;
}

function isSilent(samples: Float32Array): boolean {
	const block = ANALYSIS_SAMPLE_RATE / 2;
	for (let from = 0; from < samples.length; from += block) {
		const to = Math.min(samples.length, from + block);
		let power = 0;
		let mean = 0;
		for (let i = from; i < to; i++) {
			power += samples[i]! * samples[i]!;
			mean += samples[i]!;
		}
		const n = to - from;
		if (power / n - (mean / n) ** 2 > SILENCE * SILENCE) return false;
	}
	return true;
}

/** All pairs of different devices: one device cannot record two clips at once. */
export function pairTasks(clips: readonly AlignableClip[]): readonly PairTask[] {
	const usable = clips.map((clip) => cannotCompare(clip) === undefined);
	const tasks: [number, number][] = [];
	for (let a = 0; a < clips.length; a++) {
		for (let b = a + 1; b < clips.length; b++) {
			if (usable[a] && usable[b] && clips[a]!.device !== clips[b]!.device) tasks.push([a, b]);
		}
	}
	return tasks;
}

/** Makes placements and strays from what the comparisons gave. @param matches one for each of `pairTasks(clips)` */
export function conclude(
	clips: readonly AlignableClip[],
	tasks: readonly PairTask[],
	matches: readonly PairMatch[],
	reference?: string
): Alignment {
	const pairs: LinkedPair[] = [];
	const ambiguous = new Map<string, number>();
	for (const [index, [a, b]] of tasks.entries()) {
		const match = matches[index]!;
		const [clipA, clipB] = [clips[a]!, clips[b]!];
		if (match.kind === 'evidence')
			pairs.push({ a: clipA.id, b: clipB.id, evidence: inMediaTime(match.evidence, clipA, clipB) });
		if (match.kind === 'ambiguous') {
			for (const clip of [clipA, clipB])
				ambiguous.set(clip.id, Math.max(match.places.length, ambiguous.get(clip.id) ?? 0));
		}
	}
	const comparable = clips.filter((clip) => cannotCompare(clip) === undefined);
	const solution = solveLineUps(comparable, pairs, reference);
	const strays: Stray[] = clips.flatMap((clip) => {
		const reason = cannotCompare(clip) ?? solution.strays.get(clip.id);
		if (!reason) return [];
		const places = ambiguous.get(clip.id);
		return [
			reason === 'no common sound with anything' && places
				? { clipId: clip.id, reason: 'ambiguous' as const, places }
				: { clipId: clip.id, reason }
		];
	});
	return { lineUps: solution.lineUps, strays };
}

type Evidence = LinkedPair['evidence'];

function inMediaTime(evidence: Evidence, a: AlignableClip, b: AlignableClip): Evidence {
	return {
		...evidence,
		lagSeconds: evidence.lagSeconds + a.soundStartSeconds - b.soundStartSeconds,
		moments: evidence.moments.map((moment) => ({
			aSeconds: moment.aSeconds + a.soundStartSeconds,
			bSeconds: moment.bSeconds + b.soundStartSeconds,
			weight: moment.weight
		}))
	};
}

/** What a clip's sound needs before it can be compared. */
export function listen(samples: Float32Array, provider: FftProvider): Listening {
	return { samples, features: bandFeatures(samples, provider) };
}

/** The whole line-up in one thread: the plain path of tests and of anybody who reads. */
export function align(
	clips: readonly AlignableClip[],
	provider: FftProvider,
	reference?: string,
	spectra?: SpectraSource
): Alignment {
	const tasks = pairTasks(clips);
	const listening = new Map<number, Listening>();
	const listeningOf = (index: number): Listening => {
		let one = listening.get(index);
		if (!one) {
			one = listen(clips[index]!.samples!, provider);
			listening.set(index, one);
		}
		return one;
	};
	const matches = tasks.map(([a, b]) => matchPair(listeningOf(a), listeningOf(b), provider, spectra));
	return conclude(clips, tasks, matches, reference);
}
