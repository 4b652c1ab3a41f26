import { describe, expect, it } from 'vitest';
import { secondsToFlicks } from '../time/flicks';
import type { Clip, PlacedClip } from './clip';
import { timecodePlace } from './timecode-place';

function clip(deviceId: string, clockSeconds: number | undefined, recordedAt?: string): Clip {
	return {
		id: deviceId,
		deviceId,
		name: deviceId,
		durationFlicks: secondsToFlicks(60),
		parts: [],
		scene: '',
		shot: '',
		take: '',
		circled: false,
		note: '',
		syncPoints: [],
		sharpSounds: [],
		...(clockSeconds === undefined ? {} : { clockSeconds }),
		...(recordedAt === undefined ? {} : { recordedAt })
	};
}

function placed(own: Clip, startSeconds: number): PlacedClip {
	return {
		...own,
		placement: {
			lineUpId: 'one',
			startFlicks: secondsToFlicks(startSeconds),
			ratePpm: 0,
			measuredRatePpm: 0,
			method: 'audio',
			confidence: 0.99,
			residualSeconds: 0,
			byHand: false,
			isLocked: false,
			airFlicks: 0
		}
	};
}

describe('a place by timecode', () => {
	const others = [placed(clip('cam', 3650), 7), placed(clip('rec', 3600), 0)];

	it('is told by the reference’s clock', () => {
		expect(timecodePlace(clip('mute', 3630), others, 'rec')).toBe(secondsToFlicks(30));
		expect(timecodePlace(clip('mute', 3630), others, 'cam')).toBe(secondsToFlicks(-13));
	});

	it('goes on over midnight', () => {
		const late = [placed(clip('rec', 86_380, '2026-03-01T23:59:40'), 0)];
		expect(timecodePlace(clip('mute', 20, '2026-03-02T00:00:20'), late, 'rec')).toBe(secondsToFlicks(40));
	});

	it('is none without timecode, or where nothing else was recorded', () => {
		expect(timecodePlace(clip('mute', undefined), others, 'rec')).toBeUndefined();
		expect(timecodePlace(clip('mute', 9000), others, 'rec')).toBeUndefined();
		expect(timecodePlace(clip('mute', 3630), [placed(clip('rec', undefined), 0)], 'rec')).toBeUndefined();
		// Its own device recorded something else then.
		const busy = [...others, placed({ ...clip('mute', undefined), id: 'mute-2' }, 40)];
		expect(timecodePlace(clip('mute', 3630), busy, 'rec')).toBeUndefined();
	});
});
