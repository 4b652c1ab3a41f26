import { copyFile, mkdir, mkdtemp, readdir, realpath, rename, rm, symlink, utimes } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import type { MediaFacts } from '../../core/gather/media-facts';
import { createPrecedence } from '../jobs/precedence';
import { fastFftProvider } from '../engine/fast-fft';
import { decodeChannels, decodeForAnalysis, decodePieces } from './decode-sound';
import { digestOfOriginal } from './file-digest';
import { identify, openMediaCache } from './media-cache';
import { MediaError } from './media-error';
import { isFragmentedMp4 } from './mp4-boxes';
import { openListeningSource } from './listening/read-listening';
import { openPieceMaker } from './pieces/piece-maker';
import { openStills } from './pieces/stills';
import { prepareSound } from './prepare-file';
import { probeFile } from './probe';
import { renderPiece } from './render-picture';
import { runTool } from './run-tool';
import { sweepInputs } from './tool-inputs';
import { readWaveLayout, readWaveNotes } from './wave-notes';
import { readWaveStretches } from './wave-sound';

/** A recording was found; then a link to what may not be read is put in its place, or in its folder's. */
let folder: string;
let facts: { readonly wave: MediaFacts; readonly movie: MediaFacts };
const card = (name = '') => join(folder, 'allowed', 'card', name);
const secret = (name = '') => join(folder, 'secret', name);

beforeAll(async () => {
	folder = await realpath(await mkdtemp(join(tmpdir(), 'open-choir-originals-')));
	await mkdir(secret(), { recursive: true });
	await mkdir(join(folder, 'kept'));
	const sound = ['-f', 'lavfi', '-i', 'sine=f=440:r=48000:d=2'];
	const picture = ['-f', 'lavfi', '-i', 'testsrc2=s=96x64:r=25:d=2'];
	for (const place of ['kept', 'secret']) {
		await runTool('ffmpeg', ['-v', 'error', ...sound, '-c:a', 'pcm_s16le', join(folder, place, 'a.wav')]);
		await runTool('ffmpeg', ['-v', 'error', ...picture, ...sound, '-c:v', 'libx264', join(folder, place, 'a.mp4')]);
	}
	facts = {
		wave: await probeFile(join(folder, 'kept', 'a.wav')),
		movie: await probeFile(join(folder, 'kept', 'a.mp4'))
	};
}, 60_000);
afterAll(() => rm(folder, { recursive: true }));

beforeEach(async () => {
	await rm(join(folder, 'allowed'), { recursive: true, force: true });
	await mkdir(card(), { recursive: true });
	for (const name of ['a.wav', 'a.mp4']) await copyFile(join(folder, 'kept', name), card(name));
});

const SWAPS: readonly (readonly [string, () => Promise<void>])[] = [
	[
		'a link in place of the file',
		async () => {
			for (const name of ['a.wav', 'a.mp4']) {
				await rm(card(name));
				await symlink(secret(name), card(name));
			}
		}
	],
	[
		'a link in place of its folder',
		async () => {
			await rename(card(), join(folder, 'allowed', 'away'));
			await symlink(secret(), join(folder, 'allowed', 'card'));
		}
	]
];

const format = { rate: { num: 25, den: 1 }, width: 96, height: 64, colour: {} };
const source = { startFlicks: 0, rateFactor: 1 };
const piece = { fromFrame: 0, toFrame: 5, shown: { kind: 'picture', source } };
const READERS: readonly (readonly [string, () => Promise<unknown>])[] = [
	['what it says of itself', () => probeFile(card('a.mp4'))],
	['its notes', () => readWaveNotes(card('a.wav'))],
	['how its sound lies', () => readWaveLayout(card('a.wav'))],
	['its boxes', () => isFragmentedMp4(card('a.mp4'))],
	['its identity', () => identify(card('a.wav'))],
	['its digest', () => digestOfOriginal(card('a.wav'))],
	['its sound as a whole', () => decodeForAnalysis(card('a.mp4'), facts.movie)],
	[
		'stretches of its sound',
		() => decodePieces([{ path: card('a.mp4'), facts: facts.movie, stretch: { fromSeconds: 0, toSeconds: 1 } }])
	],
	['its channels', () => decodeChannels({ path: card('a.mp4') }, 48_000, () => undefined)],
	[
		'its sound in place',
		async () =>
			readWaveStretches(
				card('a.wav'),
				(await readWaveLayout(join(folder, 'kept', 'a.wav')))!,
				[{ fromSeconds: 0, toSeconds: 1 }],
				undefined,
				await fastFftProvider()
			)
	],
	[
		'its waveform',
		() =>
			prepareSound(cache(), card('a.mp4'), 'a'.repeat(32), facts.movie, { findSharpSounds: () => Promise.resolve([]) })
	],
	['sound for the ear, in pieces', () => listen(card('a.mp4'), facts.movie)],
	['sound for the ear, in place', () => listen(card('a.wav'), facts.movie)],
	[
		'a piece of its small picture',
		() => openPieceMaker(cache(), createPrecedence()).make(film(), 0, 1, new AbortController().signal)
	],
	['a still', () => openStills(cache(), createPrecedence()).still(film(), 0, 160)],
	[
		'a piece of the movie',
		() =>
			renderPiece(
				piece as never,
				{ path: card('a.mp4'), containerStartSeconds: 0 },
				format,
				join(folder, 'piece.mp4'),
				new AbortController().signal,
				() => undefined
			)
	]
];
function listen(path: string, audio: MediaFacts): Promise<unknown> {
	const isWave = path.endsWith('.wav');
	const wave = { container: 'wav', durationSeconds: 1, containerStartSeconds: 0 };
	const sound = { codec: 'pcm_s16le', sampleRate: 48_000, channels: 1, startSeconds: 0, channelNames: [''] };
	const read = isWave ? { ...wave, audio: sound } : audio;
	return openListeningSource(cache(), createPrecedence()).read({ path, key: 'a'.repeat(32), facts: read }, 0, 100, [0]);
}
const film = () => ({
	path: card('a.mp4'),
	identity: 'b'.repeat(32),
	facts: { ...facts.movie, video: facts.movie.video! }
});
const cache = () => openMediaCache(join(folder, `cache-${Math.random()}`));

describe.each(SWAPS)('%s is seen when it is opened', (_, swap) => {
	it.each(READERS)('%s', async (_reader, read) => {
		await read();
		await swap();
		await expect(read()).rejects.toSatisfy(
			(error) =>
				error instanceof MediaError && error.message.startsWith('A link or another folder was put in its place')
		);
	});
});

it('a link that comes and goes while it is read never leads elsewhere', { timeout: 60_000 }, async () => {
	// Another length tells what was read.
	await runTool('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'sine=d=1', '-y', secret('a.wav')]);
	let isOver = false;
	const swapping = (async () => {
		while (!isOver) {
			await symlink(secret('a.wav'), card('new'));
			await rename(card('new'), card('a.wav'));
			await setTimeout(5);
			await copyFile(join(folder, 'kept', 'a.wav'), card('new'));
			await rename(card('new'), card('a.wav'));
			await setTimeout(100);
		}
	})();
	const ends = { read: 0, refused: 0 };
	for (let count = 0; count < 60; count++) {
		try {
			expect((await probeFile(card('a.wav'))).durationSeconds).toBe(2);
			ends.read++;
		} catch (error) {
			if (!(error instanceof MediaError)) throw error;
			ends.refused++;
		}
	}
	isOver = true;
	await swapping;
	expect(ends.read).toBeGreaterThan(0);
	expect(ends.refused).toBeGreaterThan(0);
});

describe('with a temporary folder of its own', () => {
	let temporary: string;
	beforeEach(async () => {
		temporary = await mkdtemp(join(folder, 'temporary-'));
		vi.stubEnv('TMPDIR', temporary);
	});
	afterEach(() => vi.unstubAllEnvs());

	it('what a tool says names the file, and nothing is left behind', async () => {
		const input = { original: card('a.wav') };
		await expect(runTool('ffmpeg', ['-v', 'error', '-i', input, '-f', 'none', 'x'])).rejects.toThrow(
			/^(?!.*open-choir-inputs)/
		);
		await runTool('ffmpeg', ['-v', 'error', '-i', input, '-f', 'null', '-']);
		expect(await readdir(temporary)).toEqual([]);
	});

	it('what a killed process has left behind is removed, and nothing newer', async () => {
		const [old, fresh] = ['open-choir-inputs-old', 'open-choir-inputs-fresh'];
		for (const name of [old, fresh]) await mkdir(join(temporary, name));
		await symlink('/proc/self/fd/3', join(temporary, old, '3.mp4'));
		await utimes(join(temporary, old), 1, 1);
		await sweepInputs();
		expect(await readdir(temporary)).toEqual([fresh]);
	});
});
