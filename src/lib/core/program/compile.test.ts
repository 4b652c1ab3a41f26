import { describe, expect, it } from 'vitest';
import { sampleProgram, sampleShoot } from '../../../../tests/support/sample-shoot';
import { FLICKS_PER_SECOND, flicksToSeconds, videoFrameToFlicks } from '../time/flicks';
import { seededRandom } from '../../../../demo/random';
import { placedEnd } from '../shoot/clip';
import { placedClips } from '../shoot/lookup';
import type { Shoot } from '../shoot/shoot';
import { compile, pictureOnAir, type Plan } from './compile';
import { shotAt } from './program';
import { fadeGain, runsOfSounds } from './sound-runs';

const MASTER = [
	{ deviceId: 'device-1', channel: 0, gainDb: -3, pan: 0 },
	{ deviceId: 'device-1', channel: 2, gainDb: 0, pan: -1 }
];

describe('the compiled plan', () => {
	it('cuts the program into pieces of one file each, frame by frame', () => {
		const shoot = sampleShoot(
			[
				{ badge: 'A', start: 0, length: 100, files: [40, 60] },
				{ badge: 'B', start: 0, length: 100 },
				{ badge: '1', start: 0, length: 100, channels: 4 }
			],
			{ master: MASTER }
		);
		const plan = compile(
			shoot,
			sampleProgram(10, 60, [
				[10, 'A'],
				[30, 'B'],
				[35, 'A']
			])
		);
		expect([plan.fromFrame, plan.toFrame]).toEqual([250, 1500]);
		expect(rows(plan)).toEqual([
			[250, 750, 'called', 'file-A-0-0'],
			[750, 875, 'called', 'file-B-1-0'],
			[875, 1000, 'called', 'file-A-0-0'],
			[1000, 1500, 'called', 'file-A-0-1']
		]);
		expect(sourceOf(plan, 3)!.startFlicks).toBe(40 * FLICKS_PER_SECOND);
		expect([plan.stoodInFrames, plan.blackFrames]).toEqual([0, 0]);
	});

	it('lets the main camera stand in where the called angle has no picture, and says for how long', () => {
		const shoot = sampleShoot([
			{ badge: 'B', start: 0, length: 100 },
			{ badge: 'A', start: 0, length: 100 },
			{ badge: 'D', start: 20, length: 10 }
		]);
		const plan = compile(shoot, sampleProgram(10, 40, [[10, 'D']]));
		expect(rows(plan)).toEqual([
			[250, 500, 'stand-in', 'file-A-1-0'],
			[500, 750, 'called', 'file-D-2-0'],
			[750, 1000, 'stand-in', 'file-A-1-0']
		]);
		const at = (seconds: number) => pictureOnAir(plan, seconds * FLICKS_PER_SECOND)?.shown.kind;
		expect([9.99, 10, 19.99, 20, 29.99, 30, 40].map(at)).toEqual([
			undefined,
			'stand-in',
			'stand-in',
			'called',
			'called',
			'stand-in',
			undefined
		]);
		expect(plan.stoodInFrames).toBe(500);
	});

	it('holds the nearest picture where no camera has one; black is only what never had any', () => {
		const plan = compile(sampleShoot([{ badge: 'A', start: 20, length: 10 }]), sampleProgram(10, 40, [[10, 'A']]));
		expect(rows(plan)).toEqual([
			[250, 500, 'held', 'file-A-0-0'],
			[500, 750, 'called', 'file-A-0-0'],
			[750, 1000, 'held', 'file-A-0-0']
		]);
		// The first picture before, the last one after.
		expect([heldFrame(plan, 0), heldFrame(plan, 2)]).toEqual([500, 749]);
		expect([plan.heldFrames, plan.blackFrames]).toEqual([500, 0]);
		const nothing = compile(sampleShoot([{ badge: 'A', start: 20, length: 10 }]), sampleProgram(50, 60, [[50, 'A']]));
		expect([nothing.heldFrames, nothing.blackFrames]).toEqual([0, 250]);
	});

	it('waits for a picture that starts later than the sound of its file', () => {
		const plan = compile(
			sampleShoot([{ badge: 'A', start: 10, length: 20, pictureStart: 0.1 }]),
			sampleProgram(10, 20, [[10, 'A']])
		);
		expect(rows(plan)).toEqual([
			[250, 253, 'held', 'file-A-0-0'],
			[253, 500, 'called', 'file-A-0-0']
		]);
	});

	it('stretches a source by its clock and gathers the master’s channels', () => {
		const shoot = sampleShoot(
			[
				{ badge: 'A', start: 0, length: 100, ratePpm: 62 },
				{ badge: '1', start: 5, length: 100, ratePpm: -45, channels: 4, files: [50, 50] }
			],
			{ master: MASTER }
		);
		const plan = compile(shoot, sampleProgram(10, 80, [[10, 'A']]));
		expect(sourceOf(plan, 0)!.rateFactor).toBeCloseTo(1.000062, 12);
		// Two files of one recording are one run: sample follows sample over the seam, which lies where the clock puts it.
		expect(plan.sounds).toHaveLength(1);
		const [{ run, inFlicks, outFlicks, channels }] = plan.sounds as [(typeof plan.sounds)[0]];
		expect(run.files.map((file) => file.fileId)).toEqual(['file-1-1-0', 'file-1-1-1']);
		expect(flicksToSeconds(run.files[1]!.firstSampleFlicks)).toBeCloseTo(5 + 50 * (1 - 45e-6), 8);
		expect([inFlicks, outFlicks].map(flicksToSeconds)).toEqual([10, 80]);
		expect(channels.map((one) => one.channel)).toEqual([0, 2]);
	});

	it('holds the picture before a hole in the middle of a file', () => {
		// Samples were lost at 20 s: the file lies in two clips, the second one 2 s later than it would.
		const [first, second] = [
			{ badge: 'A', start: 0, length: 20, files: [40] },
			{ badge: 'A', start: 22, length: 20, files: [40], offset: -20 }
		];
		const plan = compile(sampleShoot([first!, second!]), sampleProgram(10, 40, [[10, 'A']]));
		expect(rows(plan)).toEqual([
			[250, 500, 'called', 'file-A-0-0'],
			[500, 550, 'held', 'file-A-0-0'],
			[550, 1000, 'called', 'file-A-1-0']
		]);
		expect(heldFrame(plan, 1)).toBe(499);
	});

	it('leaves out files that are gone: another angle stands in', () => {
		const shoot = sampleShoot([
			{ badge: 'A', start: 0, length: 100 },
			{ badge: 'B', start: 0, length: 100 }
		]);
		const clips = shoot.clips.map((clip) =>
			clip.deviceId === 'device-A' ? { ...clip, parts: clip.parts.map((part) => ({ ...part, isMissing: true })) } : clip
		);
		const plan = compile({ ...shoot, clips }, sampleProgram(10, 20, [[10, 'A']]));
		expect(rows(plan)).toEqual([[250, 500, 'stand-in', 'file-B-1-0']]);
	});

	it('compiles hundreds of clips that overlap to what a look at single frames gives', () => {
		const random = seededRandom(7);
		const badges = ['A', 'B', 'C', 'D', 'E'];
		const clips = Array.from({ length: 400 }, (_, index) => ({
			badge: badges[index % 5]!,
			start: random() * 1000,
			length: 1 + random() * 20
		}));
		const calls = Array.from(
			{ length: 60 },
			() => [Math.floor(random() * 22_500) / 25, badges[Math.floor(random() * 5)]!] as const
		);
		const shoot = sampleShoot(clips);
		const program = sampleProgram(0, 960, [[0, 'A'], ...calls]);
		const plan = compile(shoot, program);
		let at = plan.fromFrame;
		for (const one of plan.pictures) {
			expect(one.fromFrame).toBe(at);
			at = one.toFrame;
			const shot = shotAt(program, videoFrameToFlicks(one.fromFrame, shoot.rate))!;
			for (const frame of [one.fromFrame, Math.floor((one.fromFrame + one.toFrame) / 2), one.toFrame - 1])
				expect(lookedUp(shoot, shot.deviceId, frame), `frame ${frame}`).toBe(
					one.shown.kind === 'black' || one.shown.kind === 'held' ? undefined : one.shown.source.fileId
				);
		}
		expect(at).toBe(plan.toFrame);
	});
});

describe('the sound of one device', () => {
	const clips = (samples: Parameters<typeof sampleShoot>[0]) => placedClips(sampleShoot(samples), 'line-up-1');

	it('sounds once where its clips overlap, and goes over with equal power', () => {
		const [first, second] = runsOfSounds(
			clips([
				{ badge: '1', start: 0, length: 10 },
				{ badge: '1', start: 9, length: 10 }
			])
		).get('device-1')!;
		expect([first!.outFlicks, second!.inFlicks].map(flicksToSeconds)).toEqual([10, 9.99]);
		for (let flicks = second!.inFlicks; flicks < first!.outFlicks; flicks += FLICKS_PER_SECOND / 1000)
			expect(fadeGain(first!, flicks) ** 2 + fadeGain(second!, flicks) ** 2).toBeCloseTo(1, 12);
		expect(fadeGain(first!, 9.5 * FLICKS_PER_SECOND)).toBe(1);
		expect(fadeGain(second!, 9.5 * FLICKS_PER_SECOND)).toBe(0);
	});

	it('does not begin or end with a click, and a clip within another is not heard', () => {
		const runs = runsOfSounds(
			clips([
				{ badge: '1', start: 0, length: 10 },
				{ badge: '1', start: 3, length: 2 }
			])
		).get('device-1')!;
		expect(runs).toHaveLength(1);
		expect(fadeGain(runs[0]!, 0)).toBe(0);
		expect(fadeGain(runs[0]!, FLICKS_PER_SECOND / 200)).toBe(1);
		expect(fadeGain(runs[0]!, 10 * FLICKS_PER_SECOND - 1)).toBeLessThan(1e-3);
	});
});

function rows({ pictures }: Plan): readonly unknown[] {
	return pictures.map(({ fromFrame, toFrame, shown }) => [
		fromFrame,
		toFrame,
		shown.kind,
		shown.kind === 'black' ? undefined : shown.source.fileId
	]);
}

function sourceOf({ pictures }: Plan, index: number) {
	const { shown } = pictures[index]!;
	return shown.kind === 'black' ? undefined : shown.source;
}

function heldFrame({ pictures }: Plan, index: number): number | undefined {
	const { shown } = pictures[index]!;
	return shown.kind === 'held' ? shown.heldFrame : undefined;
}

/** Angle by angle at one frame: which file shows, of the clip that began first and goes on to its end. */
function lookedUp(shoot: Shoot, called: string, frame: number): string | undefined {
	const flicks = videoFrameToFlicks(frame, shoot.rate);
	const others = ['A', 'B', 'C', 'D', 'E'].map((badge) => `device-${badge}`);
	for (const deviceId of [called, ...others.filter((one) => one !== called)]) {
		let end = -Infinity;
		for (const clip of placedClips(shoot, 'line-up-1').filter((one) => one.deviceId === deviceId)) {
			const begins = Math.max(end, clip.placement.startFlicks);
			if (placedEnd(clip) <= begins) continue;
			end = placedEnd(clip);
			if (flicks >= begins - 1 && flicks < end - 1) return clip.parts[0]!.fileId;
		}
	}
	return undefined;
}
