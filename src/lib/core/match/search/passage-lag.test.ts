import { describe, expect, it } from 'vitest';
import { lookAtPassages } from '../../../../../tests/bench/passages';
import { IS_LONG } from '../../../../../tests/support/long-checks';
import { plainFftProvider } from '../../signal/fft';
import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import { passageLag } from './passage-lag';
import { createWindowCorrelator } from '../windows/window-correlation';

const correlate = createWindowCorrelator(plainFftProvider());

/** White noise from a seeded generator (Park and Miller 1988: 16807, 2^31 - 1). */
function noise(samples: number, seed: number): Int16Array {
	let state = seed;
	return Int16Array.from({ length: samples }, () => {
		state = (state * 16807) % 2147483647;
		return (state / 2147483647 - 0.5) * 12_000;
	});
}

const SECONDS = 4;
/** Louder and softer four times a second, as speech is. */
const talking = (sound: Int16Array) =>
	sound.map((value, i) => value * (0.05 + Math.abs(Math.sin((Math.PI * 4 * i) / ANALYSIS_SAMPLE_RATE))));
const laid = (a: Int16Array, b: Int16Array) => ({
	a,
	aFrom: 1000,
	aStep: 1,
	b,
	bFrom: 1000,
	samples: SECONDS * ANALYSIS_SAMPLE_RATE - 2000,
	reachSamples: 800
});

describe('the lag at one passage', () => {
	it('finds a delay of 37 samples, which are 4.625 ms at 8 kHz, and leaves no doubt', () => {
		const sound = noise(SECONDS * ANALYSIS_SAMPLE_RATE, 7);
		const later = new Int16Array(sound.length);
		later.set(sound.subarray(0, sound.length - 37), 37);
		const found = passageLag(laid(talking(sound), talking(later)), correlate)!;
		expect(found.peak.lagSeconds).toBeCloseTo(37 / 8000, 5);
		expect(found.curve).toHaveLength(1601);
		expect(found.isClear).toBe(true);
		expect(found.runnerUp.height).toBeLessThan(found.peak.height / 3);
	});

	it('takes steady noise that both hear for what it is, however high its peak', () => {
		const sound = noise(SECONDS * ANALYSIS_SAMPLE_RATE, 7);
		const found = passageLag(laid(sound, sound), correlate)!;
		expect(found.isSteady).toBe(true);
		expect(found.confidence).toBeGreaterThan(0.99);
		expect(found.isClear).toBe(false);
	});

	it('is as sure as it is right: calibrated on passages nobody tuned on', async () => {
		const looked = await lookAtPassages(31_000, 1, IS_LONG ? 110 : 60, [
			'podcast',
			'scratch at −10 dB against babble',
			'another day'
		]);
		const sure = looked.filter((one) => one.confidence >= 0.95);
		expect(sure.length).toBeGreaterThan(IS_LONG ? 100 : 50);
		expect(sure.filter((one) => one.isRight).length / sure.length).toBeGreaterThan(0.97);
		const unsure = looked.filter((one) => one.confidence < 0.5);
		expect(unsure.filter((one) => one.isRight).length / unsure.length).toBeLessThan(0.4);
	});

	it('doubts between two places of the same sound', () => {
		const sound = noise(SECONDS * ANALYSIS_SAMPLE_RATE, 11);
		const twice = Int16Array.from(sound, (value, i) => (value + (sound[i - 300] ?? 0)) / 2);
		const found = passageLag(laid(sound, twice), correlate)!;
		const lags = [found.peak.lagSeconds, found.runnerUp.lagSeconds].sort((x, y) => x - y);
		expect(lags[0]).toBeCloseTo(0, 4);
		expect(lags[1]).toBeCloseTo(300 / 8000, 4);
		expect(found.isClear).toBe(false);
	});

	it('is not clear where the sounds have nothing in common, and is nothing in silence', () => {
		const samples = SECONDS * ANALYSIS_SAMPLE_RATE;
		expect(passageLag(laid(noise(samples, 3), noise(samples, 1_234_567_891)), correlate)!.isClear).toBe(false);
		expect(passageLag(laid(noise(samples, 3), new Int16Array(samples)), correlate)).toBeUndefined();
	});
});
