import pMap from 'p-map';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { seededRandom } from '../../demo/random';
import { decodeForAnalysis } from '../../src/lib/server/media/decode-sound';
import { MediaError } from '../../src/lib/server/media/media-error';
import { probeFile } from '../../src/lib/server/media/probe';
import { IS_LONG } from '../support/long-checks';
import { runTool } from '../../src/lib/server/media/run-tool';
import { readWaveNotes } from '../../src/lib/server/media/wave-notes';

/** Cards that were pulled out too early, disks that rot: nothing stops or hangs, each file ends with a reason or is read. */
const PICTURE = ['-f', 'lavfi', '-i', 'testsrc2=s=96x64:r=25:d=3'];
const SOUND = ['-f', 'lavfi', '-i', 'sine=f=440:r=48000:d=3'];
const KINDS: readonly (readonly [name: string, ...args: string[]])[] = [
	['a.mp4', ...PICTURE, ...SOUND, '-c:v', 'libx264', '-c:a', 'aac'],
	['b.mov', ...PICTURE, ...SOUND, '-c:v', 'mjpeg', '-c:a', 'pcm_s16le'],
	['c.mts', ...PICTURE, ...SOUND, '-c:v', 'libx264', '-c:a', 'ac3', '-f', 'mpegts'],
	['d.mkv', ...PICTURE, ...SOUND, '-c:v', 'libx264', '-c:a', 'libopus'],
	['e.avi', ...PICTURE, ...SOUND, '-c:v', 'mjpeg', '-c:a', 'pcm_s16le'],
	['f.mxf', ...PICTURE, ...SOUND, '-c:v', 'mpeg2video', '-c:a', 'pcm_s16le'],
	['g.wav', ...SOUND, '-c:a', 'pcm_s24le', '-write_bext', '1'],
	['h.mp3', ...SOUND],
	['i.flac', ...SOUND],
	['j.ogg', ...SOUND]
];
const EACH = IS_LONG ? 200 : 5;
const TIME_LIMIT_SECONDS = 30;

let folder: string;
beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-damaged-'));
	for (const [name, ...args] of KINDS) await runTool('ffmpeg', ['-v', 'error', ...args, join(folder, name)]);
});
afterAll(() => rm(folder, { recursive: true }));

/** Cut at any place, single bytes changed anywhere or only in the head, a stretch of zeros, a piece lost in the middle. */
function damaged(bytes: Buffer, way: number, random: () => number): Buffer {
	const at = () => Math.floor(random() * bytes.length);
	const out = Buffer.from(bytes);
	switch (way % 5) {
		case 0:
			return out.subarray(0, at());
		case 1:
			for (let count = 1 + Math.floor(random() * 200); count > 0; count--) out[at()] = Math.floor(random() * 256);
			return out;
		case 2:
			for (let count = 1 + Math.floor(random() * 20); count > 0; count--)
				out[Math.floor(random() * Math.min(600, out.length))] = Math.floor(random() * 256);
			return out;
		case 3: {
			const from = at();
			return out.fill(0, from, Math.min(out.length, from + Math.floor(random() * 20_000)));
		}
		default: {
			const from = at();
			return Buffer.concat([out.subarray(0, from), out.subarray(from + Math.floor(random() * 5000))]);
		}
	}
}

it(
	`${KINDS.length * EACH} damaged files: each is read, or ends with a reason, within its time`,
	{ timeout: 3_600_000 },
	async () => {
		const random = seededRandom(2026);
		const files: string[] = [];
		for (const [name] of KINDS) {
			const bytes = await readFile(join(folder, name));
			for (let way = 0; way < EACH; way++) {
				const path = join(folder, `${way}-${name}`);
				await writeFile(path, damaged(bytes, way, random));
				files.push(path);
			}
		}
		const ends = await pMap(
			files,
			async (path) => {
				const began = performance.now();
				const end = await endOf(path);
				expect((performance.now() - began) / 1000, path).toBeLessThan(TIME_LIMIT_SECONDS);
				return end;
			},
			{ concurrency: 4 }
		);
		// The damage is real: some cannot be read at all, and most of what is said is a plain sentence.
		expect(ends.filter((end) => end === 'read').length).toBeGreaterThan(files.length / 4);
		expect(ends.filter((end) => end !== 'read').length).toBeGreaterThan(files.length / 10);
		for (const end of ends.filter((one) => one !== 'read')) expect(end).toMatch(/^[A-Z].{5,}/);
	}
);

async function endOf(path: string): Promise<string> {
	try {
		const facts = await probeFile(path);
		if (path.endsWith('.wav')) await readWaveNotes(path);
		if (facts.audio) await decodeForAnalysis(path, facts);
		return 'read';
	} catch (error) {
		// Any other error would be a fault of ours.
		if (!(error instanceof MediaError)) throw error;
		return error.message;
	}
}
