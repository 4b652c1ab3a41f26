import { describe, expect, it } from 'vitest';
import { sampleProgram, sampleShoot } from '../../../../tests/support/sample-shoot';
import { FLICKS_PER_SECOND, flicksToSeconds } from '../time/flicks';
import { renderPlan } from './render-plan';

const MASTER = [
	{ deviceId: 'device-1', channel: 0, gainDb: -3, pan: 0 },
	{ deviceId: 'device-1', channel: 2, gainDb: 0, pan: -1 }
];

describe('the render plan', () => {
	it('cuts the program into pieces of one file each, frame by frame', () => {
		const shoot = sampleShoot(
			[
				{ badge: 'A', start: 0, length: 100, files: [40, 60] },
				{ badge: 'B', start: 0, length: 100 },
				{ badge: '1', start: 0, length: 100, channels: 4 }
			],
			{ master: MASTER }
		);
		const plan = renderPlan(
			shoot,
			sampleProgram(10, 60, [
				[10, 'A'],
				[30, 'B'],
				[35, 'A']
			])
		);
		expect([plan.fromFrame, plan.toFrame]).toEqual([250, 1500]);
		expect(plan.pictures.map((piece) => [piece.fromFrame, piece.toFrame, piece.source?.fileId])).toEqual([
			[250, 750, 'file-A-0-0'],
			[750, 875, 'file-B-1-0'],
			[875, 1000, 'file-A-0-0'],
			[1000, 1500, 'file-A-0-1']
		]);
		expect(plan.pictures.at(-1)!.source!.startFlicks).toBe(40 * FLICKS_PER_SECOND);
		expect([plan.stoodInFrames, plan.blackFrames]).toEqual([0, 0]);
	});

	it('lets the main camera stand in where the called angle has no picture, and says for how long', () => {
		const shoot = sampleShoot([
			{ badge: 'B', start: 0, length: 100 },
			{ badge: 'A', start: 0, length: 100 },
			{ badge: 'D', start: 20, length: 10 }
		]);
		const plan = renderPlan(shoot, sampleProgram(10, 40, [[10, 'D']]));
		expect(plan.pictures.map((piece) => [piece.fromFrame, piece.toFrame, piece.source!.deviceId])).toEqual([
			[250, 500, 'device-A'],
			[500, 750, 'device-D'],
			[750, 1000, 'device-A']
		]);
		expect(plan.stoodInFrames).toBe(500);
	});

	it('holds the nearest picture where no camera has one; black is only what never had any', () => {
		const plan = renderPlan(sampleShoot([{ badge: 'A', start: 20, length: 10 }]), sampleProgram(10, 40, [[10, 'A']]));
		expect(plan.pictures.map((piece) => [piece.fromFrame, piece.toFrame, piece.source === undefined])).toEqual([
			[250, 500, true],
			[500, 750, false],
			[750, 1000, true]
		]);
		expect(plan.pictures.map((piece) => piece.holds?.fileId)).toEqual(['file-A-0-0', undefined, 'file-A-0-0']);
		expect([plan.heldFrames, plan.blackFrames]).toEqual([500, 0]);
		const nothing = renderPlan(
			sampleShoot([{ badge: 'A', start: 20, length: 10 }]),
			sampleProgram(50, 60, [[50, 'A']])
		);
		expect([nothing.heldFrames, nothing.blackFrames]).toEqual([0, 250]);
	});

	it('waits for a picture that starts later than the sound of its file', () => {
		const plan = renderPlan(
			sampleShoot([{ badge: 'A', start: 10, length: 20, pictureStart: 0.1 }]),
			sampleProgram(10, 20, [[10, 'A']])
		);
		expect(plan.pictures.map((piece) => [piece.fromFrame, piece.toFrame, piece.source === undefined])).toEqual([
			[250, 253, true],
			[253, 500, false]
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
		const plan = renderPlan(shoot, sampleProgram(10, 80, [[10, 'A']]));
		expect(plan.pictures[0]!.source!.rateFactor).toBeCloseTo(1.000062, 12);
		expect(plan.sounds.map((piece) => [piece.source.fileId, piece.channels.map((one) => one.channel)])).toEqual([
			['file-1-1-0', [0, 2]],
			['file-1-1-1', [0, 2]]
		]);
		const [first, second] = plan.sounds;
		expect(flicksToSeconds(first!.inFlicks)).toBe(10);
		// The seam lies where the recorder's clock puts it, to the flick, for both files alike.
		expect(first!.outFlicks).toBe(second!.inFlicks);
		expect(flicksToSeconds(second!.inFlicks)).toBeCloseTo(5 + 50 * (1 - 45e-6), 8);
		expect(flicksToSeconds(second!.outFlicks)).toBe(80);
	});
});
