import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { seededRandom } from '../../demo/random';
import {
	linearTimecodeLabel,
	readLinearTimecode,
	summariseLinearTimecode
} from '../../src/lib/core/gather/linear-timecode';
import { linearTimecodeWriter } from '../support/linear-timecode/write';

/** Our reader against libltc's writer, which knows 24, 25 and 30 frames, and 29.97 drop-frame. */
let folder: string;
let written: Awaited<ReturnType<typeof linearTimecodeWriter>>;

beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-ltc-'));
	written = await linearTimecodeWriter(folder);
});
afterAll(() => rm(folder, { recursive: true }));

function read(samples: Float32Array, sampleRate = 48_000) {
	const frames = readLinearTimecode(samples, sampleRate);
	return { frames, summary: summariseLinearTimecode(frames, sampleRate) };
}

function played(samples: Float32Array, speed: number): Float32Array {
	return Float32Array.from({ length: Math.floor(samples.length / speed) - 1 }, (_, i) => {
		const at = i * speed;
		const whole = Math.floor(at);
		return samples[whole]! + (at - whole) * ((samples[whole + 1] ?? 0) - samples[whole]!);
	});
}

describe.each([
	['24', 24, false, { num: 24, den: 1 }, '09:59:57:10'],
	['23.976', 24_000 / 1001, false, { num: 24000, den: 1001 }, '09:59:57:10'],
	['25', 25, false, { num: 25, den: 1 }, '09:59:57:10'],
	['29.97 drop-frame', 30_000 / 1001, true, { num: 30000, den: 1001 }, '09:59:57;10'],
	['30', 30, false, { num: 30, den: 1 }, '09:59:57:10']
] as const)('linear timecode at %s', (_, fps, dropFrame, rate, label) => {
	it('is read to the exact frame, but for the last one, which is never given', async () => {
		const { frames, summary } = read(await written({ fps, dropFrame }));
		expect(frames.length).toBeGreaterThanOrEqual(248);
		expect(summary).toMatchObject({ rate, dropFrame });
		expect(linearTimecodeLabel(summary!)).toBe(label);
		expect(summary!.quality).toBeGreaterThan(0.99);
		// libltc begins up to 7 samples beside the frame (measured): a hundredth of one.
		const frame = Math.round(summary!.frameAtZero);
		expect(Math.abs(summary!.frameAtZero - frame)).toBeLessThan(0.01);
	});

	it('soft, in noise, upside down, 5% fast or slow: to the exact frame', async () => {
		const random = seededRandom(Math.round(fps));
		for (const speed of [1, 1.05, 0.95]) {
			const clean = played(await written({ fps, dropFrame, isReversed: true }), speed);
			// -30 dB of full scale at its peak; noise 20 dB below.
			const level = 10 ** (-30 / 20);
			const noisy = clean.map((x) => level * (x / 0.7 + 0.1 * Math.sqrt(12) * (random() - 0.5)));
			const { summary } = read(noisy);
			expect(summary?.dropFrame).toBe(dropFrame);
			expect(Math.round(summary!.frameAtZero)).toBe(Math.round(read(clean).summary!.frameAtZero));
			expect(linearTimecodeLabel(summary!)).toBe(label);
			expect(summary!.quality, `at ${speed}`).toBeGreaterThan(0.95);
			expect(summary!.framesPerSecond).toBeCloseTo(fps * speed, 2);
		}
	});
});

describe('linear timecode', () => {
	it('goes over midnight', async () => {
		const { summary } = read(await written({ fps: 25, start: [23, 59, 55, 0] }));
		expect(linearTimecodeLabel(summary!)).toBe('23:59:55:00');
		expect(summary!.quality).toBeGreaterThan(0.99);
		expect(summary!.toSeconds).toBeGreaterThan(9.8);
	});

	it.each([44_100, 96_000, 16_000])('is read at %i Hz', async (sampleRate) => {
		const { summary } = read(await written({ fps: 25, sampleRate }), sampleRate);
		expect(linearTimecodeLabel(summary!)).toBe('09:59:57:10');
	});

	it('begins in the midst of a frame', async () => {
		const { summary } = read((await written({ fps: 25 })).subarray(700));
		expect(summary!.frameAtZero - (((9 * 60 + 59) * 60 + 57) * 25 + 10)).toBeCloseTo(700 / 1920, 1);
	});

	it('says nothing of noise, silence, tones and a few frames', async () => {
		const random = seededRandom(3);
		expect(read(Float32Array.from({ length: 480_000 }, () => random() - 0.5)).summary).toBeUndefined();
		expect(read(new Float32Array(480_000)).summary).toBeUndefined();
		expect(read(Float32Array.from({ length: 480_000 }, (_, i) => Math.sin(i / 8))).summary).toBeUndefined();
		expect(read(await written({ fps: 25, frames: 6 })).summary).toBeUndefined();
	});

	it('keeps to the many where some were misread', async () => {
		const samples = await written({ fps: 25, frames: 500 });
		const random = seededRandom(4);
		// Four drop-outs of half a second each.
		for (const at of [50_000, 300_000, 500_000, 800_000])
			for (let i = 0; i < 24_000; i++) samples[at + i] = 0.6 * (random() - 0.5);
		const { summary } = read(samples);
		expect(linearTimecodeLabel(summary!)).toBe('09:59:57:10');
		expect(summary!.quality).toBeGreaterThan(0.8);
		expect(summary!.quality).toBeLessThan(0.95);
	});
});
