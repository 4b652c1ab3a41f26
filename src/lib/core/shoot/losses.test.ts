import { describe, expect, it } from 'vitest';
import { secondsToFlicks } from '../time/flicks';
import { lostSamples } from './losses';
import type { PlacedClip } from './clip';

function part(id: string, fileId: string, offsetSeconds: number, seconds: number, startSeconds: number): PlacedClip {
	return {
		shot: '',
		scene: '',
		take: '',
		circled: false,
		note: '',
		id,
		deviceId: 'recorder',
		name: id,
		durationFlicks: secondsToFlicks(seconds),
		parts: [
			{
				fileId,
				identity: fileId,
				path: '/x',
				relativePath: fileId,
				sizeBytes: 1,
				offsetFlicks: secondsToFlicks(offsetSeconds),
				durationFlicks: secondsToFlicks(600),
				container: 'wav'
			}
		],
		placement: {
			lineUpId: 'line-up',
			startFlicks: secondsToFlicks(startSeconds),
			ratePpm: 20,
			method: 'audio',
			confidence: 1,
			residualSeconds: 0,
			byHand: false,
			measuredRatePpm: 0,
			isLocked: false,
			airFlicks: 0
		},
		syncPoints: [],
		sharpSounds: []
	};
}

describe('lost samples', () => {
	it('are what lies between a clip and the one that goes on in its file', () => {
		// 432 s by its clock are 432 s and 8.64 ms at 20 ppm.
		const clips = [part('take', 'a.wav', 0, 432, 5), part('take (2)', 'a.wav', -432, 168, 5 + 432.00864 + 0.4)];
		const [lost, ...more] = lostSamples(clips);
		expect(more).toEqual([]);
		expect(lost).toMatchObject({ clipId: 'take', nextClipId: 'take (2)', atSeconds: 432 });
		expect(lost!.lostSeconds).toBeCloseTo(0.4, 6);
	});

	it('are none where clips are whole, or the other part is elsewhere', () => {
		expect(lostSamples([part('take', 'a.wav', 0, 600, 5), part('other', 'b.wav', 0, 600, 700)])).toEqual([]);
		expect(lostSamples([part('take (2)', 'a.wav', -432, 168, 437)])).toEqual([]);
	});
});
