import { AS_RECORDED } from '../../core/shoot/decisions';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import type { SoundRun } from '../../core/program/sound-runs';
import { ownTimeAt } from '../../core/time/course';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import { runTool } from '../media/run-tool';
import mix from './mix.worker';

const RATE = 48_000;
const FACTOR = 1 + 62e-6;

/** What leaves is mixed from files: over their seams, at another clock, in and out of overlaps. */
describe('the mix', () => {
	let folder: string;
	/** Noise below 8 kHz or so, which interpolation can keep. */
	const noise = (() => {
		const random = seededRandom(11);
		let [a, b] = [0, 0];
		return Float32Array.from({ length: 3 * RATE }, () => {
			a += 0.3 * (random() - 0.5 - a);
			b += 0.3 * (a - b);
			return b;
		});
	})();

	beforeAll(async () => {
		folder = await mkdtemp(join(tmpdir(), 'open-choir-mix-'));
		await writeSound('whole.wav', noise);
		// Split where no block of the decoder ends.
		await writeSound('first.wav', noise.subarray(0, 70_001));
		await writeSound('second.wav', noise.subarray(70_001));
	});
	afterAll(() => rm(folder, { recursive: true, force: true }));

	async function writeSound(name: string, samples: Float32Array): Promise<void> {
		const raw = join(folder, `${name}.f32`);
		await writeFile(raw, new Uint8Array(samples.slice().buffer));
		const format = ['-f', 'f32le', '-ar', `${RATE}`, '-ac', '1'];
		await runTool('ffmpeg', ['-v', 'error', ...format, '-i', raw, '-c:a', 'pcm_f32le', join(folder, name)]);
	}

	async function mixed(
		runs: readonly { readonly run: SoundRun; readonly files: readonly string[] }[],
		seconds: number
	): Promise<Float32Array> {
		const target = join(folder, 'mix.f32');
		await mix({
			intervals: runs.map(({ run, files }) => ({
				interval: {
					run,
					inFlicks: Math.max(0, run.inFlicks),
					outFlicks: Math.min(seconds * FLICKS_PER_SECOND, run.outFlicks),
					part: run,
					turn: 0,
					shiftFlicks: 0,
					channels: [{ ...AS_RECORDED, channel: 0, pan: -1 }]
				},
				files: files.map((name) => ({ path: join(folder, name) }))
			})),
			inFlicks: 0,
			outFlicks: seconds * FLICKS_PER_SECOND,
			target
		});
		const both = new Float32Array(new Uint8Array(await readFile(target)).buffer);
		return both.filter((_, index) => index % 2 === 0);
	}

	function run(startSeconds: number, seconds: number, seams: readonly number[], rateFactor: number): SoundRun {
		const begins = startSeconds * FLICKS_PER_SECOND;
		const ends = begins + seconds * FLICKS_PER_SECOND * rateFactor;
		return {
			deviceId: '1',
			clipId: 'clip',
			channels: 1,
			inFlicks: begins,
			outFlicks: ends,
			fadedInFlicks: begins,
			fadesOutFlicks: ends,
			course: { startFlicks: begins, rateFactor },
			files: [0, ...seams].map((sample, index) => ({
				fileId: `${index}`,
				firstSampleFlicks: begins + (sample / RATE) * FLICKS_PER_SECOND * rateFactor
			}))
		};
	}

	it('goes over the seam of two files as if they were one, at any clock', async () => {
		const whole = await mixed([{ run: run(0.1003, 3, [], FACTOR), files: ['whole.wav'] }], 3);
		const joined = await mixed([{ run: run(0.1003, 3, [70_001], FACTOR), files: ['first.wav', 'second.wav'] }], 3);
		let worst = 0;
		for (const [i, value] of whole.entries()) worst = Math.max(worst, Math.abs(value - joined[i]!));
		expect(worst).toBeLessThan(1e-6);
		expect(whole.some((value) => value > 0.05)).toBe(true);
	});

	it('is bit-exact where no clock is off', async () => {
		const joined = await mixed([{ run: run(0.5, 2, [70_001], 1), files: ['first.wav', 'second.wav'] }], 2);
		expect(joined.subarray(0.5 * RATE, 1.9 * RATE)).toEqual(noise.subarray(0, 1.4 * RATE));
		expect(joined.subarray(0, 0.5 * RATE).every((value) => value === 0)).toBe(true);
	});

	it('follows a clock that bends, without a step where its moments meet', async () => {
		const tone = (seconds: number) => 0.5 * Math.sin(2 * Math.PI * 997 * seconds);
		await writeSound(
			'tone.wav',
			Float32Array.from({ length: 3 * RATE }, (_, i) => tone(i / RATE))
		);
		// Far more than clocks do, so that it is seen within three seconds.
		const bend = [0, 1, 2, 3].map((seconds) => ({
			ownFlicks: seconds * FLICKS_PER_SECOND,
			laterFlicks: [0, 300e-6, 100e-6, 0][seconds]! * FLICKS_PER_SECOND
		}));
		const straight = run(0, 3, [], 1);
		const bent = await mixed([{ run: { ...straight, course: { ...straight.course, bend } }, files: ['tone.wav'] }], 3);
		const course = { ...straight.course, bend };
		let worst = 0;
		for (let i = 0.1 * RATE; i < 2.9 * RATE; i++) {
			const own = ownTimeAt(course, (i / RATE) * FLICKS_PER_SECOND) / FLICKS_PER_SECOND;
			worst = Math.max(worst, Math.abs(bent[i]! - tone(own)));
		}
		// A block of 0.7 s in which a bend changes goes straight: 300 ppm there leave 60 µs at most.
		expect(worst).toBeLessThan(0.5 * 2 * Math.PI * 997 * 60e-6);
		expect(worst).toBeGreaterThan(0);
	});
});
