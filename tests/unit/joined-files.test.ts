import { once } from 'node:events';
import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { alignFolder } from '../../src/lib/server/stages/line-up/align-folder';
import { speechLike } from '../support/simulator/sounds';
import { spawn } from '../../scripts/outside-programs';

const RATE = 16_000;

async function write(path: string, samples: Float32Array, options: readonly string[]): Promise<void> {
	const input = ['-v', 'error', '-f', 'f32le', '-ar', `${RATE}`, '-ac', '1', '-i', 'pipe:0'];
	const child = spawn('ffmpeg', [...input, ...options, path], { stdio: ['pipe', 'ignore', 'inherit'] });
	child.stdin.end(Buffer.from(samples.slice().buffer));
	const [code] = (await once(child, 'close')) as [number];
	if (code !== 0) throw new Error(`ffmpeg ended with ${code}.`);
}

describe('files of one recording, without a clock', () => {
	// Odd numbers of samples, which the engine's rate does not divide.
	it.each([
		['touch', 0],
		['repeat 1 001 samples', 1001],
		['repeat 40 003 samples', 40_003]
	])(
		'that %s are joined to the sample',
		async (_, repeated) => {
			const folder = await mkdtemp(join(tmpdir(), 'open-choir-joined-'));
			try {
				await Promise.all(['rec', 'cam'].map((device) => mkdir(join(folder, device))));
				const scene = speechLike(50, 5);
				const cut = 22 * RATE + 7;
				await write(join(folder, 'rec', 'TAKE_0001.wav'), scene.subarray(0, cut), ['-c:a', 'pcm_s16le']);
				await write(join(folder, 'rec', 'TAKE_0002.wav'), scene.subarray(cut - repeated), ['-c:a', 'pcm_s16le']);
				await write(join(folder, 'cam', 'C1.m4a'), scene.subarray(3 * RATE), ['-c:a', 'aac', '-b:a', '96k']);
				const { groups } = await alignFolder(folder);
				const at = new Map(groups.flatMap(({ clips }) => clips).map((clip) => [clip.path, clip]));
				const [one, two] = [at.get('rec/TAKE_0001.wav')!, at.get('rec/TAKE_0002.wav')!];
				const expected = ((cut - repeated) / RATE) * (1 + one.ratePpm * 1e-6);
				expect((two.start - one.start - expected) * RATE).toBeCloseTo(0, 1);
			} finally {
				await rm(folder, { recursive: true });
			}
		},
		60_000
	);
});
