import { describe, expect, it } from 'vitest';
import { FLICKS_PER_SECOND, flicksPerFrame, secondsToFlicks } from '../../core/time/flicks';
import { rulerTicks } from './draw-score';

const RATE = { num: 25, den: 1 };

function ticks(secondsPerPixel: number, startSeconds = 0) {
	const view = {
		startFlicks: secondsToFlicks(startSeconds),
		flicksPerPixel: secondsPerPixel * FLICKS_PER_SECOND,
		width: 1000
	};
	return rulerTicks(
		view,
		(flicks) => `${Math.round((flicks / FLICKS_PER_SECOND) * 1000) / 1000}`,
		flicksPerFrame(RATE)
	);
}

describe('the ruler', () => {
	it.each([
		[4, 600],
		[0.25, 30],
		[0.01, 1],
		[0.0005, 0.2]
	])('at %d s a pixel marks every %d s', (secondsPerPixel, step) => {
		const [first, second] = ticks(secondsPerPixel).map((tick) => Number(tick.text));
		expect(second! - first!).toBeCloseTo(step, 9);
	});

	it('keeps marks apart and in the picture, wherever it stands', () => {
		for (const scale of [10, 1, 0.3, 0.02, 0.002, 1e-4, 1e-6]) {
			const found = ticks(scale, 123.4);
			expect(found.length).toBeGreaterThan(0);
			for (const [index, tick] of found.entries()) {
				expect(tick.x).toBeGreaterThanOrEqual(-1e-6);
				expect(tick.x).toBeLessThanOrEqual(1000);
				if (index > 0) expect(tick.x - found[index - 1]!.x).toBeGreaterThan(40);
			}
		}
	});

	it('goes on in decimal seconds below a frame', () => {
		expect(ticks(2e-5)[0]!.text).toMatch(/ s$/);
	});
});
