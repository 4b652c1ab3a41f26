import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { integratedLoudness } from '../../src/lib/core/measure/loudness';
import { ENERGIES_A_SECOND, READINGS_RATE, readingAt, RECORD_BYTES } from '../../src/lib/core/measure/readings';
import { openSoundMeter } from '../../src/lib/server/engine/measure-sound';
import { decodeChannels } from '../../src/lib/server/media/decode-sound';
import { runProgram as run } from '../../scripts/outside-programs';

const MEDIA = join(import.meta.dirname, '../../demo/media');
let folder: string;
beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-loudness-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** What ffmpeg's ebur128 filter says of a file. */
async function byFfmpeg(path: string): Promise<{ readonly lufs: number; readonly peak: number }> {
	const args = ['-hide_banner', '-nostats', '-i', path, '-af', 'ebur128=peak=true', '-f', 'null', '-'];
	const { stderr } = await run('ffmpeg', args, { maxBuffer: 2 ** 26 });
	const summary = stderr.slice(stderr.lastIndexOf('Summary:'));
	return {
		lufs: Number(/I:\s+(-?[\d.]+) LUFS/.exec(summary)![1]),
		peak: Number(/Peak:\s+(-?[\d.]+) dBFS/.exec(summary)![1])
	};
}

/** Loudness of all channels together and the greatest true peak, from the readings that are kept. */
async function byReadings(path: string, channels: number): Promise<{ readonly lufs: number; readonly peak: number }> {
	const target = join(folder, 'readings.u8');
	const meter = openSoundMeter({ channels, target });
	try {
		await decodeChannels({ path }, READINGS_RATE, (samples) => meter.add(samples), { channels });
		await meter.finish();
	} finally {
		await meter.close();
	}
	const bytes = new Uint8Array(await readFile(target));
	const energies: number[] = [];
	let peak = 0;
	for (let at = 0; at < bytes.length; at += channels * RECORD_BYTES) {
		const own = Array.from({ length: channels }, (_, channel) => readingAt(bytes, at + channel * RECORD_BYTES));
		for (let i = 0; i < ENERGIES_A_SECOND; i++) energies.push(own.reduce((sum, one) => sum + one.energies[i]!, 0));
		peak = Math.max(peak, ...own.map((one) => one.truePeak[0]!));
	}
	return { lufs: integratedLoudness(energies)!, peak: 20 * Math.log10(peak) };
}

// libavfilter's implementation of EBU R 128, on recordings with speech and music; asked: 0.1 LU, 0.2 dB.
it.each([
	['recorder-2/REC_0007.MP3', 2],
	['packed/recorder-1_1_2.opus', 1],
	['camera-b/B001_C001.mov', 1]
])(
	'loudness and true peak of %s are as ffmpeg has them',
	async (name, channels) => {
		const path = join(MEDIA, name);
		const [ours, theirs] = await Promise.all([byReadings(path, channels), byFfmpeg(path)]);
		expect(Math.abs(ours.lufs - theirs.lufs)).toBeLessThanOrEqual(0.1);
		expect(Math.abs(ours.peak - theirs.peak)).toBeLessThanOrEqual(0.2);
	},
	120_000
);
