import { describe, expect, it } from 'vitest';
import { clipsOf, heardAt, readOtio, seenAt } from '../../../../tests/support/otio-reader';
import { sampleProgram, sampleShoot } from '../../../../tests/support/sample-shoot';
import type { Shoot } from '../shoot/shoot';
import { FLICKS_PER_SECOND } from '../time/flicks';
import { toOtio } from './otio';

const write = (shoot: Shoot, program = PROGRAM) =>
	readOtio(toOtio(shoot, program, (part) => `file:///cards/${part.relativePath}`));
const PROGRAM = sampleProgram(10, 60, [
	[10, 'A'],
	[30, 'B']
]);

// No reference library is to be had here; the reader is a strict one of our own, from memory of the published specification.
describe('OpenTimelineIO', () => {
	const shoot = sampleShoot(
		[
			{ badge: 'A', start: 2, length: 100, ratePpm: 62 },
			{ badge: 'B', start: 1, length: 90 },
			{ badge: '1', start: 0, length: 110, files: [60, 50] }
		],
		{ master: [{ deviceId: 'device-1', channel: 0, gainDb: -3, pan: 0.5 }] }
	);
	const timeline = write(shoot);

	it('names a schema on every object', () => {
		const objects = (value: unknown, path: string): void => {
			if (Array.isArray(value)) for (const [index, one] of value.entries()) objects(one, `${path}[${index}]`);
			else if (value !== null && typeof value === 'object') {
				if (!/metadata|media_references$/.test(path)) expect(value, path).toHaveProperty('OTIO_SCHEMA');
				for (const [key, one] of Object.entries(value)) if (key !== 'metadata') objects(one, `${path}.${key}`);
			}
		};
		objects(timeline, 'timeline');
	});

	it('shows another program the program: the called angle on top, nothing outside', () => {
		for (const [at, url, media] of [
			[10, 'A/clip-0-0.mp4', 8 / 1.000062],
			[29.96, 'A/clip-0-0.mp4', 27.96 / 1.000062],
			[30, 'B/clip-1-0.mp4', 29],
			[59.96, 'B/clip-1-0.mp4', 58.96]
		] as const) {
			const seen = seenAt(timeline, at)!;
			expect(seen.url).toBe(`file:///cards/folder-${url}`);
			// To the frame: whole frames of the media's own rate.
			expect(seen.mediaSeconds + (at - seen.beginsSeconds)).toBeGreaterThan(media - 0.0401);
			expect(seen.mediaSeconds + (at - seen.beginsSeconds)).toBeLessThanOrEqual(media + 1e-3);
			expect(Number.isInteger(seen.item.source_range!.start_time.value)).toBe(true);
		}
		expect([9.99, 60.01].map((at) => seenAt(timeline, at))).toEqual([undefined, undefined]);
	});

	it('plays the master and nothing else, over the seam of its files, with its levels as notes', () => {
		expect(heardAt(timeline, 20).map((one) => one.url)).toEqual(['file:///cards/folder-1/clip-2-0.wav']);
		expect(heardAt(timeline, 9.99)).toEqual([]);
		const [first, ...others] = clipsOf(timeline, (track) => track.kind === 'Audio' && track.enabled);
		expect([first!.beginsSeconds, first!.endsSeconds, first!.mediaSeconds]).toEqual([10, 60, 10]);
		expect(others).toEqual([]);
		const track = timeline.tracks.children!.find((one) => one.name.startsWith('Program sound'))!;
		expect(track.metadata['open_choir']).toMatchObject({ channels: [{ channel: 1, gain_db: -3, pan: 0.5 }] });
		const people = [{ id: 'p', name: 'Marit', mark: 0, channels: [{ deviceId: 'device-1', channel: 1 }] }];
		const named = write({ ...shoot, people }, sampleProgram(10, 60, [[10, 'A']]));
		const sound = named.tracks.children!.find((one) => one.name.startsWith('Program sound'))!;
		expect(sound.metadata['open_choir']).toMatchObject({ channels: [{ channel: 1, people: [] }] });
		expect(named.metadata['open_choir']).toMatchObject({
			people: [{ name: 'Marit', channels: [{ device: '1', channel: 2 }] }]
		});
		const over = write(shoot, sampleProgram(50, 80, [[50, 'A']]));
		expect(
			clipsOf(over, (one) => one.kind === 'Audio' && one.enabled).map((one) => [one.beginsSeconds, one.endsSeconds])
		).toEqual([
			[50, 60],
			[60, 80]
		]);
	});

	it('gives every device its track below, whole and not shown, with joined files one after another', () => {
		expect(timeline.tracks.children!.map((one) => [one.name[0], one.kind, one.enabled])).toEqual([
			['A', 'Video', false],
			['B', 'Video', false],
			['1', 'Audio', false],
			['P', 'Audio', true],
			['P', 'Video', true]
		]);
		const lanes = (badge: string) =>
			clipsOf(timeline, (track) => track.name.startsWith(badge)).map((one) => [one.beginsSeconds, one.endsSeconds]);
		expect(lanes('1')).toEqual([
			[0, 60],
			[60, 110]
		]);
		// 100 s at +62 ppm end 6.2 ms later: less than half a frame.
		expect(lanes('A')).toEqual([[2, 102]]);
	});

	it('leaves clips of one device that overlap at their true places', () => {
		const overlapping = sampleShoot([
			{ badge: 'A', start: 2, length: 30 },
			{ badge: 'A', start: 20, length: 30 },
			{ badge: 'B', start: 0, length: 90 }
		]);
		expect(
			clipsOf(write(overlapping), (track) => track.name.startsWith('A')).map((one) => [
				one.track,
				one.beginsSeconds,
				one.endsSeconds
			])
		).toEqual([
			['A Device A', 2, 32],
			['A Device A (2)', 20, 50]
		]);
	});

	it('begins the media at its own timecode', () => {
		const clips = shoot.clips.map((clip) =>
			clip.deviceId === 'device-B'
				? { ...clip, parts: clip.parts.map((part) => ({ ...part, clockSeconds: 36_000 })) }
				: clip
		);
		const seen = seenAt(write({ ...shoot, clips }), 30)!;
		expect(seen.timecodeSeconds).toBe(36_029);
		expect(seen.mediaSeconds).toBe(29);
	});

	it('never asks for more than there is, however slow a clock', () => {
		const slow = sampleShoot(
			[
				{ badge: 'A', start: 0, length: 300 },
				{ badge: '1', start: 0, length: 300, ratePpm: 90 }
			],
			{ master: [{ deviceId: 'device-1', channel: 0, gainDb: 0, pan: 0 }] }
		);
		// The reader refuses what lies outside the media.
		const heard = clipsOf(write(slow, sampleProgram(0, 300, [[0, 'A']])), (track) => track.kind === 'Audio');
		expect(heard.length).toBeGreaterThan(0);
	});

	it('warps time only where it shows: half a frame within the item', () => {
		const speeds = (ratePpm: number) => {
			const one = sampleShoot([{ badge: 'A', start: 0, length: 1000, ratePpm }]);
			return clipsOf(write(one, sampleProgram(0, 900, [[0, 'A']])), (track) => track.enabled);
		};
		expect(speeds(20).map((clip) => clip.speed)).toEqual([1]);
		// 900 s at 62 ppm slip by 1.4 frames: two pieces, each from its own place on.
		const pieces = speeds(62);
		expect(pieces.map((clip) => [clip.beginsSeconds, clip.endsSeconds])).toEqual([
			[0, 450],
			[450, 900]
		]);
		expect(pieces[1]!.speed).toBeCloseTo(1 / 1.000062, 12);
		expect(pieces[1]!.mediaSeconds).toBeCloseTo(450 / 1.000062, 1);
	});

	it('lays pictures on whole frames and carries along what that leaves over, and the air between picture and sound', () => {
		const [camera, ...others] = shoot.clips;
		const airFlicks = 0.05 * FLICKS_PER_SECOND;
		// 15 ms after frame 50, and 50 ms of air: frame 51.625 of 25.
		const moved = {
			...camera!,
			placement: { ...camera!.placement!, startFlicks: 2.015 * FLICKS_PER_SECOND, airFlicks }
		};
		const [clip] = clipsOf(write({ ...shoot, clips: [moved, ...others] }), (track) => track.name.startsWith('A'));
		expect(clip!.beginsSeconds).toBe(52 / 25);
		const notes = clip!.item.metadata['open_choir'] as Record<string, number>;
		expect(notes['remainder']).toBeCloseTo(-0.375, 6);
		expect((notes['picture_start_flicks']! - notes['sound_start_flicks']!) / FLICKS_PER_SECOND).toBeCloseTo(0.05, 9);
	});
});
