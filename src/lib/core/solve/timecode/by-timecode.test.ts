import { describe, expect, it } from 'vitest';
import type { Placed, Stray } from '../alignment';
import { alignByTimecode, clockHints, withTimecode } from './by-timecode';
import type { AlignableClip } from '../clip';
import { clockLag, clockWords, judgeClocks } from './clocks';

const DAY = 86_400;

function clip(
	device: string,
	clockSeconds: number | undefined,
	durationSeconds = 60,
	more: Partial<AlignableClip> = {}
): AlignableClip {
	return {
		id: device,
		device,
		hasPicture: false,
		channels: 1,
		durationSeconds,
		soundStartSeconds: 0,
		soundSeconds: durationSeconds,
		...(clockSeconds === undefined ? {} : { clock: { seconds: clockSeconds, daySeconds: DAY, frameSeconds: 1 / 25 } }),
		...more
	};
}

function placed(index: number, startSeconds: number, confidence = 0.99): Placed {
	return {
		clip: index,
		startSeconds,
		ratePpm: 0,
		confidence,
		residualSeconds: 0,
		parts: [],
		losses: [],
		method: 'audio'
	};
}

describe('timecode alone', () => {
	it('lays clips by their clocks, over midnight, one line-up a stretch of time', () => {
		const clips = [
			clip('recorder', DAY - 30, 120),
			clip('camera', 10, 40),
			clip('recorder', 3600, 60),
			clip('camera', 3630, 60),
			clip('camera', 40_000, 20),
			clip('telephone', undefined)
		];
		const { lineUps, strays } = alignByTimecode(clips);
		expect(lineUps.map((one) => one.placed.map(({ clip: index, startSeconds }) => [index, startSeconds]))).toEqual([
			[
				[0, 0],
				[1, 40]
			],
			[
				[2, 0],
				[3, 30]
			]
		]);
		expect(strays.map(({ clip: index, reason }) => [index, reason])).toEqual([
			[5, 'no timecode'],
			[4, 'nothing else at that time']
		]);
	});
});

describe('clocks', () => {
	it('are compared over midnight', () => {
		const at = (seconds: number) => ({ seconds, daySeconds: DAY, frameSeconds: 0.04 });
		expect(clockLag(at(DAY - 10), at(5))).toBe(15);
		expect(clockLag(at(5), at(DAY - 10))).toBe(-15);
	});

	it.each([
		[3600, 0, 'Its timecode is 1 hour ahead.'],
		[-7200, 0, 'Its timecode is 2 hours behind.'],
		[12.4, 0, 'Its timecode is 12.40 s ahead.']
	])('that are off by %s s are named', (ahead, _, words) => {
		const clips = [clip('a', 1000), clip('b', 1010), clip('off', 1020 + ahead)];
		const clocks = judgeClocks(clips, [placed(0, 0), placed(1, 10), placed(2, 20)]);
		expect(clocks.map((one) => one.agrees)).toEqual([true, true, false]);
		expect(clockWords(clocks[2]!)).toBe(words);
	});

	it('that counted at another rate than they say are named', () => {
		// An hour and ten minutes counted at 24 frames a second, read as 25.
		const read = (seconds: number) => (seconds * 24) / 25;
		const clips = [clip('a', 4200), clip('b', 4210), clip('off', read(4220)), clip('off', read(4500))];
		const clocks = judgeClocks(clips, [placed(0, 0), placed(1, 10), placed(2, 20), placed(3, 300)]);
		expect(clockWords(clocks.find((one) => one.device === 'off')!)).toBe(
			'Its timecode was counted at 24 frames a second, but is flagged as 25.'
		);
	});
});

describe('timecode beside sound', () => {
	const lineUp = (own: readonly Placed[]) => ({ referenceDevice: 'a', placed: own, links: [], clocks: [] });

	it('places a silent clip of a device whose clock sound has proved, hour and all', () => {
		const clips = [clip('a', 1000, 300), clip('off', 4620, 50), clip('off', 4700, 50)];
		const result = withTimecode(clips, {
			lineUps: [lineUp([placed(0, 0), placed(1, 20)])],
			strays: [{ clip: 2, reason: 'silent' }],
			contradictory: []
		});
		expect(result.strays).toEqual([]);
		expect(result.lineUps[0]!.placed[2]).toMatchObject({ clip: 2, startSeconds: 100, method: 'timecode' });
	});

	it('believes a device that tells nothing by sound only where most others prove that clocks were set together', () => {
		const mute = { channels: 0, soundSeconds: 0 };
		const clips = [
			clip('a', 1000, 300),
			clip('b', 1030, 50),
			clip('mute', 1100, 50, mute),
			clip('off', 9000, 50),
			clip('off-2', 12_000, 50)
		];
		const of = (own: readonly Placed[], reason: Stray['reason'] = 'no sound stream') =>
			withTimecode(clips, {
				lineUps: [lineUp(own)],
				strays: [{ clip: 2, reason }],
				contradictory: []
			});
		expect(of([placed(0, 0), placed(1, 30)]).lineUps[0]!.placed[2]).toMatchObject({ clip: 2, startSeconds: 100 });
		expect(of([placed(0, 0), placed(1, 30), placed(3, 40)]).strays).toHaveLength(0);
		// One clock alone proves nothing, nor do clocks of which as many disagree.
		expect(of([placed(0, 0)]).strays).toHaveLength(1);
		expect(of([placed(0, 0), placed(1, 30), placed(3, 40), placed(4, 60)]).strays).toHaveLength(1);
		// With sound of its own it is believed as well, a little less; what sound speaks against is not.
		const heard = of([placed(0, 0), placed(1, 30)], 'no common sound with anything').lineUps[0]!.placed[2]!;
		expect(heard).toMatchObject({ startSeconds: 100, method: 'timecode' });
		expect(heard.confidence).toBeLessThan(0.8);
		expect(of([placed(0, 0), placed(1, 30)], 'contradicts others').strays).toHaveLength(1);
	});

	it('counts dates, and midnight', () => {
		const on = (recordedAt: string) => ({ recordedAt });
		const family = [
			clip('a', 86_000, 3000, on('2026-03-01T23:53:20')),
			clip('b', 86_100, 2000, on('2026-03-01T23:55:00'))
		];
		const of = (own: AlignableClip) =>
			withTimecode([...family, own], {
				lineUps: [lineUp([placed(0, 0), placed(1, 100)])],
				strays: [{ clip: 2, reason: 'no common sound with anything' }],
				contradictory: []
			}).lineUps[0]!.placed[2];
		// Ten past midnight, of that night and of the one before.
		expect(of(clip('cam', 600, 60, on('2026-03-02T00:10:00')))).toMatchObject({ startSeconds: 1000 });
		expect(of(clip('cam', 600, 60, on('2026-03-01T00:10:00')))).toBeUndefined();
		expect(of(clip('cam', 86_200, 60, on('2026-03-04T23:56:40')))).toBeUndefined();
		expect(of(clip('cam', 600, 60))).toMatchObject({ startSeconds: 1000 });
	});

	it('overrules a doubtful place, not a sure one', () => {
		const clips = [clip('a', 1000, 300), clip('cam', 1010, 50), clip('cam', 1100, 50)];
		const of = (confidence: number) =>
			withTimecode(clips, {
				lineUps: [lineUp([placed(0, 0), placed(1, 10), placed(2, 180, confidence)])],
				strays: [],
				contradictory: []
			}).lineUps[0]!.placed.find((one) => one.clip === 2);
		expect(of(0.6)).toMatchObject({ startSeconds: 100, method: 'timecode' });
		expect(of(0.99)).toMatchObject({ startSeconds: 180, method: 'audio' });
	});

	it('proposes lags: as the clocks stand, and as other clips of the two have shown', () => {
		const clips = [clip('a', 1000, 5000), clip('b', 4610), clip('b', 4700)];
		expect(clockHints(clips, 0, 2, [])).toEqual([3700]);
		const link = { a: 0, b: 1, evidence: { lagSeconds: 10 } };
		expect(clockHints(clips, 0, 2, [link])).toEqual([3700, 100]);
		expect(clockHints(clips, 2, 0, [link])).toEqual([-3700, -100]);
	});
});
