import { describe, expect, it } from 'vitest';
import { sampleProgram, sampleShoot } from '../../../../tests/support/sample-shoot';
import { toOtio } from './otio';

interface Item {
	readonly OTIO_SCHEMA: string;
	readonly name?: string;
	readonly kind?: string;
	readonly children?: readonly Item[];
	readonly source_range?: {
		readonly start_time: { readonly value: number; readonly rate: number };
		readonly duration: { readonly value: number; readonly rate: number };
	};
	readonly effects?: readonly { readonly OTIO_SCHEMA: string; readonly time_scalar: number }[];
	readonly media_references?: Readonly<Record<string, { readonly target_url: string }>>;
}

// No reference library is to be had here; the schema names are written from memory of the published specification.
describe('OpenTimelineIO', () => {
	const shoot = sampleShoot([
		{ badge: 'A', start: 2, length: 100, ratePpm: 62 },
		{ badge: 'B', start: 1, length: 90 },
		{ badge: '1', start: 0, length: 110, files: [60, 50] }
	]);
	const timeline = JSON.parse(
		toOtio(
			shoot,
			sampleProgram(10, 60, [
				[10, 'A'],
				[30, 'B']
			]),
			(part) => `file:///cards/${part.relativePath}`
		)
	) as {
		OTIO_SCHEMA: string;
		tracks: Item;
	};
	const track = (name: string) => timeline.tracks.children!.find((one) => one.name!.startsWith(name))!;

	it('names a schema on every object', () => {
		const check = (value: unknown, path: string) => {
			if (Array.isArray(value)) for (const [index, one] of value.entries()) check(one, `${path}[${index}]`);
			else if (value !== null && typeof value === 'object') {
				if (!/metadata|media_references$/.test(path)) expect(value, path).toHaveProperty('OTIO_SCHEMA');
				for (const [key, one] of Object.entries(value)) if (key !== 'metadata') check(one, `${path}.${key}`);
			}
		};
		check(timeline, 'timeline');
		expect(timeline.OTIO_SCHEMA).toBe('Timeline.1');
	});

	it('holds the program as plain clips at their times', () => {
		const [gap, first, second] = track('Program').children!;
		expect(gap!.OTIO_SCHEMA).toBe('Gap.1');
		expect(gap!.source_range!.duration).toMatchObject({ value: 250, rate: 25 });
		expect(first!.media_references!['DEFAULT_MEDIA']!.target_url).toBe('file:///cards/folder-A/clip-0-0.mp4');
		// 8 s after the clip began by the line-up's clock, in the camera's own time.
		expect(first!.source_range!.start_time.value).toBeCloseTo((8 / 1.000062) * 25, 6);
		expect(first!.source_range!.duration.value).toBe(500);
		expect(first!.effects![0]).toMatchObject({ OTIO_SCHEMA: 'LinearTimeWarp.1' });
		expect(first!.effects![0]!.time_scalar).toBeCloseTo(1 / 1.000062, 12);
		expect(second!.source_range).toMatchObject({ start_time: { value: 29 * 25 }, duration: { value: 750 } });
		expect(second!.effects).toEqual([]);
	});

	it('gives every device its track, whole, with joined files one after another', () => {
		expect(timeline.tracks.children!.map((one) => [one.name![0], one.kind])).toEqual([
			['P', 'Video'],
			['A', 'Video'],
			['B', 'Video'],
			['1', 'Audio']
		]);
		expect(track('1').children!.map((one) => [one.OTIO_SCHEMA, one.source_range!.duration.value])).toEqual([
			['Clip.2', 1500],
			['Clip.2', 1250]
		]);
		const [gap, clip] = track('A').children!;
		expect(gap!.source_range!.duration.value).toBe(50);
		expect(clip!.source_range!.duration.value).toBe(2500);
	});

	it('lays pictures on whole frames and carries along what that leaves over, and the air between picture and sound', () => {
		const [camera, ...others] = shoot.clips;
		const airFlicks = 0.05 * 705_600_000;
		// 15 ms after frame 50, and 50 ms of air: frame 51.625 of 25.
		const moved = { ...camera!, placement: { ...camera!.placement!, startFlicks: 2.015 * 705_600_000, airFlicks } };
		const text = toOtio({ ...shoot, clips: [moved, ...others] }, sampleProgram(10, 60, [[10, 'B']]), () => 'file:///x');
		const { tracks } = JSON.parse(text) as { tracks: Item };
		const [gap, clip] = tracks.children!.find((one) => one.name!.startsWith('A'))!.children!;
		expect(gap!.source_range!.duration.value).toBe(52);
		const { open_choir: notes } = (clip as unknown as { metadata: { open_choir: Record<string, number> } }).metadata;
		expect(notes['frame_remainder']).toBeCloseTo(-0.375, 6);
		expect((notes['picture_start_flicks']! - notes['sound_start_flicks']!) / 705_600_000).toBeCloseTo(0.05, 9);
	});
});
