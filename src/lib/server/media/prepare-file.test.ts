import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { peakLevels } from '../../core/signal/peaks';
import { openMediaCache } from './media-cache';
import { prepareProxy, prepareSound } from './prepare-file';
import { probeFile } from './probe';
import { runTool } from './run-tool';

let folder: string;
const KEY = 'a'.repeat(32);
const PICTURE_KEY = 'b'.repeat(32);

beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-prepare-'));
});
afterAll(() => rm(folder, { recursive: true }));

async function make(name: string, ...args: readonly string[]): Promise<string> {
	const path = join(folder, name);
	await runTool('ffmpeg', ['-v', 'error', ...args, '-y', path]);
	return path;
}

describe('a sound that is prepared', () => {
	const findSharpSounds = () => Promise.resolve([{ seconds: 0.5, riseDb: 20 }]);

	it('is counted, and has peaks; what the engine reads in place is not copied', async () => {
		const path = await make('deep.wav', '-f', 'lavfi', '-i', 'sine=f=500:d=2:r=48000', '-ac', '2', '-c:a', 'pcm_s24le');
		const facts = await probeFile(path);
		expect(facts.audio!.isDeep).toBe(true);
		const cache = openMediaCache(join(folder, 'cache'));
		const prepared = { samples: 96_000, sharpSounds: [{ seconds: 0.5, riseDb: 20 }] };
		expect(await prepareSound(cache, path, KEY, facts, { findSharpSounds })).toEqual(prepared);
		const peaks = await readFile(cache.path(KEY, 'peaks.s16'));
		const levels = peakLevels(96_000);
		expect(peaks.length).toBe(2 * (levels.at(-1)!.at + 2 * levels.at(-1)!.blocks));
		// An eighth of full scale, of which each of two channels gets its share.
		expect(Math.max(...new Int16Array(peaks.buffer, peaks.byteOffset, peaks.length >> 1))).toBeCloseTo(
			32768 / 8 / Math.SQRT2,
			-2
		);
		for (const kind of ['analysis.s16', 'listening.s32'] as const) expect(await cache.has(KEY, kind)).toBe(false);
		// Again it is there, whatever finds sharp sounds.
		expect(await prepareSound(cache, path, KEY, facts, { findSharpSounds: () => Promise.reject(new Error()) })).toEqual(
			prepared
		);
	});

	it('keeps to 16 bits where the source has no more', async () => {
		const path = await make('plain.wav', '-f', 'lavfi', '-i', 'sine=f=500:d=1', '-c:a', 'pcm_s16le');
		expect((await probeFile(path)).audio!.isDeep).toBeUndefined();
	});
});

describe('a small picture', () => {
	it('can be opened while it is made, and is whole at the end', async () => {
		const path = await make(
			'long.mp4',
			'-f',
			'lavfi',
			'-i',
			'testsrc2=s=1280x720:r=25:d=40',
			'-c:v',
			'libx264',
			'-preset',
			'ultrafast'
		);
		const cache = openMediaCache(join(folder, 'cache'));
		const grown: Promise<number>[] = [];
		const onProgress = (seconds: number) => {
			if (seconds > 3 && grown.length === 0)
				grown.push(probeFile(cache.path(PICTURE_KEY, 'growing.mp4')).then((facts) => facts.durationSeconds - seconds));
		};
		await prepareProxy(cache, path, PICTURE_KEY, { durationSeconds: 40 }, { onProgress });
		// What is told can be played; a little more may have come since.
		expect(await grown[0]).toBeGreaterThanOrEqual(-0.05);
		expect(await cache.has(PICTURE_KEY, 'growing.mp4')).toBe(false);
		expect((await probeFile(cache.path(PICTURE_KEY, 'proxy.mp4'))).durationSeconds).toBeCloseTo(40, 2);
	}, 60_000);
});
