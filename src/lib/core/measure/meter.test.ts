import { describe, expect, it } from 'vitest';
import { plainFftProvider } from '../signal/fft';
import { createMeter, type Measured } from './meter';
import {
	BANDS,
	decibelsOf,
	FRAMES_A_SECOND,
	peakDecibelsOf,
	POWER_OF_BYTE,
	READINGS_RATE,
	readingAt,
	RECORD_BYTES
} from './readings';

/** Measures a sound that comes in blocks of odd lengths. @returns copies of all records */
function measure(
	interleaved: Float32Array,
	channels = 1
): { readonly seconds: Uint8Array<ArrayBuffer>[]; readonly measured: Measured } {
	const seconds: Uint8Array<ArrayBuffer>[] = [];
	const meter = createMeter(channels, plainFftProvider(), (records) => seconds.push(records.slice()));
	for (let at = 0, size = 4801 * channels; at < interleaved.length; at += size)
		meter.add(interleaved.subarray(at, Math.min(interleaved.length, at + size)));
	return { seconds, measured: meter.finish() };
}

const sine = (seconds: number, hz: number, amplitude: number) =>
	Float32Array.from(
		{ length: Math.round(seconds * READINGS_RATE) },
		(_, i) => amplitude * Math.sin((2 * Math.PI * hz * i) / READINGS_RATE)
	);

describe('a meter', () => {
	it('gives a record for each second that has begun, and says how much came', () => {
		const { seconds, measured } = measure(sine(2.5, 440, 0.5));
		expect(seconds).toHaveLength(3);
		expect(measured.samples).toBe(120_000);
		expect(measure(sine(2, 440, 0.5)).seconds).toHaveLength(2);
		expect(measure(new Float32Array()).seconds).toHaveLength(0);
	});

	it('keeps the power of a tone in its band, to half a decibel', () => {
		const { seconds } = measure(sine(3, 1000, 0.1));
		const { bands } = readingAt(seconds[1]!, 0);
		for (let frame = 0; frame < FRAMES_A_SECOND; frame++) {
			const own = [...bands.subarray(frame * BANDS, (frame + 1) * BANDS)];
			const power = own.reduce((sum, byte) => sum + POWER_OF_BYTE[byte]!, 0);
			// A sine of 0.1 has a mean square of 0.005.
			expect(Math.abs(10 * Math.log10(power) - 10 * Math.log10(0.005))).toBeLessThan(0.5);
		}
	});

	it('has a frame stand over the middle of its 10 ms', () => {
		const click = new Float32Array(2 * READINGS_RATE);
		click[READINGS_RATE + 50 * 480 + 240] = 1;
		const { bands } = readingAt(measure(click).seconds[1]!, 0);
		const powers = Array.from({ length: FRAMES_A_SECOND }, (_, frame) => bands[frame * BANDS + 15]!);
		expect(powers.indexOf(Math.max(...powers))).toBe(50);
		expect(powers[49]).toBe(powers[51]);
	});

	it('takes levels, peaks and the width of tops of 5 ms', () => {
		const { levels, peaks, tops } = readingAt(measure(sine(1, 200, 0.5)).seconds[0]!, 0);
		expect(decibelsOf(levels[100]!)).toBeCloseTo(-9, 0);
		expect(peakDecibelsOf(peaks[100]!)).toBeCloseTo(-6, 1);
		// Within 3% of its top a sine stays for 2 acos(0.97) of its 2 pi.
		expect(Math.abs(tops[100]! - (2 * Math.acos(0.97) * 240) / (2 * Math.PI))).toBeLessThan(2);
	});

	it('knows channels that hold the same', () => {
		const one = sine(1, 300, 0.3);
		const three = Float32Array.from({ length: 3 * one.length }, (_, i) => {
			const sample = one[Math.floor(i / 3)]!;
			return [sample, Math.sin(i * 0.01), -0.5 * sample][i % 3]!;
		});
		expect(measure(three, 3).measured.twins).toEqual([{ channel: 2, sameAs: 0, isInverted: true }]);
	});

	it('finds a hum beside its neighbours every two seconds', () => {
		const humming = sine(4, 50, 0.01);
		let state = 7;
		for (let i = 0; i < humming.length; i++) {
			state = (state * 16807) % 2147483647;
			humming[i] = humming[i]! + 0.001 * (state / 2147483647 - 0.5);
		}
		const { seconds } = measure(humming);
		const [first, second] = [readingAt(seconds[0]!, 0), readingAt(seconds[1]!, 0)];
		expect(first.hum.every((byte) => byte === 0)).toBe(true);
		// -43 dB of power; the tone of 100 Hz is not there.
		expect(Math.abs(decibelsOf(second.hum[0]!) + 43)).toBeLessThan(1);
		expect(decibelsOf(second.hum[0]!) - decibelsOf(second.nextToHum[0]!)).toBeGreaterThan(30);
		expect(decibelsOf(second.hum[1]!) - decibelsOf(second.nextToHum[1]!)).toBeLessThan(9);
	});

	it('has records of a size that can be read as floats', () => {
		expect(RECORD_BYTES % 4).toBe(0);
	});
});
