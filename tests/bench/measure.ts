import { mkdtemp, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { runProgram as run } from '../../scripts/outside-programs';
import { READINGS_RATE } from '../../src/lib/core/measure/readings';
import { secondsToFlicks } from '../../src/lib/core/time/flicks';
import { createEnginePool } from '../../src/lib/server/engine/engine-pool';
import { openSoundMeter } from '../../src/lib/server/engine/measure-sound';
import { decodeChannels } from '../../src/lib/server/media/decode-sound';

const CHANNELS = 8;
const SECONDS = 900;

/** What measuring costs: a recording of eight channels, decoded alone, decoded and measured, and read off. */
export async function benchMeasure(): Promise<string> {
	const folder = await mkdtemp(join(tmpdir(), 'open-choir-measure-'));
	try {
		const path = join(folder, 'eight.wav');
		// Eight voices of noise that come and go, each by itself.
		const voice = (index: number) =>
			`anoisesrc=d=${SECONDS}:c=pink:a=0.4:seed=${index}:r=48000,tremolo=f=${0.11 + 0.03 * index}:d=1[v${index}]`;
		const graph = `${Array.from({ length: CHANNELS }, (_, index) => voice(index)).join(';')};${Array.from({ length: CHANNELS }, (_, index) => `[v${index}]`).join('')}amerge=inputs=${CHANNELS}[out]`;
		const coder = ['-map', '[out]', '-c:a', 'pcm_s24le', path];
		await run('ffmpeg', ['-v', 'error', '-y', '-filter_complex', graph, ...coder], { maxBuffer: 2 ** 24 });
		const decoding = await timed(() =>
			decodeChannels({ path }, READINGS_RATE, () => undefined, { channels: CHANNELS })
		);
		const target = join(folder, 'eight.u8');
		let samples = 0;
		const measuring = await timed(async () => {
			const meter = openSoundMeter({ channels: CHANNELS, target });
			try {
				await decodeChannels({ path }, READINGS_RATE, (block) => meter.add(block), { channels: CHANNELS });
				({ samples } = await meter.finish());
			} finally {
				await meter.close();
			}
		});
		const { size } = await stat(target);
		const judging = await timed(() => judge(target, samples));
		const channelHours = (CHANNELS * SECONDS) / 3600;
		const each = (seconds: number) => (seconds / channelHours).toFixed(1);
		return [
			`A wave file of ${CHANNELS} channels, ${SECONDS / 60} minutes, 24 bits. Seconds a channel-hour, start of the threads included.`,
			'',
			'| what | seconds a channel-hour | times bare decoding |',
			'|---|---|---|',
			`| decoding alone | ${each(decoding)} | 1 |`,
			`| decoding and measuring, one thread beside it | ${each(measuring)} | ${(measuring / decoding).toFixed(1)} |`,
			`| reading all figures off, who speaks when, ranking | ${each(judging)} | ${(judging / decoding).toFixed(1)} |`,
			'',
			`Readings take ${(size / 1e6 / channelHours).toFixed(1)} MB a channel-hour.`
		].join('\n');
	} finally {
		await rm(folder, { recursive: true, force: true });
	}
}

async function judge(path: string, samples: number): Promise<void> {
	const pool = createEnginePool();
	try {
		const outFlicks = secondsToFlicks(SECONDS);
		const file = { path, channels: CHANNELS, firstChannel: 0, samples, inFlicks: 0, outFlicks };
		const channelNames = Array.from({ length: CHANNELS }, (_, channel) => `Voice ${'ABCDEFGH'[channel]}`);
		const device = { deviceId: 'eight', channelNames, twins: [] };
		const course = { startFlicks: 0, rateFactor: 1 };
		await pool.run({ kind: 'judge', inFlicks: 0, outFlicks, devices: [{ ...device, files: [{ ...file, course }] }] });
	} finally {
		await pool.close();
	}
}

async function timed(work: () => Promise<unknown>): Promise<number> {
	const began = performance.now();
	await work();
	return (performance.now() - began) / 1000;
}
