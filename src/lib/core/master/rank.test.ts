import { describe, expect, it } from 'vitest';
import { pointsOf } from './rank';
import { reasonsFor } from './reasons';

const clean = { clippedShare: 0, dropOuts: 0 };

describe('points', () => {
	it('are all kept by what has no fault', () => {
		const points = pointsOf([{ speechToNoiseDb: 45, roomTailDb: -25 }], clean);
		expect(points.points).toBe(100);
		expect(reasonsFor(points, clean, 1)).toBe('Speech 45 dB over noise, room tail 25 dB under speech, covers all.');
	});

	it('are lost by the worst person too', () => {
		const even = pointsOf([{ speechToNoiseDb: 30 }, { speechToNoiseDb: 30 }], clean);
		const uneven = pointsOf([{ speechToNoiseDb: 45 }, { speechToNoiseDb: 15 }], clean);
		expect(uneven.points).toBeLessThan(even.points);
		expect(uneven.losses.uneven).toBeGreaterThan(0);
	});

	it('are lost by each fault, never more than it may', () => {
		const heard = [{ speechToNoiseDb: 45, roomTailDb: -25 }];
		for (const faults of [
			{ ...clean, clippedShare: 0.002 },
			{ ...clean, dropOuts: 3 },
			{ ...clean, upperEdgeHz: 3600 },
			{ ...clean, humDb: -20, isHumHeard: true },
			{ ...clean, rumbleDb: 0 }
		]) {
			const { points } = pointsOf(heard, faults);
			expect(points).toBeLessThan(97);
			expect(points).toBeGreaterThanOrEqual(65);
		}
		const ruined = { clippedShare: 1, dropOuts: 500, upperEdgeHz: 500, humDb: 20, isHumHeard: true, rumbleDb: 60 };
		expect(pointsOf([{ speechToNoiseDb: 0, roomTailDb: 0 }], ruined).points).toBe(0);
	});

	it('count no hum that does not stand out', () => {
		expect(pointsOf([{ speechToNoiseDb: 45 }], { ...clean, humDb: -10, isHumHeard: false }).losses.hum).toBe(0);
	});

	it('are told in a sentence with what costs most', () => {
		const faults = { ...clean, clippedShare: 0.016, upperEdgeHz: 10_700 };
		const points = pointsOf([{ speechToNoiseDb: 40, roomTailDb: -23 }], faults);
		expect(reasonsFor(points, faults, 0.874)).toBe(
			'Speech 40 dB over noise, room tail 23 dB under speech, up to 10.7 kHz, covers 87%; loses 24 by clipping.'
		);
	});
});
