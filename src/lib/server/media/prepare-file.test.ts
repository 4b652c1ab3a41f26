import { mkdtemp, readFile, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { RECORD_BYTES } from '../../core/measure/readings';
import { peakLevels } from '../../core/signal/peaks';
import { openMediaCache } from './media-cache';
import { prepareSound } from './prepare-file';
import { probeFile } from './probe';
import { runTool } from './run-tool';

let folder: string;
const KEY = 'a'.repeat(32);

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
		// A mono sound on both channels.
		const twins = [{ channel: 1, sameAs: 0, isInverted: false }];
		const prepared = { samples: 96_000, sharpSounds: [{ seconds: 0.5, riseDb: 20 }], twins };
		expect(await prepareSound(cache, path, KEY, facts, { findSharpSounds })).toEqual(prepared);
		const peaks = await readFile(cache.path(KEY, 'peaks.s16'));
		const levels = peakLevels(96_000);
		expect(peaks.length).toBe(2 * (levels.at(-1)!.at + 2 * levels.at(-1)!.blocks));
		// An eighth of full scale, of which each of two channels gets its share.
		expect(Math.max(...new Int16Array(peaks.buffer, peaks.byteOffset, peaks.length >> 1))).toBeCloseTo(
			32768 / 8 / Math.SQRT2,
			-2
		);
		// A record of each channel for each second.
		expect((await stat(cache.path(KEY, 'readings.u8'))).size).toBe(2 * 2 * RECORD_BYTES);
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
