import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import { addConvolved, directMetres, roomResponse } from '../../../../tests/support/simulator/room';
import { SCENE_RATE } from '../../../../tests/support/simulator/sounds';
import { addNoise, makeTalk, onChest } from '../../../../tests/support/simulator/talk';
import { plainFftProvider } from '../signal/fft';
import { agreedLag, microphoneLags } from './microphone-lag';

const METRES_A_SECOND = 343;
const provider = plainFftProvider();

describe('how a microphone hears somebody against a close one', () => {
	it('is exact for sound that is the same but later, turned or not', () => {
		const random = seededRandom(3);
		const noise = Float32Array.from({ length: 48_000 }, () => random() - 0.5);
		const later = (samples: number, factor: number) => noise.map((_, i) => factor * (noise[i - samples] ?? 0));
		const found = microphoneLags(noise, [later(0, 1), later(317, -0.3), later(-1200, 2)], 48_000, provider);
		expect(found.map((one) => Math.round(one!.laterSeconds * 48_000 * 10) / 10)).toEqual([0, 317, -1200]);
		expect(found.map((one) => one!.isInverted)).toEqual([false, true, false]);
	});

	it('says nothing of what has nothing in common', () => {
		const random = seededRandom(4);
		const noise = () => Float32Array.from({ length: 40_000 }, () => random() - 0.5);
		expect(microphoneLags(noise(), [noise(), noise(), new Float32Array(40_000)], 16_000, provider)).toEqual([
			undefined,
			undefined,
			undefined
		]);
	});

	it('asks for stretches that agree', () => {
		const of = (...lags: number[]) => lags.map((laterSeconds) => ({ laterSeconds, isInverted: laterSeconds < 0.0021 }));
		expect(agreedLag(of(0.002, 0.0021, 0.0022, 0.03))).toEqual({ laterSeconds: 0.0021 });
		expect(agreedLag(of(0.002, 0.0019, 0.002, undefined as never).slice(0, 3))).toEqual({
			laterSeconds: 0.002,
			isInverted: true
		});
		expect(agreedLag(of(0.002, 0.0021, 0.03, 0.04))).toBeUndefined();
		expect(agreedLag([undefined, undefined])).toBeUndefined();
	});

	it(
		'is the way through the air in made-up rooms with recorded voices: a boom, a table, a camera',
		{ timeout: 60_000 },
		async () => {
			const errors: number[] = [];
			let [told, right] = [0, 0];
			for (const seed of [1, 2]) {
				const talk = await makeTalk(seed, { people: 1, seconds: 40, apart: 1, criticalMetres: 1.2 });
				const person = talk.people[0]!;
				const heardAt = (spot: { x: number; y: number; z?: number }, number: number) => {
					const out = new Float32Array(40 * SCENE_RATE);
					addConvolved(out, person.voice, roomResponse(talk.room, person.spot, spot, seed * 10 + number), provider);
					return addNoise(out, -62, seed * 10 + number);
				};
				const close = heardAt(onChest(person), 0);
				const spots = [0.8, 1.6, 4].map((metres) => ({ x: person.spot.x + 0.2, y: person.spot.y + metres }));
				const others = spots.map((spot, index) => heardAt(spot, index + 1).map((x) => (index % 2 === 0 ? -x : x)));
				const stretches = person.spoken.filter(({ from, to }) => to - from >= 2).slice(0, 6);
				const found = stretches.map(({ from, to }) => {
					const cut = (samples: Float32Array) =>
						samples.subarray(Math.floor(from * SCENE_RATE), Math.floor(Math.min(to, from + 2.5) * SCENE_RATE));
					return microphoneLags(cut(close), others.map(cut), SCENE_RATE, provider);
				});
				for (const [index, spot] of spots.entries()) {
					const lag = agreedLag(found.map((one) => one[index]));
					const way = directMetres(person.spot, spot) - directMetres(person.spot, onChest(person));
					if (!lag) continue;
					errors.push(Math.abs(lag.laterSeconds - way / METRES_A_SECOND));
					if (lag.isInverted === undefined) continue;
					told++;
					if (lag.isInverted === (index % 2 === 0)) right++;
				}
			}
			expect(errors.length).toBe(6);
			// To the sample: one of 48 kHz is 21 µs long.
			expect(Math.max(...errors)).toBeLessThan(21e-6);
			expect([told, right]).toEqual([6, 6]);
		}
	);
});
