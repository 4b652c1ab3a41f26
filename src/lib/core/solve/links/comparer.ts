import { ANALYSIS_SAMPLE_RATE, bandFeatures, type BandFeatures } from '../../features/band-features';
import { isSilent } from '../../features/silence';
import { type Candidate, type Ground, layGround } from '../../match/search/coarse-search';
import { findPlaces, passagesOf } from '../../match/search/find-places';
import type { LagStep } from '../../match/loss/lag-step';
import { type LeapCourse, leapCourse } from '../../match/loss/leap-course';
import type { Span } from '../../match/windows/listening-windows';
import type { Place } from '../../match/search/looks';
import { type CommonSound, hearCommon } from '../../match/direct/common-sound';
import type { Meeting } from '../../match/direct/section-stacks';
import { pairEvidence, type PairEvidence, skimmedEvidence } from '../../match/fit/pair-evidence';
import { repeatedSeconds } from '../../match/loss/seam';
import { createWindowCorrelator } from '../../match/windows/window-correlation';
import type { FftProvider } from '../../signal/fft';

/** A sound that can be compared: a clip's mix of all channels, or one of its channels. */
export interface Sound {
	readonly clip: number;
	/** The mix, if not given. */
	readonly channel?: number;
}

/** What the engine asks of whoever holds the sound. Times are seconds from the sounds' first samples. */
export interface Comparer {
	/** Coarse lags of b against a. @param thorough all of the shorter one is looked for, not some passages */
	search(a: Sound, b: Sound, thorough: boolean): Promise<readonly Candidate[]>;
	/** A close look at one place. */
	examine(a: Sound, b: Sound, place: Place): Promise<PairEvidence | undefined>;
	/** What all that both heard has in common, where a solution says that they meet. */
	hearCommon(a: Sound, b: Sound, meeting: Meeting): Promise<CommonSound | undefined>;
	/** What speaks for a leap of the lag at each moment of a bracket of a's time; nothing for a sound that cannot be read. */
	leapCourse(a: Sound, b: Sound, step: LagStep, bracket: Span): Promise<LeapCourse | undefined>;
	/** How much of a's end is heard again at b's beginning, in seconds; nothing where nothing is. */
	repeated(a: Sound, b: Sound): Promise<number | undefined>;
	isSilent(sound: Sound): Promise<boolean>;
}

/**
 * Which of two sounds is the ground in which the other's passages are looked for: the first one, for it has met others
 * already, unless it is much shorter.
 */
export function groundOfTwo(samplesA: number, samplesB: number): 'a' | 'b' {
	return 2 * samplesA >= samplesB ? 'a' : 'b';
}

/** Compares in this thread, with all sound at hand: the plain path of tests and of anybody who reads. */
export function plainComparer(sounds: (sound: Sound) => Int16Array, provider: FftProvider): Comparer {
	const correlate = createWindowCorrelator(provider);
	const features = new Map<Int16Array, BandFeatures>();
	const grounds = new Map<string, Ground>();
	const groundOf = (sound: Sound, passageFrames: number): Ground => {
		const key = `${sound.clip} ${sound.channel ?? ''} ${passageFrames}`;
		const samples = sounds(sound);
		let own = features.get(samples);
		if (!own) features.set(samples, (own = bandFeatures(samples, provider)));
		let ground = grounds.get(key);
		if (!ground) grounds.set(key, (ground = layGround(own, passageFrames, provider)));
		return ground;
	};
	return {
		search: (a, b, thorough) => {
			const [soundA, soundB] = [sounds(a), sounds(b)];
			const ground = groundOfTwo(soundA.length, soundB.length) === 'a' ? a : b;
			const source = ground === a ? soundB : soundA;
			const passages = passagesOf(source.length / ANALYSIS_SAMPLE_RATE, thorough);
			return Promise.resolve(
				findPlaces(source, passages, ground === b, (frames) => groundOf(ground, frames), provider)
			);
		},
		examine: (a, b, place) => {
			const [soundA, soundB] = [sounds(a), sounds(b)];
			const skimmed = skimmedEvidence(soundA, soundB, place, correlate);
			return Promise.resolve(skimmed ?? pairEvidence(soundA, soundB, place, correlate));
		},
		hearCommon: (a, b, meeting) => Promise.resolve(hearCommon(sounds(a), sounds(b), meeting, correlate)),
		leapCourse: (a, b, step, bracket) =>
			Promise.resolve(leapCourse({ a: sounds(a), b: sounds(b), correlate }, step, bracket, provider)),
		repeated: (a, b) => Promise.resolve(repeatedSeconds(sounds(a), sounds(b), provider, correlate)),
		isSilent: (sound) => Promise.resolve(isSilent(sounds(sound)))
	};
}
