import { describe, expect, it } from 'vitest';
import { fastFftProvider } from '../../src/lib/server/engine/fast-fft';
import { addConvolved, roomResponse, type Room } from '../support/simulator/room';
import { SCENE_RATE } from '../support/simulator/sounds';

const HALL: Room = { width: 16, depth: 22, height: 5, reflection: 0.8, reverberationSeconds: 0.9, criticalMetres: 2.5 };
const energy = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);

describe('a simulated room', () => {
	it('gives the direct sound first, at its way through the air and by its distance', () => {
		const response = roomResponse(HALL, { x: 0, y: -6 }, { x: 1, y: 3 }, 5);
		const metres = Math.hypot(1, 9, 0.4);
		const at = Math.round((metres / 343) * SCENE_RATE);
		expect(energy(response.subarray(0, at - 20))).toBeLessThan(1e-4 * energy(response));
		// The floor, the nearest mirror, sends its image a few milliseconds later.
		const direct = response.subarray(at - 3, at + 4).reduce((most, x) => Math.max(most, Math.abs(x)), 0);
		expect(direct).toBeGreaterThan(0.8 / metres);
		expect(direct).toBeLessThan(1.3 / metres);
	});

	it('is as strong as the direct sound at its critical distance, wherever one stands', () => {
		for (const y of [-3, 0, 4]) {
			const metres = Math.hypot(1, y + 6, 0.4);
			const response = roomResponse(HALL, { x: 0, y: -6 }, { x: 1, y }, 7);
			const room = energy(response) - 1 / metres ** 2;
			expect(10 * Math.log10(room * HALL.criticalMetres ** 2)).toBeGreaterThan(-2);
			expect(10 * Math.log10(room * HALL.criticalMetres ** 2)).toBeLessThan(3);
		}
	});

	it('is heard as by a plain convolution', async () => {
		const response = Float32Array.from({ length: 300 }, (_, i) => Math.sin(i) / (1 + i));
		const samples = Float32Array.from({ length: 5000 }, (_, i) => Math.cos(i * i));
		const out = new Float32Array(5000);
		addConvolved(out, samples, response, await fastFftProvider());
		for (const at of [0, 299, 2000, 4999]) {
			let sum = 0;
			for (let k = 0; k < response.length && k <= at; k++) sum += response[k]! * samples[at - k]!;
			expect(out[at]).toBeCloseTo(sum, 3);
		}
	});
});
