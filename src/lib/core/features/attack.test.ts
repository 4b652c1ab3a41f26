import { describe, expect, it } from 'vitest';
import { nearestAttack } from './attack';

const RATE = 48_000;

/** A clap at a sample: noise that begins at once and dies away, over a hum. */
function clapAt(at: number, length = 9600): Float32Array {
	let state = 1;
	return Float32Array.from({ length }, (_, i) => {
		state = (state * 16807) % 2147483647;
		const noise = state / 1073741823.5 - 1;
		const hum = 0.2 * Math.sin((2 * Math.PI * 50 * i) / RATE) + 0.002 * noise;
		return i < at ? hum : hum + 0.8 * noise * Math.exp(-(i - at) / 400);
	});
}

describe('the attack near a moment', () => {
	it.each([500, 4800, 4811, 9000])('is found to a few samples at %i', (at) => {
		expect(Math.abs(nearestAttack(clapAt(at), RATE)! - at)).toBeLessThanOrEqual(3);
	});

	it('is nothing in silence', () => {
		expect(nearestAttack(new Float32Array(4800), RATE)).toBeUndefined();
	});
});
