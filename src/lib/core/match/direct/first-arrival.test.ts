import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../../demo/random';
import { firstArrival, isDirect } from './first-arrival';
import { STACK_STEP_SECONDS } from './section-stacks';

const LENGTH = 2881;
const steps = (seconds: number) => Math.round(seconds / STACK_STEP_SECONDS);

/** What a room makes of a click at a moment: the direct sound, echoes of which two fall together, a tail that dies away. */
function roomShape(directSeconds: number, seed: number, floor = 0.03): Float32Array {
	const random = seededRandom(seed);
	const noise = () => random() + random() - 1;
	const at = (LENGTH - 1) / 2 + steps(directSeconds);
	const out = Float32Array.from({ length: LENGTH }, (_, i) => {
		const sinceSeconds = (i - at) * STACK_STEP_SECONDS;
		return floor * noise() + (sinceSeconds > 0 ? 0.25 * noise() * Math.exp(-sinceSeconds / 0.03) : 0);
	});
	const add = (index: number, height: number) => {
		for (let k = -4; k <= 4; k++) out[index + k] = out[index + k]! + height * Math.cos((Math.PI * k) / 10) ** 2;
	};
	add(at, 1);
	add(at + steps(0.0071), 1.5);
	add(at + steps(0.0113), -0.9);
	return out;
}

describe('first arrival', () => {
	it('is the direct sound, though echoes that fall together stand higher', () => {
		for (const seed of [1, 2, 3])
			for (const directSeconds of [-0.02, -0.0031, 0, 0.012]) {
				const arrival = firstArrival(roomShape(directSeconds, seed));
				expect(arrival.lateSeconds).toBeCloseTo(directSeconds, 4);
				expect(arrival).toMatchObject({ isInverted: false, isBLive: true });
				expect(isDirect(arrival)).toBe(true);
			}
	});

	it('is the last before the quiet where a hears the room, and tells a turned polarity', () => {
		const turned = roomShape(-0.006, 4)
			.map((value) => -value)
			.reverse();
		const arrival = firstArrival(turned);
		expect(arrival.lateSeconds).toBeCloseTo(0.006, 4);
		expect(arrival).toMatchObject({ isInverted: true, isBLive: false });
		expect(isDirect(arrival)).toBe(true);
	});

	it('is not believed where both sides are alike, or nothing stands out', () => {
		const [there, back] = [roomShape(0.002, 5, 0.01), roomShape(0.002, 6, 0.01).reverse()];
		expect(isDirect(firstArrival(there.map((value, i) => value + back[i]!)))).toBe(false);
		const random = seededRandom(7);
		for (let k = 0; k < 20; k++)
			expect(isDirect(firstArrival(Float32Array.from({ length: LENGTH }, () => random() + random() - 1)))).toBe(false);
	});
});
