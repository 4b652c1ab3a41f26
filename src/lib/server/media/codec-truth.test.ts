import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import { ANALYSIS_SAMPLE_RATE } from '../../core/features/band-features';
import { createWindowCorrelator, sharpPeak } from '../../core/match/windows/window-correlation';
import { fastFftProvider } from '../engine/fast-fft';
import { decodeForAnalysis, decodePieces, isSeekable } from './decode-sound';
import { probeFile } from './probe';
import { readWaveLayout } from './wave-notes';
import { isReadable, readWaveStretches } from './wave-sound';
import { runProgram as run } from '../../../../scripts/outside-programs';

const SECONDS = 20;
/** A sample at 48 kHz. */
const SAMPLE_SECONDS = 1 / 48_000;
let folder: string;
let source: string;
let original: Int16Array;

/** What every container is made of: sound of many frequencies below 3.4 kHz, different at each moment. */
beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-codecs-'));
	const raw = join(folder, 'source.f32');
	const random = seededRandom(4);
	await writeFile(
		raw,
		new Uint8Array(Float32Array.from({ length: SECONDS * 48_000 }, () => 0.3 * (random() - 0.5)).buffer)
	);
	source = join(folder, 'source.wav');
	await run('ffmpeg', [
		'-v',
		'error',
		'-f',
		'f32le',
		'-ar',
		'48000',
		'-ac',
		'1',
		'-i',
		raw,
		'-af',
		'lowpass=3000',
		source
	]);
	original = await decodeForAnalysis(source, await probeFile(source));
}, 60_000);
afterAll(() => rm(folder, { recursive: true }));

async function make(name: string, args: readonly string[], hasPicture: boolean): Promise<string> {
	const path = join(folder, name);
	const picture = ['-f', 'lavfi', '-i', `color=gray:size=64x36:rate=25:duration=${SECONDS}`];
	const maps = hasPicture ? ['-map', '1:v', '-map', '0:a', '-c:v', 'libx264', '-preset', 'ultrafast'] : ['-map', '0:a'];
	await run('ffmpeg', ['-v', 'error', '-y', '-i', source, ...(hasPicture ? picture : []), ...maps, ...args, path]);
	return path;
}

/** How much later than in the original a file's sound is, by its own media time, in samples at 48 kHz. */
async function lateBy(path: string): Promise<number> {
	const facts = await probeFile(path);
	const samples = await decodeForAnalysis(path, facts);
	const correlate = createWindowCorrelator(await fastFftProvider());
	const [from, length, reach] = [10 * ANALYSIS_SAMPLE_RATE, 8 * ANALYSIS_SAMPLE_RATE, 800];
	const row = correlate(original, from, 1, samples, from, length, reach)!;
	const seconds = (sharpPeak(row, reach, reach).index - reach) / ANALYSIS_SAMPLE_RATE + facts.audio!.startSeconds;
	return seconds / SAMPLE_SECONDS;
}

// Encoders put samples of their own before the sound: where the container says so they are not presented, where it
// cannot they are. The table in the engine's notes was measured with the same ffmpeg.
describe('media time 0 is the first sample presented', () => {
	it.each([
		['wave', 'a.wav', ['-c:a', 'pcm_s24le'], false, 0],
		['wave with 64-bit sizes', 'rf.wav', ['-c:a', 'pcm_s24le', '-rf64', 'always'], false, 0],
		['wave at 44.1 kHz', 'a44.wav', ['-ar', '44100'], false, 0],
		['wave at 96 kHz', 'a96.wav', ['-ar', '96000'], false, 0],
		['AIFF', 'a.aif', ['-c:a', 'pcm_s16be'], false, 0],
		['FLAC', 'a.flac', [], false, 0],
		['ALAC in M4A', 'alac.m4a', ['-c:a', 'alac'], false, 0],
		['AAC in M4A', 'a.m4a', ['-c:a', 'aac'], false, 0],
		['AAC in MP4', 'a.mp4', ['-c:a', 'aac'], true, 0],
		['AAC in MOV', 'a.mov', ['-c:a', 'aac'], true, 0],
		['PCM in MOV', 'p.mov', ['-c:a', 'pcm_s16le'], true, 0],
		['PCM in MXF', 'a.mxf', ['-c:v', 'mpeg2video', '-s', '720x576', '-c:a', 'pcm_s16le'], true, 0],
		['PCM in AVI', 'a.avi', ['-c:a', 'pcm_s16le'], true, 0],
		['MP3 with its length', 'a.mp3', ['-c:a', 'libmp3lame'], false, 0],
		['Vorbis', 'a.ogg', ['-c:a', 'libvorbis'], false, 0],
		['Opus', 'a.opus', ['-c:a', 'libopus'], false, 0],
		[
			'Opus in WebM',
			'a.webm',
			['-c:v', 'libvpx', '-deadline', 'realtime', '-cpu-used', '8', '-c:a', 'libopus'],
			true,
			0
		],
		['Opus in Matroska', 'o.mkv', ['-c:a', 'libopus'], true, 0],
		// Presented with the encoder's run-up: these containers have no word for it.
		['AAC in ADTS', 'a.aac', ['-c:a', 'aac'], false, 1024],
		['MP3 without its length', 'b.mp3', ['-c:a', 'libmp3lame', '-write_xing', '0'], false, 1105]
	] as const)('%s', async (_, name, args, hasPicture, expected) => {
		const late = await lateBy(await make(name, args, hasPicture));
		expect(Math.abs(late - expected), `${late.toFixed(2)} samples late`).toBeLessThan(1);
	});
});

describe('stretches of a file', () => {
	const stretches = [
		{ fromSeconds: 0, toSeconds: 2 },
		{ fromSeconds: 5, toSeconds: 9 },
		{ fromSeconds: 18, toSeconds: 20 }
	];

	it.each([
		['wave', 's.wav', ['-c:a', 'pcm_s16le'], false],
		['wave at 44.1 kHz', 's44.wav', ['-ar', '44100'], false],
		['FLAC', 's.flac', [], false],
		['AAC in MP4', 's.mp4', ['-c:a', 'aac'], true],
		['AAC in M4A at 44.1 kHz', 's44.m4a', ['-ar', '44100', '-c:a', 'aac'], false],
		['PCM in MOV that starts late', 's.mov', ['-c:a', 'pcm_s16le', '-af', 'asetpts=PTS+0.37/TB'], true],
		['AC-3 in MP4', 'ac3.mp4', ['-c:a', 'ac3'], true]
	] as const)('are the same as in the whole: %s', async (_, name, args, hasPicture) => {
		const path = await make(name, args, hasPicture);
		const facts = await probeFile(path);
		expect(isSeekable(facts)).toBe(true);
		const whole = await decodeForAnalysis(path, facts);
		const parts = await decodePieces(stretches.map((stretch) => ({ path, facts, stretch })));
		expect(parts.map((part) => part.length / ANALYSIS_SAMPLE_RATE)).toEqual([2, 4, 2]);
		for (const [index, { fromSeconds, toSeconds }] of stretches.entries()) {
			const own = whole.subarray(fromSeconds * ANALYSIS_SAMPLE_RATE, toSeconds * ANALYSIS_SAMPLE_RATE);
			expect(worstDifference(own, parts[index]!, 200), `from ${fromSeconds} s`).toBeLessThan(6);
		}
	});

	it.each([
		['24 bits', 'w24.wav', ['-c:a', 'pcm_s24le']],
		['16 bits, two channels', 'w16.wav', ['-ac', '2', '-c:a', 'pcm_s16le']],
		['floats at 96 kHz', 'w96.wav', ['-ar', '96000', '-c:a', 'pcm_f32le']],
		['RF64, three channels', 'rf3.wav', ['-af', 'pan=3c|c0=c0|c1=c0|c2=c0', '-rf64', 'always', '-c:a', 'pcm_s24le']]
	] as const)('are read in place as ffmpeg decodes them: %s', async (_, name, args) => {
		const path = await make(name, args, false);
		const layout = (await readWaveLayout(path))!;
		expect(isReadable(layout)).toBe(true);
		const whole = await decodeForAnalysis(path, await probeFile(path));
		const parts = readWaveStretches(path, layout, stretches, undefined, await fastFftProvider());
		for (const [index, { fromSeconds, toSeconds }] of stretches.entries()) {
			const own = whole.subarray(fromSeconds * ANALYSIS_SAMPLE_RATE, toSeconds * ANALYSIS_SAMPLE_RATE);
			// Two low passes differ at their edge only; a shift of a tenth of a sample would show.
			expect(likeness(own, parts[index]!, 200), `from ${fromSeconds} s`).toBeGreaterThan(0.9995);
		}
	});

	it('leaves to a full decode what cannot be found to the sample', async () => {
		const fragmented = await make('f.mp4', ['-c:a', 'aac', '-movflags', 'frag_keyframe+empty_moov'], true);
		const matroska = await make('m.mkv', ['-c:a', 'aac'], true);
		expect(isSeekable(await probeFile(fragmented))).toBe(false);
		expect(isSeekable(await probeFile(matroska))).toBe(false);
	});
});

function likeness(a: Int16Array, b: Int16Array, edge: number): number {
	let [ab, aa, bb] = [0, 0, 0];
	for (let i = edge; i < a.length - edge; i++) {
		ab += a[i]! * b[i]!;
		aa += a[i]! ** 2;
		bb += b[i]! ** 2;
	}
	return ab / Math.sqrt(aa * bb);
}

/** @param edge samples left out at both ends, where a resampler lacks neighbours */
function worstDifference(a: Int16Array, b: Int16Array, edge: number): number {
	let worst = 0;
	for (let i = edge; i < Math.min(a.length, b.length) - edge; i++) worst = Math.max(worst, Math.abs(a[i]! - b[i]!));
	return worst;
}
