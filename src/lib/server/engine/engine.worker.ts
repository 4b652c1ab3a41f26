import {
	BAND_COUNT,
	bandFeatures,
	type BandFeatures,
	FEATURE_HOP_SAMPLES,
	FEATURE_RATE,
	FEATURE_WINDOW_SAMPLES,
	frameCount
} from '../../core/features/band-features';
import type { SharpSound } from '../../core/features/sharp-sounds';
import { isSilent } from '../../core/features/silence';
import { type Candidate, type Ground, layGround } from '../../core/match/search/coarse-search';
import { findPlaces, type Passage } from '../../core/match/search/find-places';
import type { Span } from '../../core/match/windows/listening-windows';
import type { LagStep } from '../../core/match/loss/lag-step';
import { type LeapCourse, leapCourse } from '../../core/match/loss/leap-course';
import type { Place } from '../../core/match/search/looks';
import { type LaidPassage, type PassageLag, passageLag } from '../../core/match/search/passage-lag';
import { type CommonSound, hearCommon } from '../../core/match/direct/common-sound';
import type { Meeting } from '../../core/match/direct/section-stacks';
import { isWorthMore, pairEvidence, type PairEvidence, skimmedEvidence } from '../../core/match/fit/pair-evidence';
import { repeatedSeconds } from '../../core/match/loss/seam';
import { createWindowCorrelator, type WindowCorrelator } from '../../core/match/windows/window-correlation';
import type { Judgement } from '../../core/master/judge';
import type { MicrophoneLag } from '../../core/measure/microphone-lag';
import type { FftProvider } from '../../core/signal/fft';
import type { SoundFiles } from '../media/sound-inputs';
import { findSharpSounds } from '../media/sharp-sounds-of-file';
import { findSoundTimecode, type SoundTimecode } from '../media/sound-timecode';
import { readWaveStretches } from '../media/wave-sound';
import type { WaveLayout } from '../media/wave-notes';
import { compareMicrophones, type MicrophoneTask } from './compare-microphones';
import { fastFftProvider } from './fast-fft';
import { judgeSources, type JudgeTask } from './judge-sources';

/** Two sounds in shared memory. */
interface TwoSounds {
	readonly a: Int16Array;
	readonly b: Int16Array;
}

export type EngineTask =
	/** Features of some frames, written into shared memory. */
	| {
			readonly kind: 'features';
			readonly samples: Int16Array;
			readonly target: BandFeatures;
			readonly from: number;
			readonly to: number;
	  }
	| {
			readonly kind: 'search';
			readonly ground: BandFeatures;
			readonly groundKey: string;
			readonly source: Int16Array;
			readonly passages: readonly Passage[];
			readonly sourceIsFirst: boolean;
	  }
	| ({ readonly kind: 'glance'; readonly place: Place } & TwoSounds)
	| ({ readonly kind: 'skim'; readonly place: Place } & TwoSounds)
	| ({ readonly kind: 'examine'; readonly place: Place } & TwoSounds)
	| ({ readonly kind: 'common'; readonly meeting: Meeting } & TwoSounds)
	| ({ readonly kind: 'leap'; readonly step: LagStep; readonly bracket: Span } & TwoSounds)
	| ({ readonly kind: 'passage' } & LaidPassage)
	| ({ readonly kind: 'seam' } & TwoSounds)
	/** Stretches of a wave file, in place. */
	| {
			readonly kind: 'wave';
			readonly path: string;
			readonly layout: WaveLayout;
			readonly stretches: readonly Span[];
			readonly channel: number | undefined;
	  }
	/** Timecode as sound, at a file's beginning. */
	| { readonly kind: 'timecode'; readonly files: SoundFiles; readonly channels: number }
	| { readonly kind: 'silence'; readonly samples: Int16Array }
	/** Sharp sounds of a file of 16-bit mono at the engine's rate. */
	| { readonly kind: 'sharp'; readonly path: string }
	/** Who speaks when, and how well each source has them. */
	| ({ readonly kind: 'judge' } & JudgeTask)
	/** How microphones hear somebody against a close one: all of one stretch. */
	| ({ readonly kind: 'microphones' } & MicrophoneTask);

export interface EngineResults {
	readonly features: void;
	readonly search: readonly Candidate[];
	readonly glance: boolean;
	readonly skim: PairEvidence | undefined;
	readonly examine: PairEvidence | undefined;
	readonly common: CommonSound | undefined;
	readonly leap: LeapCourse;
	readonly passage: PassageLag | undefined;
	readonly seam: number | undefined;
	readonly wave: readonly Int16Array[];
	readonly timecode: SoundTimecode | undefined;
	readonly silence: boolean;
	readonly sharp: readonly SharpSound[];
	readonly judge: Judgement;
	readonly microphones: readonly (MicrophoneLag | undefined)[];
}

/** Grounds are worth keeping: each meets many others. Bytes a worker may hold. */
const MAX_GROUND_BYTES = 256 * 2 ** 20;

interface Tools {
	readonly fft: FftProvider;
	readonly correlate: WindowCorrelator;
}

/** Got ready while the first files are still looked at. */
const tools: Promise<Tools> = fastFftProvider().then((fft) => ({ fft, correlate: createWindowCorrelator(fft) }));
const grounds = new Map<string, Ground>();
let groundBytes = 0;

/** What came of a piece of work, and how long a thread was at it. */
export interface EngineAnswer {
	readonly result: EngineResults[EngineTask['kind']];
	readonly seconds: number;
}

/** One piece of work of the engine, in a worker thread. Sound and features lie in shared memory. */
export default async function runEngineTask(task: EngineTask): Promise<EngineAnswer> {
	const began = performance.now();
	const result = await done(task);
	return { result, seconds: (performance.now() - began) / 1000 };
}

async function done(task: EngineTask): Promise<EngineResults[EngineTask['kind']]> {
	const { fft, correlate } = await tools;
	switch (task.kind) {
		case 'features':
			return writeFeatures(task.samples, task.target, task.from, task.to, fft);
		case 'search':
			return findPlaces(
				task.source,
				task.passages,
				task.sourceIsFirst,
				(frames) => groundOf(task.groundKey, task.ground, frames, fft),
				fft
			);
		case 'glance':
			return isWorthMore(task.a, task.b, task.place, correlate);
		case 'skim':
			return skimmedEvidence(task.a, task.b, task.place, correlate);
		case 'examine':
			return pairEvidence(task.a, task.b, task.place, correlate);
		case 'common':
			return hearCommon(task.a, task.b, task.meeting, correlate);
		case 'leap':
			return leapCourse({ a: task.a, b: task.b, correlate }, task.step, task.bracket, fft);
		case 'passage':
			return passageLag(task, correlate);
		case 'seam':
			return repeatedSeconds(task.a, task.b, fft, correlate);
		case 'wave':
			return readWaveStretches(task.path, task.layout, task.stretches, task.channel, fft);
		case 'timecode':
			return findSoundTimecode(task.files, task.channels);
		case 'silence':
			return isSilent(task.samples);
		case 'sharp':
			return findSharpSounds(task.path);
		case 'judge':
			return judgeSources(task);
		case 'microphones':
			return compareMicrophones(task, fft);
	}
}

/** Moving means reach half a second to both sides: so much more is looked at than written. */
const MARGIN_FRAMES = FEATURE_RATE;

function writeFeatures(samples: Int16Array, target: BandFeatures, from: number, to: number, fft: FftProvider): void {
	const first = Math.max(0, from - MARGIN_FRAMES);
	const end = Math.min(frameCount(samples.length), to + MARGIN_FRAMES);
	const until = (end - 1) * FEATURE_HOP_SAMPLES + FEATURE_WINDOW_SAMPLES;
	const part = bandFeatures(samples.subarray(first * FEATURE_HOP_SAMPLES, until), fft);
	const bands = part.energy.length / part.frames;
	for (let band = 0; band < bands; band++) {
		const at = band * part.frames + (from - first);
		target.energy.set(part.energy.subarray(at, at + to - from), band * target.frames + from);
		target.flux.set(part.flux.subarray(at, at + to - from), band * target.frames + from);
	}
}

function groundOf(key: string, features: BandFeatures, passageFrames: number, fft: FftProvider): Ground {
	const full = `${key} ${passageFrames}`;
	let ground = grounds.get(full);
	if (ground) {
		grounds.delete(full);
	} else {
		ground = layGround(features, passageFrames, fft);
		groundBytes += bytesOf(ground);
	}
	grounds.set(full, ground);
	// Least recently used first.
	for (const [oldest, one] of grounds) {
		if (groundBytes <= MAX_GROUND_BYTES || grounds.size <= 1) break;
		grounds.delete(oldest);
		groundBytes -= bytesOf(one);
	}
	return ground;
}

function bytesOf({ blocks, size }: Ground): number {
	return blocks.length * 2 * BAND_COUNT * size * 4;
}
