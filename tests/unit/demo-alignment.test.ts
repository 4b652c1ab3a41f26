import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { installDemoMedia } from '../../demo/install';
import { type AlignmentFile, alignFolder } from '../../src/lib/server/stages/line-up/align-folder';
import { demoTruth } from '../support/demo-truth';

/** The demo shoot against what its generator knows. */
describe('the demo shoot', () => {
	let folder: string;
	let result: AlignmentFile;

	beforeAll(async () => {
		folder = await mkdtemp(join(tmpdir(), 'open-choir-demo-'));
		result = await alignFolder(await installDemoMedia(folder));
	}, 300_000);
	afterAll(() => rm(folder, { recursive: true }));

	it('becomes one line-up; only the rehearsal and the camera without sound are left over', () => {
		expect(result.groups).toHaveLength(1);
		expect(result.groups[0]!.reference).toBe('recorder-1');
		expect(result.groups[0]!.clips).toHaveLength(13);
		expect(result.unplaced.map(({ path, reason }) => [path, reason])).toEqual([
			['camera-b/B001_C000.mov', 'no common sound with anything'],
			['camera-e/gallery.mp4', 'no sound stream']
		]);
	});

	it('has every clip within 5 ms of where sound through the air puts it, and every clock within 5 ppm', () => {
		const truth = new Map(demoTruth().map((one) => [one.path, one]));
		const reference = truth.get('recorder-1/FERRY_T01_0001.WAV')!;
		const zero = result.groups[0]!.clips.find((clip) => clip.path === reference.path)!.start;
		for (const clip of result.groups[0]!.clips) {
			const own = truth.get(clip.path)!;
			const late = own.clockStartSeconds - reference.clockStartSeconds - (clip.start - zero);
			const [least, most] = own.airDelaySeconds;
			expect(late, `${clip.path}: ${(late * 1000).toFixed(2)} ms`).toBeGreaterThan(
				least - reference.airDelaySeconds[1] - 0.005
			);
			expect(late, `${clip.path}: ${(late * 1000).toFixed(2)} ms`).toBeLessThan(
				most - reference.airDelaySeconds[0] + 0.005
			);
			expect(Math.abs(clip.ratePpm - own.ratePpm), clip.path).toBeLessThan(5);
			expect(clip.confidence).toBeGreaterThan(0.9);
			// Nothing was lost: quiet heads and tails are no leaps.
			expect(clip.parts).toBeUndefined();
		}
	});

	it('joins the recorder’s two files to the sample', () => {
		const [first, second] = result.groups[0]!.clips.filter((clip) => clip.device === 'recorder-1');
		expect(second!.start - first!.start).toBeCloseTo(128 * (1 + first!.ratePpm * 1e-6), 6);
	});
});
