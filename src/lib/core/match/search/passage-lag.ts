import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import { sharpPeak, type WindowCorrelator } from '../windows/window-correlation';

/** A lag at which two sounds agree, and how clearly. */
export interface LagPeak {
	/** Positive when b's sound comes later than it is placed. */
	readonly lagSeconds: number;
	/** Of the correlation, over its root mean square. */
	readonly height: number;
}

/** How two sounds agree at one passage, over a range of lags. */
export interface PassageLag {
	/** Values over lags from -reach to +reach, in steps of an analysis sample, in units of their root mean square. */
	readonly curve: Float32Array;
	readonly reachSeconds: number;
	readonly peak: LagPeak;
	/** The highest of the others. */
	readonly runnerUp: LagPeak;
	/** Whether the peak leaves no doubt. */
	readonly isClear: boolean;
}

/** A passage of two sounds, as the line-up lays them over each other. 16-bit mono at `ANALYSIS_SAMPLE_RATE`. */
export interface LaidPassage {
	readonly a: Int16Array;
	/** Where a's passage begins, in samples, and how far it goes for each sample of b: the clocks' difference. */
	readonly aFrom: number;
	readonly aStep: number;
	readonly b: Int16Array;
	readonly bFrom: number;
	readonly samples: number;
	readonly reachSamples: number;
}

/** Voices and rooms spread a peak over about so much. */
const OWN_SECONDS = 0.002;
/** Chance gives up to 4.7 over some thousand lags; and what repeats gives a second peak nearly as high. */
const CLEAR_HEIGHT = 7;
const CLEAR_LEAD = 1.35;

/** @returns nothing when a side is silent there */
export function passageLag(laid: LaidPassage, correlate: WindowCorrelator): PassageLag | undefined {
	const { reachSamples: reach } = laid;
	const curve = correlate(laid.a, laid.aFrom, laid.aStep, laid.b, laid.bFrom, laid.samples, reach);
	if (!curve) return undefined;
	const best = highest(curve, () => true);
	const own = OWN_SECONDS * ANALYSIS_SAMPLE_RATE;
	const second = highest(curve, (index) => Math.abs(index - best) > own);
	const peak = peakAt(curve, best, reach);
	const runnerUp = peakAt(curve, second, reach);
	return {
		curve,
		reachSeconds: reach / ANALYSIS_SAMPLE_RATE,
		peak,
		runnerUp,
		isClear: peak.height >= CLEAR_HEIGHT && peak.height >= CLEAR_LEAD * runnerUp.height
	};
}

function highest(curve: Float32Array, counts: (index: number) => boolean): number {
	let best = -1;
	for (let i = 0; i < curve.length; i++)
		if (counts(i) && (best < 0 || Math.abs(curve[i]!) > Math.abs(curve[best]!))) best = i;
	return Math.max(0, best);
}

function peakAt(curve: Float32Array, index: number, reach: number): LagPeak {
	const { index: fine, height } = sharpPeak(curve, index, 1);
	return { lagSeconds: (fine - reach) / ANALYSIS_SAMPLE_RATE, height };
}
