import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { MediaFacts } from '../../core/gather/media-facts';
import { decodeChannels, decodeForAnalysis, decodePieces } from './decode-sound';
import { probeFile } from './probe';
import { runTool } from './run-tool';
import { soundFilesOf } from './sound-inputs';

let folder: string;
let facts: MediaFacts;
let poly: string;
const path = (name: string) => join(folder, name);
/** Each channel its own constant: nothing else tells an exchange of two so surely. */
const LEVELS = [0.1, 0.2, 0.3, 0.4] as const;

beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-channels-'));
	const make = (name: string, levels: readonly number[]) =>
		runTool('ffmpeg', [
			...['-v', 'error', '-f', 'lavfi', '-i', `aevalsrc=${levels.join('|')}:s=48000:d=30`],
			...['-c:a', 'pcm_s24le', path(name)]
		]);
	await make('t_1.wav', [LEVELS[0]]);
	await make('t_2.wav', [LEVELS[1]]);
	// A stereo mix among mono channels.
	await make('t_lr.wav', [LEVELS[2], LEVELS[3]]);
	poly = path('poly.wav');
	await make('poly.wav', LEVELS);
	const first = await probeFile(path('t_1.wav'));
	const channelFiles = [
		{ path: path('t_1.wav'), channels: 1 },
		{ path: path('t_2.wav'), channels: 1 },
		{ path: path('t_lr.wav'), channels: 2 }
	];
	facts = { ...first, audio: { ...first.audio!, channels: 4, channelNames: ['', '', '', ''], channelFiles } };
});
afterAll(() => rm(folder, { recursive: true }));

describe('a take that lies in a file for each channel', () => {
	it('sounds like a file with all its channels', async () => {
		expect(await decodeForAnalysis(path('t_1.wav'), facts)).toEqual(
			await decodeForAnalysis(poly, await probeFile(poly))
		);
	});

	it('keeps the order of its channels', async () => {
		const samples: number[] = [];
		// Blocks are as long as a pipe happens to give.
		const files = soundFilesOf(path('t_1.wav'), facts);
		await decodeChannels(files, 48_000, (block) => void samples.push(...block.subarray(0, 8000)), { seconds: 0.1 });
		const frame = samples.slice(4 * 1000, 4 * 1001);
		for (const [channel, level] of LEVELS.entries()) expect(frame[channel]).toBeCloseTo(level, 4);
	});

	it('gives single channels, and stretches beside other files', async () => {
		const third = await decodeForAnalysis(path('t_1.wav'), facts, { channel: 2 });
		expect(third[1000]! / 32_768).toBeCloseTo(LEVELS[2], 3);
		const stretch = { fromSeconds: 12, toSeconds: 14 };
		const [own, other] = await decodePieces([
			{ path: path('t_1.wav'), facts, stretch, channel: 3 },
			{ path: poly, facts: await probeFile(poly), stretch, channel: 1 }
		]);
		expect(own![4000]! / 32_768).toBeCloseTo(LEVELS[3], 3);
		expect(other![4000]! / 32_768).toBeCloseTo(LEVELS[1], 3);
	});
});
