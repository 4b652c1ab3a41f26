import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { ANALYSIS_SAMPLE_RATE } from '../../core/features/band-features';
import { fastFftProvider } from '../engine/fast-fft';
import { decodeForAnalysis } from './decode-sound';
import { probeFile } from './probe';
import { runTool } from './run-tool';
import { readWaveLayout } from './wave-notes';
import { readWaveStretches } from './wave-sound';

let folder: string;
beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-wave-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

async function wave(codec: string, channels: number): Promise<string> {
	const path = join(folder, `${codec}-${channels}.wav`);
	const noise = Array.from({ length: channels }, (_, k) => `anoisesrc=d=20:r=48000:a=0.3:s=${k + 1}:c=pink[${k}]`).join(
		';'
	);
	const inputs = Array.from({ length: channels }, (_, k) => `[${k}]`).join('');
	const graph = channels === 1 ? noise.replace('[0]', '[out]') : `${noise};${inputs}join=inputs=${channels}[out]`;
	await runTool('ffmpeg', ['-v', 'error', '-filter_complex', graph, '-map', '[out]', '-c:a', codec, `file:${path}`]);
	return path;
}

it.each([
	['pcm_s16le', 1],
	['pcm_s16le', 2],
	['pcm_s24le', 2],
	['pcm_s24le', 3],
	['pcm_f32le', 2]
] as const)(
	'%s, %d channels: every stretch has the samples that the whole has, and they are the decoder’s',
	async (codec, channels) => {
		const provider = await fastFftProvider();
		const path = await wave(codec, channels);
		const layout = (await readWaveLayout(path))!;
		const read = (fromSeconds: number, toSeconds: number) =>
			readWaveStretches(path, layout, [{ fromSeconds, toSeconds }], undefined, provider)[0]!;
		const whole = read(0, 20);
		for (const [from, to] of [
			[0, 1],
			[3, 11],
			[7, 8],
			[16, 20]
		] as const)
			expect(
				Buffer.compare(
					bytesOf(read(from, to)),
					bytesOf(whole.subarray(from * ANALYSIS_SAMPLE_RATE, to * ANALYSIS_SAMPLE_RATE))
				)
			).toBe(0);
		const decoded = await decodeForAnalysis(path, await probeFile(path));
		// Another low pass: below its edge they are the same.
		let [error, power] = [0, 0];
		for (let i = ANALYSIS_SAMPLE_RATE; i < 19 * ANALYSIS_SAMPLE_RATE; i++) {
			error += (whole[i]! - decoded[i]!) ** 2;
			power += decoded[i]! ** 2;
		}
		expect(Math.sqrt(error / power)).toBeLessThan(0.05);
	}
);

function bytesOf(samples: Int16Array): Uint8Array {
	return Uint8Array.from(new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength));
}
