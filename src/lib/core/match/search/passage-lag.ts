import { AGREEING_SHARE, CLEAR_CONFIDENCE, STEADY_RANGE_DB } from '../../limits/match';
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
	/** Share of the passage's parts in which the peak stands as well. */
	readonly agreement: number;
	/** How often a peak like this one is right, 0 to 1. */
	readonly confidence: number;
	/** Nothing but steady noise on both sides: its lag tells where the noise comes from, not whether voices are in sync. */
	readonly isSteady: boolean;
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
/** The passage is also looked at in so many parts. */
const PARTS = 4;
/**
 * How often a peak is right, by its height, its lead over the runner-up and the share of parts that agree: a logistic fit to
 * 1 660 passages of 0.2 to 5 s from eleven kinds of simulated shoots, live rooms among them, where an echo may stand highest
 * (`tests/bench/passages.ts`, seeds 3 to 6). On 1 617 of seeds held back (20 003 to 20 006): of those stated at 0.95 and more
 * 512 of 512 were right; with the fit of before, which knew no live rooms, 632 of 643.
 */
const CONFIDENCE_FIT = { constant: -7.29, height: 3.14, lead: 5.24, agreement: 1.5 } as const;
const LEVEL_SAMPLES = 0.025 * ANALYSIS_SAMPLE_RATE;

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
	const agreement = agreementOf(laid, best - reach, correlate);
	const confidence = confidenceOf(peak.height, peak.height / Math.max(1e-6, runnerUp.height), agreement);
	const isSteady =
		isSteadyNoise(laid.a, Math.round(laid.aFrom), laid.samples) && isSteadyNoise(laid.b, laid.bFrom, laid.samples);
	return {
		curve,
		reachSeconds: reach / ANALYSIS_SAMPLE_RATE,
		peak,
		runnerUp,
		agreement,
		confidence,
		isSteady,
		isClear: confidence >= CLEAR_CONFIDENCE && !isSteady
	};
}

function confidenceOf(height: number, lead: number, agreement: number): number {
	const fit = CONFIDENCE_FIT;
	const evidence = fit.constant + fit.height * Math.log(height) + fit.lead * Math.log(lead) + fit.agreement * agreement;
	return 1 / (1 + Math.exp(-evidence));
}

/** Whether a passage's level hardly changes: the noise of a room comes from one place in it, which nobody listens to. */
function isSteadyNoise(sound: Int16Array, from: number, samples: number): boolean {
	const levels: number[] = [];
	for (let at = from; at + LEVEL_SAMPLES <= Math.min(sound.length, from + samples); at += LEVEL_SAMPLES) {
		let power = 1;
		for (let i = at; i < at + LEVEL_SAMPLES; i++) power += sound[i]! * sound[i]!;
		levels.push(10 * Math.log10(power / LEVEL_SAMPLES));
	}
	levels.sort((x, y) => x - y);
	const quantile = (share: number) => levels[Math.round(share * (levels.length - 1))] ?? 0;
	return quantile(0.95) - quantile(0.1) < STEADY_RANGE_DB;
}

/** In how many parts of the passage the lag's own peak stands above chance. */
function agreementOf(laid: LaidPassage, lag: number, correlate: WindowCorrelator): number {
	const length = Math.floor(laid.samples / PARTS);
	const own = Math.round(OWN_SECONDS * ANALYSIS_SAMPLE_RATE);
	let agreeing = 0;
	for (let part = 0; part < PARTS; part++) {
		const from = part * length;
		const curve = correlate(
			laid.a,
			laid.aFrom + from * laid.aStep,
			laid.aStep,
			laid.b,
			laid.bFrom + from,
			length,
			laid.reachSamples
		);
		if (!curve) continue;
		const at = lag + laid.reachSamples;
		let near = 0;
		for (let i = Math.max(0, at - own); i <= Math.min(curve.length - 1, at + own); i++)
			near = Math.max(near, Math.abs(curve[i]!));
		const best = highest(curve, () => true);
		if (near >= AGREEING_SHARE * Math.abs(curve[best]!)) agreeing++;
	}
	return agreeing / PARTS;
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
