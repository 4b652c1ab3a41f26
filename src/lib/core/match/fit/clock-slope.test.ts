import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../../demo/random';
import { clockSlope } from './clock-slope';

/** Three talkers at different distances, who take turns for some seconds each; now and then a wrong window. */
function conversation(seconds: number, hop: number, ppm: number, seed: number, wrongShare = 0.15) {
	const random = seededRandom(seed);
	const times: number[] = [];
	const lags: number[] = [];
	let talker = 0;
	for (let at = 0; at < seconds; at += hop) {
		if (random() < hop / 7) talker = Math.floor(random() * 3);
		const noise = (random() + random() + random() - 1.5) * 0.2e-3;
		const lag = [0, 3.1e-3, -4.4e-3][talker]! + noise + at * ppm * 1e-6;
		times.push(at);
		lags.push(random() < wrongShare ? (random() - 0.5) * 40e-3 : lag);
	}
	return { times, lags };
}

describe('clockSlope', () => {
	it.each([1, 2, 3, 4, 5, 6])('is not led astray by who speaks when, seed %i', (seed) => {
		const { times, lags } = conversation(230, 2, 37, seed);
		const found = clockSlope(times, lags, 150e-6)!;
		// 0.1 ms of noise over four minutes in a hundred windows: well under 1 ppm.
		expect(Math.abs(found.slope * 1e6 - 37)).toBeLessThan(1);
		expect(Math.abs(found.slope * 1e6 - 37)).toBeLessThan(5 * found.deviation * 1e6);
	});

	it('says how little it knows of half a minute', () => {
		const errors = Array.from({ length: 20 }, (_, seed) => {
			const { times, lags } = conversation(30, 1, -60, seed + 100);
			const found = clockSlope(times, lags, 150e-6);
			return found ? Math.abs(found.slope * 1e6 + 60) / (found.deviation * 1e6) : 0;
		}).sort((a, b) => a - b);
		expect(errors[10]!).toBeLessThan(1.5);
		expect(errors[18]!).toBeLessThan(4);
	});

	it('gives nothing for chance', () => {
		const { times, lags } = conversation(60, 2, 0, 3, 1);
		expect(clockSlope(times, lags, 150e-6)).toBeUndefined();
		expect(clockSlope([1, 2, 3], [0, 0, 0], 1e-4)).toBeUndefined();
	});
});
