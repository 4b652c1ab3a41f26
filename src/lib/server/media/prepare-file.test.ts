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

describe('the listening sound', () => {
	it('has all 24 bits of a deep source: a tone far below 16 bits comes out to the bit', async () => {
		// 3e-6 of full scale is a tenth of a 16-bit step, and 25 steps of 24 bits.
		const path = await make(
			'deep.wav',
			'-f',
			'lavfi',
			'-i',
			'aevalsrc=3e-6*sin(2*PI*997*t):s=48000:d=2',
			'-c:a',
			'pcm_s24le'
		);
		const facts = await probeFile(path);
		expect(facts.audio!.isDeep).toBe(true);
		const cache = openMediaCache(join(folder, 'cache'));
		const listeningSamples = await prepareSound(cache, path, KEY, facts);
		expect(listeningSamples).toBe(96_000);
		const bytes = await readFile(cache.path(KEY, 'listening.s32'));
		const wave = await readFile(path);
		const data = wave.indexOf('data') + 8;
		for (const index of [0, 1, 48, 12_345, 95_999])
			expect(bytes.readInt32LE(4 * index)).toBe(wave.readIntLE(data + 3 * index, 3) * 256);
		expect(new Set(bytes).size).toBeGreaterThan(20);
		const peaks = await readFile(cache.path(KEY, 'peaks.s16'));
		const levels = peakLevels(96_000);
		expect(peaks.length).toBe(2 * (levels.at(-1)!.at + 2 * levels.at(-1)!.blocks));
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
