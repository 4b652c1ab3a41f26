import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { risesIn, strongestSharpSounds } from '../../src/lib/core/features/sharp-sounds';
import { openMediaCache } from '../../src/lib/server/media/media-cache';
import { MediaError } from '../../src/lib/server/media/media-error';
import { createPrecedence } from '../../src/lib/server/jobs/precedence';
import { openPieceMaker } from '../../src/lib/server/media/pieces/piece-maker';
import { prepareSound } from '../../src/lib/server/media/prepare-file';
import { probeFile } from '../../src/lib/server/media/probe';
import { REPORTS, runTool } from '../../src/lib/server/media/run-tool';
import { findSharpSounds } from '../../src/lib/server/media/sharp-sounds-of-file';
import { IS_LONG } from '../support/long-checks';
import { peakMemoryMb } from '../support/peak-memory';
import { seededRandom } from '../../demo/random';

/** Small files that ask for much: what is really there counts, not what is claimed. */
const MAX_MB = 400;
const MAX_SECONDS = 60;

let folder: string;
const at = (name: string) => join(folder, name);
const make = (name: string, ...args: string[]) => runTool('ffmpeg', ['-v', 'error', ...args, at(name)]);

/** Eight bits, one channel. */
function waveAt(sampleRate: number, dataBytes: number, claimedBytes = dataBytes): Buffer {
	const head = Buffer.alloc(44);
	head.write('RIFF', 0, 'latin1');
	head.writeUInt32LE((36 + claimedBytes) >>> 0, 4);
	head.write('WAVEfmt ', 8, 'latin1');
	head.writeUInt32LE(16, 16);
	[1, 1].forEach((value, index) => head.writeUInt16LE(value, 20 + 2 * index));
	[sampleRate, sampleRate].forEach((value, index) => head.writeUInt32LE(value, 24 + 4 * index));
	[1, 8].forEach((value, index) => head.writeUInt16LE(value, 32 + 2 * index));
	head.write('data', 36, 'latin1');
	head.writeUInt32LE(claimedBytes >>> 0, 40);
	return Buffer.concat([head, Buffer.alloc(dataBytes, 128)]);
}

async function claimSize(from: string, to: string, side: number): Promise<void> {
	const size = Buffer.alloc(4);
	[side, side].forEach((value, index) => size.writeUInt16BE(value, 2 * index));
	const bytes = await readFile(at(from));
	const small = Buffer.from([0, 200, 0, 200]);
	for (let place = bytes.indexOf(small); place >= 0; place = bytes.indexOf(small, place + 4)) size.copy(bytes, place);
	await writeFile(at(to), bytes);
}

beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-bombs-'));
	await writeFile(at('one-hertz.wav'), waveAt(1, 2_000_000));
	await writeFile(at('a-week.wav'), waveAt(4000, 2_000_000, 4000 * 86_400 * 7));
	await make(
		'day.flac',
		'-f',
		'lavfi',
		'-i',
		'anullsrc=r=4000:cl=mono',
		'-t',
		'86400',
		'-compression_level',
		'0',
		'-frame_size',
		'16384'
	);
	const streams = Array.from({ length: 300 }, () => ['-map', '0:a']).flat();
	await make('streams.mov', '-f', 'lavfi', '-i', 'sine=d=2:r=8000', ...streams, '-c:a', 'pcm_s16le');
	const picture = (size: string) => ['-f', 'lavfi', '-i', `color=black:s=${size}:r=1:d=1`, '-c:v', 'mjpeg'];
	await make('small.mov', ...picture('200x200'));
	await claimSize('small.mov', 'huge.mov', 30_000);
	await claimSize('small.mov', 'large.mov', 16_000);
	await claimSize('small.mov', 'claimed.mov', 11_000);
}, 120_000);
afterAll(() => rm(folder, { recursive: true }));

const noSharpSounds = { findSharpSounds: () => Promise.resolve([]) };

describe('a small file that claims much ends with a reason, soon and with little memory', () => {
	it.each([
		['one-hertz.wav', /claims to last 23 days/],
		['day.flac', /claims 24 hours in \d MB|claims 24 hours in 0\.\d+ MB/],
		['streams.mov', /claims to have 300 channels/],
		['huge.mov', /picture is damaged, or larger than/],
		['large.mov', /picture is damaged, or larger than/],
		// These can be: they are read as far as they go.
		['a-week.wav', undefined],
		['claimed.mov', undefined]
	] as const)('%s', { timeout: 120_000 }, async (name, reason) => {
		const cache = openMediaCache(await mkdtemp(join(folder, 'cache-')));
		const began = performance.now();
		let said: string | undefined;
		const moreMb = await peakMemoryMb(async () => {
			try {
				const facts = await probeFile(at(name));
				if (facts.audio) await prepareSound(cache, at(name), 'a'.repeat(32), facts, noSharpSounds);
				if (facts.video) {
					const file = { path: at(name), identity: 'b'.repeat(32), facts: { ...facts, video: facts.video } };
					await openPieceMaker(cache, createPrecedence()).make(file, 0, 1, new AbortController().signal);
				}
			} catch (error) {
				if (!(error instanceof MediaError)) throw error;
				said = error.message;
			}
		});
		expect(moreMb).toBeLessThan(MAX_MB);
		expect((performance.now() - began) / 1000).toBeLessThan(MAX_SECONDS);
		if (reason) expect(said).toMatch(reason);
	});

	it.runIf(IS_LONG)('24 hours of sound that are there take no memory', { timeout: 900_000 }, async () => {
		await make('whole-day.flac', '-f', 'lavfi', '-i', 'anullsrc=r=48000:cl=mono', '-t', '86400', '-frame_size', '1152');
		const cache = openMediaCache(await mkdtemp(join(folder, 'cache-')));
		const moreMb = await peakMemoryMb(async () => {
			const facts = await probeFile(at('whole-day.flac'));
			const { samples } = await prepareSound(cache, at('whole-day.flac'), 'a'.repeat(32), facts, noSharpSounds);
			expect(samples).toBe(86_400 * 48_000);
		});
		expect(moreMb).toBeLessThan(MAX_MB);
	});
});

describe('tools', () => {
	it('are stopped when nothing comes of them, not when they take long', { timeout: 20_000 }, async () => {
		const slow = ['-v', 'error', '-nostdin', ...REPORTS, '-re', '-f', 'lavfi', '-i', 'sine=d=3', '-f', 'null', '-'];
		await runTool('ffmpeg', slow, { stallSeconds: 2, onReport: () => undefined });
		const nothingComes = slow.map((part) => (part === 'sine=d=3' ? 'sine=d=3,arealtime=speed=0.0001' : part));
		const began = performance.now();
		await expect(runTool('ffmpeg', nothingComes, { stallSeconds: 1, onReport: () => undefined })).rejects.toMatchObject(
			{
				kind: 'took-too-long',
				message: 'ffmpeg came no further for 1 s and was stopped: the file is probably damaged.'
			}
		);
		expect(performance.now() - began).toBeLessThan(5000);
	});

	it('get no more memory than media need', { timeout: 60_000 }, async () => {
		// 20 pictures of 192 MB that must all be there before the first comes out.
		const hoard = [
			'-v',
			'error',
			'-f',
			'lavfi',
			'-i',
			'nullsrc=s=16000x8000:r=1:d=20,reverse',
			'-show_entries',
			'frame=pts'
		];
		let told = '';
		const moreMb = await peakMemoryMb(async () => {
			told = await runTool('ffprobe', hoard).catch((error: MediaError) => error.kind);
		});
		// It would tell of each picture.
		expect(told).not.toContain('pts');
		expect(moreMb).toBeLessThan(1200);
	});
});

it('sharp sounds of a file are those of its samples, however long it is', async () => {
	const random = seededRandom(31);
	const samples = Int16Array.from({ length: 8000 * 1500 }, () => Math.round((random() - 0.5) * 200));
	// Also where one stretch ends and the next begins.
	for (const seconds of [20, 300, 599.999, 900, 1200, 1300])
		for (let i = 0; i < 200; i++) samples[Math.round(seconds * 8000) + i] = Math.round((random() - 0.5) * 40_000);
	await writeFile(at('sharp.s16'), new Uint8Array(samples.buffer));
	const whole = strongestSharpSounds(risesIn(samples));
	expect(whole.length).toBeGreaterThanOrEqual(5);
	const places = (sounds: typeof whole) => sounds.map(({ seconds }) => Math.round(seconds * 1000));
	expect(places(findSharpSounds(at('sharp.s16')))).toEqual(places(whole));
});
