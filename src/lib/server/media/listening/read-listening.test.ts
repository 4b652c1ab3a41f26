import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { MediaFacts } from '../../../core/gather/media-facts';
import { createPrecedence } from '../../jobs/precedence';
import { openMediaCache } from '../media-cache';
import { prepareSound } from '../prepare-file';
import { probeFile } from '../probe';
import { runTool } from '../run-tool';
import { needsCopy, reckonedSamples } from './listening-format';
import { openListeningSource } from './read-listening';

/** What the page hears is what ffmpeg makes of the whole file, wherever one begins to listen. */
let folder: string;
const SECONDS = 45;
const KEY = 'a'.repeat(32);

beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-read-listening-'));
});
afterAll(() => rm(folder, { recursive: true }));

const NOISE = ['-f', 'lavfi', '-i', `anoisesrc=d=${SECONDS}:c=pink:a=0.4:seed=3:r=48000`];
const TWO = [...NOISE, '-f', 'lavfi', '-i', `sine=f=440:d=${SECONDS}:r=48000`, '-filter_complex', 'amerge=2'];
const PICTURE = ['-f', 'lavfi', '-i', `testsrc2=s=160x90:r=25:d=${SECONDS}`];

async function make(
	name: string,
	...args: readonly string[]
): Promise<{ path: string; key: string; facts: MediaFacts }> {
	const path = join(folder, name);
	await runTool('ffmpeg', ['-v', 'error', ...args, '-y', path]);
	return { path, key: KEY, facts: await probeFile(path) };
}

async function whole(path: string, depth: 's16le' | 's32le'): Promise<Int16Array | Int32Array> {
	const blocks: Buffer[] = [];
	const args = ['-v', 'error', '-i', path, '-map', '0:a:0', '-ar', '48000', '-f', depth, 'pipe:1'];
	await runTool('ffmpeg', args, { onOutput: (block) => void blocks.push(block) });
	const bytes = new Uint8Array(Buffer.concat(blocks));
	return depth === 's16le' ? new Int16Array(bytes.buffer) : new Int32Array(bytes.buffer);
}

function source() {
	return openListeningSource(openMediaCache(join(folder, `cache-${Math.random()}`)), createPrecedence());
}

/** Across the seams of pieces, at the beginning, in the middle, at the end. */
const STRETCHES = [
	[0, 24_000],
	[470_000, 490_000],
	[1_000_001, 1_024_001],
	[1_439_990, 1_440_010],
	[2_100_000, 2_124_000]
] as const;

describe('sound to listen to, from the middle of a file', () => {
	it.each([
		// Name, how it is made, by how much a sample may differ: coders round as their state has it; AC-3 adds noise of its own.
		['plain.wav', [...TWO, '-c:a', 'pcm_s16le'], 0],
		['deep.wav', [...TWO, '-c:a', 'pcm_s24le'], 0],
		['float.wav', [...TWO, '-c:a', 'pcm_f32le'], 0],
		['at-44.wav', [...TWO, '-ar', '44100', '-c:a', 'pcm_s16le'], 1],
		['at-96.wav', [...TWO, '-ar', '96000', '-c:a', 'pcm_s24le'], 256],
		['coded.m4a', [...TWO, '-c:a', 'aac', '-b:a', '192k'], 1],
		['camera.mp4', [...NOISE, ...PICTURE, '-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac'], 1],
		['camera.mov', [...NOISE, ...PICTURE, '-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'pcm_s16le'], 0],
		[
			'camera.mts',
			[...NOISE, ...PICTURE, '-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'ac3', '-b:a', '448k', '-f', 'mpegts'],
			400
		],
		['stream.ts', [...NOISE, ...PICTURE, '-c:v', 'mpeg2video', '-c:a', 'mp2', '-f', 'mpegts'], 1],
		['camera.mxf', [...NOISE, ...PICTURE, '-c:v', 'mpeg2video', '-c:a', 'pcm_s16le'], 0],
		['spoken.ogg', [...NOISE, '-c:a', 'libopus'], 1],
		['kept.flac', [...TWO], 0],
		['old.avi', [...NOISE, ...PICTURE, '-c:v', 'mpeg4', '-c:a', 'pcm_s16le'], 0]
	] as const)('of %s is that of the whole', { timeout: 60_000 }, async (name, args, most) => {
		const sound = await make(name, ...args);
		expect(needsCopy(sound.facts)).toBe(false);
		const all = await whole(sound.path, sound.facts.audio!.isDeep ? 's32le' : 's16le');
		const { channels } = sound.facts.audio!;
		const listening = source();
		// The last channel alone: only what is heard is given.
		const last = channels - 1;
		for (const [from, to] of STRETCHES) {
			const samples = await listening.read(sound, from, to, [last]);
			expect(samples.length).toBe(to - from);
			let worst = 0;
			for (let i = 0; i < samples.length; i++)
				worst = Math.max(worst, Math.abs(samples[i]! - (all[(from + i) * channels + last] ?? 0)));
			expect({ from, worst: Math.max(worst, most) }).toEqual({ from, worst: most });
		}
		// Beyond the end it is silent.
		const beyond = await listening.read(sound, SECONDS * 48_000 + 5000, SECONDS * 48_000 + 5100, [0]);
		expect(new Set(beyond)).toEqual(new Set([0]));
	});

	it('of a container that counts in milliseconds is near at once, and exact once a copy of it is there', async () => {
		const sound = await make(
			'film.mkv',
			...NOISE,
			...PICTURE,
			'-c:v',
			'libx264',
			'-preset',
			'ultrafast',
			'-c:a',
			'pcm_s16le'
		);
		expect(needsCopy(sound.facts)).toBe(true);
		const all = await whole(sound.path, 's16le');
		const cache = openMediaCache(join(folder, 'cache-of-film'));
		const listening = openListeningSource(cache, createPrecedence());
		const [from, to] = [1_000_000, 1_024_000];
		const near = await listening.read(sound, from, to, [0]);
		// Within a millisecond: it is found there, shifted.
		const shifts = Array.from({ length: 97 }, (_, index) => index - 48);
		expect(
			shifts.some((shift) => near.slice(100, 200).every((value, i) => value === all[from + 100 + i + shift]))
		).toBe(true);
		await prepareSound(cache, sound.path, KEY, sound.facts, { findSharpSounds: () => Promise.resolve([]) });
		expect(await listening.read(sound, from, to, [0])).toEqual(all.slice(from, to));
	}, 60_000);

	it('of files of one channel each is given by channel', async () => {
		const left = await make('take_1.wav', ...NOISE, '-c:a', 'pcm_s24le');
		const right = await make('take_2.wav', '-f', 'lavfi', '-i', `sine=f=440:d=${SECONDS}:r=48000`, '-c:a', 'pcm_s24le');
		const channelFiles = [left, right].map(({ path }) => ({ path, channels: 1 }));
		const facts = { ...left.facts, audio: { ...left.facts.audio!, channels: 2, channelFiles } };
		const [a, b] = [await whole(left.path, 's32le'), await whole(right.path, 's32le')];
		const samples = await source().read({ ...left, facts }, 480_000, 480_100, [1, 0]);
		expect([...samples]).toEqual(Array.from({ length: 100 }, (_, i) => [b[480_000 + i]!, a[480_000 + i]!]).flat());
	});

	it('is reckoned as long as it turns out to be', async () => {
		for (const [name, args] of [
			['length.wav', [...NOISE, '-c:a', 'pcm_s16le']],
			['length.m4a', [...NOISE, '-c:a', 'aac']]
		] as const) {
			const { path, facts } = await make(name, ...args);
			expect(Math.abs(reckonedSamples(facts) - (await whole(path, 's16le')).length)).toBeLessThanOrEqual(1024);
		}
	});
});
