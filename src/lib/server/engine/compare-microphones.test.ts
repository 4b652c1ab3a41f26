import { expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import { plainFftProvider } from '../../core/signal/fft';
import { compareMicrophones } from './compare-microphones';

const RATE = 16_000;
const SAMPLES = 2 * RATE;
const LEAD = 40;

/** A voice as a smooth function of time, so that any clock can record it. */
const voice = (() => {
	const random = seededRandom(5);
	const tones = Array.from({ length: 400 }, () => [250 + 5000 * random(), 2 * Math.PI * random()] as const);
	return (seconds: number) =>
		tones.reduce((sum, [hertz, phase]) => sum + Math.sin(2 * Math.PI * hertz * seconds + phase), 0) / 80;
})();

/** What a device has recorded that counts `step` samples for each of the line-up's. */
function recorded(step: number, fullScale: number, laterSeconds: readonly number[], sign = 1) {
	const count = Math.ceil(SAMPLES * step) + 2 * LEAD;
	const pcm =
		fullScale === 2 ** 15 ? new Int16Array(count * laterSeconds.length) : new Int32Array(count * laterSeconds.length);
	for (let i = 0; i < count; i++)
		for (const [channel, later] of laterSeconds.entries())
			pcm[i * laterSeconds.length + channel] = Math.round(
				0.5 * sign * fullScale * voice(1 + (i - LEAD) / step / RATE - later)
			);
	return { pcm, channels: laterSeconds.length, position: LEAD, step };
}

it('takes clock errors out before microphones are compared, of any depth', { timeout: 60_000 }, () => {
	const lags = compareMicrophones(
		{
			devices: [
				recorded(1, 2 ** 15, [0]),
				recorded(1 + 200e-6, 2 ** 31, [0.004, 0]),
				recorded(1 - 150e-6, 2 ** 15, [-0.002], -1)
			],
			close: { device: 0, channel: 0 },
			others: [
				{ device: 1, channel: 0 },
				{ device: 2, channel: 0 },
				{ device: 1, channel: 1 }
			],
			samples: SAMPLES,
			sampleRate: RATE
		},
		plainFftProvider()
	);
	// A clock of 200 ppm that was left in would smear 400 µs.
	for (const [index, wanted] of [0.004, -0.002, 0].entries())
		expect(Math.abs(lags[index]!.laterSeconds - wanted)).toBeLessThan(5e-6);
	expect(lags.map((lag) => lag!.isInverted)).toEqual([false, true, false]);
});
