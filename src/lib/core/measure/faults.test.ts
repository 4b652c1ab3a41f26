import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import { plainFftProvider } from '../signal/fft';
import { type ChannelReadings, createReadingsCollector } from './channel-readings';
import { clipping } from './clipping';
import { dropOuts } from './drop-outs';
import { createMeter } from './meter';
import { FRAMES_A_SECOND, READINGS_RATE, readingAt } from './readings';
import { measureSound } from './sound-measures';
import { steadyHum } from './steady-hum';
import { upperEdgeHz } from './upper-edge';

const SECONDS = 12;
const provider = plainFftProvider();

function measured(samples: Float32Array) {
	const collector = createReadingsCollector(SECONDS * FRAMES_A_SECOND, SECONDS);
	let second = 0;
	const meter = createMeter(1, provider, (records) => {
		collector.add(readingAt(records, 0), second * FRAMES_A_SECOND, (second + 1) * FRAMES_A_SECOND);
		second++;
	});
	meter.add(samples);
	meter.finish();
	return collector.finish();
}

const readingsOf = (samples: Float32Array): ChannelReadings => measured(samples).readings;

/** Bursts of harmonics of a low voice over a little noise: what is loud is never twice as loud. */
function voiceLike(level = 0.5): Float32Array {
	const random = seededRandom(5);
	const out = new Float32Array(SECONDS * READINGS_RATE);
	let loudness = 0;
	for (let i = 0; i < out.length; i++) {
		if (i % 9600 === 0) loudness = random() < 0.3 ? 0 : level * (0.2 + 0.8 * random());
		const phase = (2 * Math.PI * 130 * i) / READINGS_RATE;
		let value = 0;
		for (let harmonic = 1; harmonic < 20; harmonic++) value += Math.cos(harmonic * phase) / 20;
		out[i] = loudness * value * Math.sin((Math.PI * (i % 9600)) / 9600) + 0.001 * (random() - 0.5);
	}
	return out;
}

describe('clipping', () => {
	it('is not found in what was not cut', () => {
		expect(clipping(readingsOf(voiceLike())).share).toBe(0);
	});

	it('is found wherever the ceiling lies, with where it is', () => {
		const cut = voiceLike().map((x) => 0.3 * Math.max(-0.15, Math.min(0.15, x)));
		const { share, passages } = clipping(readingsOf(cut));
		expect(share).toBeGreaterThan(0.05);
		expect(passages[0]!.toFrame).toBeGreaterThan(passages[0]!.fromFrame);
	});

	it('is not what a limiter does, which brings single peaks to one height', () => {
		const limited = voiceLike();
		for (let at = 0; at < limited.length; at += 240) {
			const block = limited.subarray(at, at + 240);
			const peak = block.reduce((greatest, x) => Math.max(greatest, Math.abs(x)), 0);
			if (peak > 0.1) for (let i = 0; i < block.length; i++) block[i] = (block[i]! * 0.1) / peak;
		}
		expect(clipping(readingsOf(limited)).share).toBe(0);
	});
});

describe('drop-outs', () => {
	it('are counted, each in its place', () => {
		const samples = voiceLike();
		for (const at of [2.5, 6.1, 9.3])
			samples.fill(0, Math.round(at * READINGS_RATE), Math.round((at + 0.05) * READINGS_RATE));
		const found = dropOuts(readingsOf(samples));
		expect(found.map((one) => Math.round(one.fromFrame) / 100)).toEqual([2.5, 6.1, 9.3]);
	});

	it('are not the pauses of a gate', () => {
		const samples = voiceLike();
		for (let at = 0; at < samples.length; at += 12_000) samples.fill(0, at, at + 2400);
		expect(dropOuts(readingsOf(samples))).toEqual([]);
	});

	it('are none where nothing is missing', () => {
		expect(dropOuts(readingsOf(voiceLike()))).toEqual([]);
	});
});

describe('hum', () => {
	it('is told from speech by being there in its pauses, with its mains', () => {
		const quiet = steadyHum(readingsOf(voiceLike()));
		expect(quiet?.isHeard ?? false).toBe(false);
		const humming = voiceLike().map((x, i) => x + 0.01 * Math.sin((2 * Math.PI * 120 * i) / READINGS_RATE));
		const found = steadyHum(readingsOf(humming))!;
		expect(found).toMatchObject({ isHeard: true, mainsHz: 60 });
		// A sine of 0.01: -43 dB.
		expect(Math.abs(found.levelDb + 43)).toBeLessThan(1.5);
	});
});

describe('the upper edge', () => {
	it('is where sound was cut off, to a bin', () => {
		const random = seededRandom(9);
		const low = new Float32Array(SECONDS * READINGS_RATE);
		// Noise of 8 kHz rate, each value held by a long sinc's worth of samples: nothing above 4 kHz.
		const step = READINGS_RATE / 8000;
		const coarse = Float32Array.from({ length: Math.ceil(low.length / step) + 64 }, () => 0.2 * (random() - 0.5));
		for (let i = 0; i < low.length; i++) {
			const at = i / step + 32;
			let sum = 0;
			for (let tap = Math.ceil(at) - 24; tap < at + 24; tap++) {
				const x = at - tap;
				const sinc = Math.abs(x) < 1e-9 ? 1 : Math.sin(Math.PI * 0.93 * x) / (Math.PI * x);
				sum += coarse[tap]! * sinc * (0.5 + 0.5 * Math.cos((Math.PI * x) / 24));
			}
			low[i] = sum;
		}
		expect(Math.abs(upperEdgeHz(readingsOf(low))! - 3720)).toBeLessThan(400);
	});

	it('is none in noise of all frequencies', () => {
		const random = seededRandom(3);
		expect(
			upperEdgeHz(readingsOf(Float32Array.from({ length: SECONDS * READINGS_RATE }, () => random() - 0.5)))
		).toBeUndefined();
	});
});

describe('a channel as a whole', () => {
	it('is dead where nothing is heard', () => {
		const { track, readings } = measured(new Float32Array(SECONDS * READINGS_RATE).map(() => 0));
		expect(measureSound(track, readings)).toMatchObject({ isDead: true, dropOuts: [] });
	});

	it('tells loudness, peak and rumble', () => {
		const { track, readings } = measured(voiceLike());
		const sound = measureSound(track, readings);
		expect(sound.isDead).toBe(false);
		expect(sound.loudnessLufs).toBeLessThan(-15);
		expect(sound.truePeakDbtp!).toBeGreaterThan(-10);
		expect(sound.rumbleDb!).toBeLessThan(-50);
	});
});
