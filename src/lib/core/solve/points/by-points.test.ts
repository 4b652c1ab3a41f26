import { describe, expect, it } from 'vitest';
import { alignByPoints, edgePoints } from './by-points';
import type { AlignableClip } from '../clip';

function clip(device: string, durationSeconds: number): AlignableClip {
	return {
		id: device,
		device,
		hasPicture: false,
		channels: 1,
		durationSeconds,
		soundStartSeconds: 0,
		soundSeconds: durationSeconds
	};
}

describe('line-up by marked events', () => {
	const clips = [clip('recorder', 3700), clip('camera', 3600), clip('other', 100)];

	it('puts one event of all clips at one moment', () => {
		const [lineUp, ...others] = alignByPoints(clips, [
			{ clip: 0, name: 'clap', mediaSeconds: 12.5 },
			{ clip: 1, name: 'clap', mediaSeconds: 4.25 }
		]);
		expect(others).toEqual([]);
		expect(lineUp!.placements.map((one) => one.startSeconds)).toEqual([expect.closeTo(0, 6), expect.closeTo(8.25, 4)]);
	});

	it('tells the clock from two events an hour apart: 72 ms are 20 ppm', () => {
		const [lineUp] = alignByPoints(clips, [
			{ clip: 0, name: 'first', mediaSeconds: 20 },
			{ clip: 1, name: 'first', mediaSeconds: 10 },
			{ clip: 0, name: 'last', mediaSeconds: 3560.071 },
			{ clip: 1, name: 'last', mediaSeconds: 3550 }
		]);
		// 71 ms over 3 540 s are 20.06 ppm.
		expect(lineUp!.placements[1]!.ratePpm).toBeCloseTo(20.06, 0);
		for (const point of lineUp!.residuals) expect(Math.abs(point.residualSeconds)).toBeLessThan(0.001);
	});

	it('shares disagreement out and tells it', () => {
		const [lineUp] = alignByPoints(clips, [
			{ clip: 0, name: 'a', mediaSeconds: 10 },
			{ clip: 1, name: 'a', mediaSeconds: 10 },
			{ clip: 0, name: 'b', mediaSeconds: 12 },
			{ clip: 1, name: 'b', mediaSeconds: 12.08 }
		]);
		// 80 ms between two events two seconds apart: 20 ms are left at each mark.
		expect(lineUp!.residuals.map((point) => Math.round(Math.abs(point.residualSeconds) * 1000))).toEqual([
			20, 20, 20, 20
		]);
	});

	it('lays clips onto those that lie fast, with the clock that is known', () => {
		const fixed = { ...clips[0]!, fixed: { lineUp: 'x', startSeconds: -3, ratePpm: 40 } };
		const [lineUp] = alignByPoints(
			[fixed, clips[1]!],
			[
				{ clip: 0, name: 'clap', mediaSeconds: 1000 },
				{ clip: 1, name: 'clap', mediaSeconds: 500 }
			],
			undefined,
			new Map([['camera', -20]])
		);
		// 1000 s of a clock that is 40 ppm off are 1000.04 s; 500 s of one that is -20 ppm off are 499.99 s.
		expect(lineUp!.placements.map((one) => one.startSeconds)).toEqual([
			expect.closeTo(-3, 6),
			expect.closeTo(-3 + 1000.04 - 499.99, 5)
		]);
		expect(lineUp!.placements[1]!.ratePpm).toBeCloseTo(-20, 3);
	});

	it('takes in points, out points or clip starts for events', () => {
		const trims = new Map([
			[0, { inSeconds: 5 }],
			[1, { outSeconds: 3000 }]
		]);
		const starts = (edge: Parameters<typeof edgePoints>[1]) =>
			alignByPoints(clips, edgePoints(clips, edge, trims))[0]!.placements.map(
				(one) => Math.round(one.startSeconds * 1000) / 1000
			);
		expect(starts('clip start')).toEqual([0, 0, 0]);
		expect(starts('in point')).toEqual([0, 5, 5]);
		expect(starts('out point')).toEqual([0, 700, 3600]);
	});
});
