import { describe, expect, it } from 'vitest';
import { LINE_UP, type SampleChannel, sampleShoot } from '../../../../tests/support/sample-shoot';
import { type MasterChannel, type Mix, USUAL_MIX } from '../shoot/decisions';
import { placedClips } from '../shoot/lookup';
import type { Shoot } from '../shoot/shoot';
import { flicksToSeconds, secondsToFlicks } from '../time/flicks';
import { factorAt } from './gain-curve';
import type { HeardSpeech } from './heard-speech';
import { mixedSound } from './mixed-sound';
import { soundRuns } from './sound-runs';

const CLIPS = [
	// The master's recorder stops from 40 to 60 s.
	{ badge: '1', start: 0, length: 40, channels: 2 },
	{ badge: '1', start: 60, length: 40, channels: 2 },
	{ badge: '2', start: 0, length: 50 },
	{ badge: 'A', start: 0, length: 100, channels: 2 },
	{ badge: 'B', start: 30, length: 70 }
];

function shootOf({
	master = [{ deviceId: 'device-1', channel: 0 }],
	mix = {},
	standIns = []
}: {
	readonly master?: readonly SampleChannel[];
	readonly mix?: Partial<Mix>;
	readonly standIns?: readonly (readonly MasterChannel[])[];
} = {}): Shoot {
	const shoot = sampleShoot(CLIPS, { master });
	return { ...shoot, lineUps: shoot.lineUps.map((one) => ({ ...one, standIns, mix: { ...USUAL_MIX, ...mix } })) };
}

function mixOf(shoot: Shoot, heard?: HeardSpeech, [from, to]: readonly [number, number] = [0, 100]) {
	const range = { inFlicks: secondsToFlicks(from), outFlicks: secondsToFlicks(to) };
	return mixedSound(shoot, LINE_UP, soundRuns(placedClips(shoot, LINE_UP)), range, heard);
}

const rows = ({ intervals }: ReturnType<typeof mixOf>) =>
	intervals.map(({ run, turn, inFlicks, outFlicks, channels }) => [
		run.deviceId.slice(-1),
		turn,
		...[inFlicks, outFlicks].map((flicks) => Math.round(flicksToSeconds(flicks) * 100) / 100),
		channels.map((one) => one.channel).join('+')
	]);

const source = (badge: string, channel: number, points: number, ...levels: number[]) => ({
	deviceId: `device-${badge}`,
	channel,
	points,
	measures: { loudnessLufs: -23 },
	people: levels.map((levelDb) => ({ points, levelDb }))
});
/** The camera has one person 6 dB softer and the other 4 dB louder than the master has. */
const HEARD = {
	people: [],
	personIds: ['a', 'b'],
	sets: [{ kind: 'device', channels: [0, 1].map((channel) => ({ deviceId: 'device-A', channel })), points: 70 }],
	sources: [
		source('1', 0, 80, -20, -30),
		source('2', 0, 40, -26, -26),
		source('A', 0, 60, -29.03, -29.03),
		source('A', 1, 60, -29.03, -29.03),
		source('B', 0, 50, -20, -20)
	],
	speech: [
		['a', 38, 45],
		['b', 50, 58]
	].map(([personId, from, to]) => ({
		personId,
		inFlicks: secondsToFlicks(Number(from)),
		outFlicks: secondsToFlicks(Number(to)),
		confidence: 1,
		isByHand: false
	}))
} as unknown as HeardSpeech;

describe('what the audience hears', () => {
	it('is the master, in its gap recorders before cameras as long as nobody has listened, the longest first', () => {
		expect(rows(mixOf(shootOf()))).toEqual([
			['1', 0, 0, 40, '0'],
			['1', 0, 60, 100, '0'],
			['2', 1, 39.96, 50, '0'],
			['A', 2, 49.96, 60.04, '0+1']
		]);
	});

	it('is the best there is where that is known, changed in a pause', () => {
		const mixed = mixOf(shootOf(), HEARD);
		expect(mixed.order.map((own) => own[0]!.deviceId.slice(-1))).toEqual(['1', 'A', 'B', '2']);
		expect(rows(mixed)).toEqual([
			['1', 0, 0, 38, '0'],
			['1', 0, 60, 100, '0'],
			['A', 1, 37.96, 60.04, '0+1']
		]);
	});

	it('has each person as loud from what stands in as from the master', () => {
		const stand = mixOf(shootOf(), HEARD).intervals.find((one) => one.turn === 1)!;
		const dbAt = (seconds: number) => 20 * Math.log10(factorAt(stand.channels[0]!.curve!, secondsToFlicks(seconds)));
		expect(dbAt(42)).toBeCloseTo(6, 1);
		expect(dbAt(54)).toBeCloseTo(-4, 1);
	});

	it('is what an editor has ordered, or nothing', () => {
		const only = shootOf({
			standIns: [
				[{ deviceId: 'device-B', channel: 0, gainDb: -3, pan: 1, isInverted: false, lowCutHz: 100, shiftFlicks: 0 }]
			]
		});
		const [, , stand] = mixOf(only, HEARD).intervals;
		expect(stand!.channels[0]).toMatchObject({ channel: 0, gainDb: -3, pan: 1, lowCutHz: 100 });
		expect(rows(mixOf(shootOf({ mix: { coversGaps: false } }), HEARD))).toHaveLength(2);
		expect(mixOf(shootOf({ master: [] }), HEARD).intervals).toEqual([]);
	});

	it('does not depend on the stretch that is asked for', () => {
		const whole = mixOf(shootOf(), HEARD);
		const part = mixOf(shootOf(), HEARD, [38, 59.5]);
		expect(part.turns).toEqual(whole.turns);
		expect(rows(part)).toEqual([['A', 1, 38, 59.5, '0+1']]);
		expect(part.intervals[0]!.part).toEqual(whole.intervals[2]!.part);
	});

	it('has a channel that is moved in a run of its own, all of it moved', () => {
		const shiftFlicks = secondsToFlicks(-0.0062);
		const { intervals } = mixOf(
			shootOf({
				master: [
					{ deviceId: 'device-1', channel: 0 },
					{ deviceId: 'device-1', channel: 1, shiftFlicks }
				]
			})
		);
		const [still, moved] = [intervals[0]!, intervals.find((one) => one.shiftFlicks !== 0)!];
		expect(moved.channels.map((one) => one.channel)).toEqual([1]);
		expect(moved.run.course.startFlicks - still.run.course.startFlicks).toBe(shiftFlicks);
		expect(moved.run.files[0]!.firstSampleFlicks - still.run.files[0]!.firstSampleFlicks).toBe(shiftFlicks);
	});
});
