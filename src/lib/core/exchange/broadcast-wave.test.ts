import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { probeFile } from '../../server/media/probe';
import { broadcastWaveHeader } from './broadcast-wave';
import { runProgram as run } from '../../../../scripts/outside-programs';

// Outside check: ffprobe reads the header as EBU Tech 3285 says.
describe('broadcast wave', () => {
	let folder: string;
	beforeAll(async () => void (folder = await mkdtemp(join(tmpdir(), 'open-choir-wave-'))));
	afterAll(() => rm(folder, { recursive: true }));

	async function write(name: string, timeReferenceSamples: number, iXml?: string): Promise<string> {
		const path = join(folder, name);
		const samples = 4800;
		const header = broadcastWaveHeader({ sampleRate: 48000, channels: 3, bitsPerSample: 24 }, samples, {
			description: 'Odd',
			date: '2026-05-09',
			time: '19:30:00',
			timeReferenceSamples,
			...(iXml ? { iXml } : {})
		});
		await writeFile(path, Buffer.concat([header, new Uint8Array(samples * 9)]));
		return path;
	}

	// Above 2^32 samples too: 24 h 51 min at 48 kHz, and far beyond a day at 192 kHz.
	it.each([0, 1, 3_369_600_000, 2 ** 32 - 1, 2 ** 32, 2 ** 33 + 7])(
		'tells a time reference of %i samples',
		async (reference) => {
			const { stdout } = await run('ffprobe', [
				'-v',
				'error',
				'-show_format',
				'-show_streams',
				'-of',
				'json',
				await write(`${reference}.wav`, reference)
			]);
			const report = JSON.parse(stdout) as {
				format: { tags: Record<string, string>; duration: string };
				streams: { channels: number; bits_per_sample: number }[];
			};
			expect(report.format.tags['time_reference']).toBe(`${reference}`);
			expect(report.format.tags['date']).toBe('2026-05-09');
			expect(Number(report.format.duration)).toBeCloseTo(0.1, 9);
			expect(report.streams[0]).toMatchObject({ channels: 3, bits_per_sample: 24 });
		}
	);

	it('keeps names of channels through iXML of odd length', async () => {
		const iXml =
			'<BWFXML><SCENE>4</SCENE><TAKE>002</TAKE><TRACK_LIST><TRACK><INTERLEAVE_INDEX>2</INTERLEAVE_INDEX><NAME>Lav &amp; boom</NAME></TRACK><TRACK><INTERLEAVE_INDEX>1</INTERLEAVE_INDEX><NAME>003</NAME></TRACK></TRACK_LIST></BWFXML>';
		const facts = await probeFile(await write('named.wav', 48000, iXml.length % 2 ? iXml : `${iXml} `));
		expect(facts.audio!.channelNames).toEqual(['003', 'Lav & boom', '']);
		expect(facts).toMatchObject({ scene: '4', take: '002', clockSeconds: 1 });
	});

	it('refuses what 32 bits cannot hold', () => {
		expect(() =>
			broadcastWaveHeader({ sampleRate: 48000, channels: 4, bitsPerSample: 24 }, 2 ** 31, { timeReferenceSamples: 0 })
		).toThrow('RF64');
	});
});
