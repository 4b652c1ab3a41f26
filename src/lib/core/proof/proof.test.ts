import { describe, expect, it } from 'vitest';
import { LINE_UP, sampleShoot } from '../../../../tests/support/sample-shoot';
import { airDelayFlicks, asPicture, asSound, soundSpeed } from '../shoot/air-delay';
import { gridPlace } from '../shoot/frame-grid';
import type { SyncPoint } from '../shoot/clip';
import { placedClips } from '../shoot/lookup';
import type { PlacedClip } from '../shoot/clip';
import type { Shoot } from '../shoot/shoot';
import { FLICKS_PER_SECOND, flicksToSeconds, secondsToFlicks } from '../time/flicks';
import { suggestAirDelays } from './air-suggestion';
import { driftOf, type PairMoments, residualsOf } from './drift';
import { checkPoints } from './point-disagreement';
import { buildReport, signedText, verdictWords } from './report';
import { snapShift } from './snapping';

const shoot = sampleShoot([
	{ badge: '1', start: 0, length: 3600 },
	{ badge: 'A', start: 10, length: 3000, ratePpm: 50 }
]);
const clips = (of: Shoot = shoot) => placedClips(of, LINE_UP);
const clip = (badge: string, of: Shoot = shoot) => clips(of).find((one) => one.deviceId === `device-${badge}`)!;

/** Moments of A against 1 as they are when A's clock is `ppm` fast of true and A is placed `offSeconds` wrong. */
function moments(ppm: number, offSeconds: number): readonly PairMoments[] {
	const times = [100, 700, 1300, 1500, 2000, 2600, 2900];
	return [
		{
			a: clip('1').id,
			b: clip('A').id,
			moments: times.map((mediaSeconds) => ({
				aSeconds: 10 + offSeconds + mediaSeconds * (1 + ppm * 1e-6),
				bSeconds: mediaSeconds,
				weight: 1
			}))
		}
	];
}

/** With changed parts of one clip. */
function withClip(badge: string, change: (one: PlacedClip) => PlacedClip): Shoot {
	const id = clip(badge).id;
	return { ...shoot, clips: shoot.clips.map((one) => (one.id === id ? change(one as PlacedClip) : one)) };
}

describe('sound in air', () => {
	it('runs at the handbook speed: 343 m/s at 20 °C, 331 at 0 °C, 2.9 ms a metre, 13.7 m a frame at 25', () => {
		expect(soundSpeed(20)).toBeCloseTo(343.2, 0);
		expect(soundSpeed(0)).toBeCloseTo(331.3, 1);
		expect(flicksToSeconds(airDelayFlicks(1, 20))).toBeCloseTo(0.0029, 4);
		expect(flicksToSeconds(airDelayFlicks(13.7, 20))).toBeCloseTo(0.04, 3);
	});

	it('moves the picture of what was placed by sound, and the sound of what was placed by a clock', () => {
		const airFlicks = airDelayFlicks(20, 20);
		const far = (method: 'audio' | 'timecode') => {
			const one = clip('A');
			return { ...one, placement: { ...one.placement, airFlicks, method } };
		};
		const start = clip('A').placement.startFlicks;
		expect(asSound(far('audio')).placement.startFlicks).toBe(start);
		expect(asPicture(far('audio')).placement.startFlicks).toBe(start + airFlicks);
		expect(asSound(far('timecode')).placement.startFlicks).toBe(start - airFlicks);
		expect(asPicture(far('timecode')).placement.startFlicks).toBe(start);
	});
});

describe('the frame grid', () => {
	it.each([
		[10, 250, 0],
		[10.013, 250, 0.013],
		[10.027, 251, -0.013]
	])('a picture that begins at %f s lies on frame %i and %f s beside it', (seconds, videoFrame, remainder) => {
		const one = clip('A');
		const moved = { ...one, placement: { ...one.placement, startFlicks: secondsToFlicks(seconds) } };
		expect(gridPlace(moved, { num: 25, den: 1 }).videoFrame).toBe(videoFrame);
		expect(flicksToSeconds(gridPlace(moved, { num: 25, den: 1 }).remainderFlicks)).toBeCloseTo(remainder, 8);
	});
});

describe('drift', () => {
	it('is what the clock adds up to, and leaves nothing over where it is taken out', () => {
		const placed = new Map(clips().map((one) => [one.id, one]));
		const points = driftOf(clip('A'), moments(50, 0), placed);
		// 1 ppm is 3.6 ms in an hour: 50 ppm are 145 ms after 2 900 s.
		expect(points.at(-1)!.offsetSeconds).toBeCloseTo(0.145, 6);
		expect(Math.max(...points.map((one) => Math.abs(one.residualSeconds)))).toBeLessThan(1e-6);
	});

	it('tells head, middle and tail apart: 20 ppm too little are 2 ms at 100 s and 52 ms at 2 600 s', () => {
		const placed = new Map(clips().map((one) => [one.id, one]));
		const { headSeconds, middleSeconds, tailSeconds } = residualsOf(driftOf(clip('A'), moments(70, 0), placed), 3000);
		expect(headSeconds).toBeCloseTo(0.008, 6);
		expect(middleSeconds).toBeCloseTo(0.028, 6);
		expect(tailSeconds).toBeCloseTo(0.052, 6);
	});

	it('has the other sign seen from the other clip', () => {
		const placed = new Map(clips().map((one) => [one.id, one]));
		expect(driftOf(clip('1'), moments(50, 0.02), placed)[0]!.residualSeconds).toBeCloseTo(-0.02, 6);
	});
});

describe('the report', () => {
	it('finds a line-up in sync, within what sound has compared', () => {
		const report = buildReport(shoot, LINE_UP, moments(50, 0.004), new Map());
		expect(report.verdict.kind).toBe('in sync');
		expect(verdictWords(report.verdict)).toBe('In sync everywhere, within 4.0 ms.');
		expect(report.rows.map((row) => row.badge)).toEqual(['1', 'A']);
	});

	it('says which clip is off, and where', () => {
		const report = buildReport(shoot, LINE_UP, moments(70, 0), new Map());
		expect(report.verdict.kind === 'not everywhere' && report.verdict.faults).toContain(
			'A clip A 1 is off by 52.0 ms at its tail.'
		);
	});

	it('trusts nothing that sound has not compared', () => {
		const report = buildReport(shoot, LINE_UP, [], new Map([[clip('A').id, ['Move clip A']]]));
		expect(report.verdict.kind).toBe('not everywhere');
		expect(report.rows[1]!.changes).toEqual(['Move clip A']);
	});

	it('is signed for the places: another start or rate is another text, a new name is none', () => {
		const before = signedText(shoot, LINE_UP);
		const moved = withClip('A', (one) => ({
			...one,
			placement: { ...one.placement, startFlicks: one.placement.startFlicks + 1 }
		}));
		expect(signedText(moved, LINE_UP)).not.toBe(before);
		expect(signedText({ ...shoot, name: 'Another' }, LINE_UP)).toBe(before);
	});
});

const point = (name: string, seconds: number, sense: SyncPoint['sense'] = 'heard'): SyncPoint => ({
	id: `${name} ${seconds}`,
	clipId: '',
	name,
	mediaFlicks: secondsToFlicks(seconds),
	sense
});

describe('sync points', () => {
	it('tell how far marks of one event lie apart, in whatever case its name is written', () => {
		const one = { ...clip('1'), syncPoints: [point('Clap', 100)] };
		const other = { ...clip('A'), syncPoints: [point('clap ', 90.0255), point('alone', 5)] };
		const [clap, alone] = checkPoints([one, other]);
		// A's 90.0255 s are 100.030 s of the line-up with its clock of +50 ppm.
		expect(clap!.spreadSeconds).toBeCloseTo(0.03, 4);
		expect(clap!.points.map((check) => Math.round(1000 * check.offSeconds))).toEqual([-15, 15]);
		expect(alone!.spreadSeconds).toBe(0);
	});

	it('show how far a microphone is: what is seen at 50 s and heard 58.3 ms later is 20 m away', () => {
		const seen = withClip('A', (one) => ({
			...one,
			syncPoints: [point('clap', 50, 'seen'), point('clap', 2000, 'seen'), point('clap', 2500, 'seen')]
		}));
		const [suggestion, ...others] = suggestAirDelays(
			seen,
			clips(seen),
			new Map([
				['clap 50', secondsToFlicks(50.0583)],
				['clap 2000', secondsToFlicks(2000.0583)]
			])
		);
		expect(others).toEqual([]);
		expect(suggestion).toMatchObject({ deviceId: 'device-A', from: 'what is seen', witnesses: 2 });
		expect(suggestion!.metres).toBeCloseTo(20, 1);
	});

	it('so does timecode that sound contradicts by a constant; an hour is a clock that is set wrong', () => {
		const clocked = (aheadSeconds: number): Shoot => ({
			...shoot,
			clips: shoot.clips.map((one) => ({
				...one,
				clockSeconds:
					36_000 + flicksToSeconds(one.placement!.startFlicks) + (one.deviceId === 'device-A' ? aheadSeconds : 0)
			}))
		});
		expect(suggestAirDelays(clocked(0.1), clips(clocked(0.1)), new Map())).toMatchObject([
			{ deviceId: 'device-A', from: 'its timecode', delaySeconds: expect.closeTo(0.1, 6) }
		]);
		expect(suggestAirDelays(clocked(3600), clips(clocked(3600)), new Map())).toEqual([]);
		expect(suggestAirDelays(clocked(0.02), clips(clocked(0.02)), new Map())).toEqual([]);
	});
});

describe('snapping', () => {
	const ms = FLICKS_PER_SECOND / 1000;
	it.each([
		['to the nearest', 19 * ms, { byFlicks: 20 * ms, ontoFlicks: 120 * ms }],
		['not from afar', 40 * ms, { byFlicks: 40 * ms }],
		['of two, to the closer one', 296 * ms, { byFlicks: 295 * ms, ontoFlicks: 395 * ms }]
	])('%s', (_, byFlicks, snap) => {
		expect(snapShift(byFlicks, [100 * ms, 5000 * ms], [120 * ms, 395 * ms, 399 * ms], 5 * ms)).toEqual(snap);
	});
});
