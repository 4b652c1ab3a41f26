import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { broadcastWaveHeader } from '../../src/lib/core/exchange/broadcast-wave';
import type { MediaFacts } from '../../src/lib/core/gather/media-facts';
import { probeFile } from '../../src/lib/server/media/probe';
import { runProgram as run } from '../../scripts/outside-programs';

/** What is read of files made by ffmpeg, sox and our own writer, against mediainfo, sndfile-info and exiftool. */
let folder: string;

const picture = (rate: string, size = '320x180') => ['-f', 'lavfi', '-i', `testsrc2=s=${size}:r=${rate}:d=2`];
const sound = (rate = 48_000, channels = 1) => [
	...[
		'-f',
		'lavfi',
		'-i',
		`aevalsrc=${Array.from({ length: channels }, () => '0.1*sin(600*t)').join('|')}:s=${rate}:d=2`
	]
];
const H264 = ['-c:v', 'libx264', '-preset', 'ultrafast'];

const BY_FFMPEG: readonly (readonly [name: string, ...args: string[]])[] = [
	['23976.mov', ...picture('24000/1001'), ...sound(), ...H264, '-c:a', 'pcm_s16le', '-timecode', '10:00:00:05'],
	['24.mp4', ...picture('24'), ...sound(44_100, 2), ...H264, '-c:a', 'aac', '-timecode', '23:59:59:20'],
	[
		'25.mxf',
		...picture('25'),
		...sound(48_000, 2),
		'-c:v',
		'mpeg2video',
		'-c:a',
		'pcm_s16le',
		'-timecode',
		'11:22:33:04'
	],
	['2997drop.mov', ...picture('30000/1001'), ...sound(), ...H264, '-c:a', 'aac', '-timecode', '01:00:00;02'],
	['2997nondrop.mp4', ...picture('30000/1001'), ...sound(), ...H264, '-c:a', 'aac', '-timecode', '01:00:00:02'],
	['30.mov', ...picture('30'), ...sound(), ...H264, '-c:a', 'alac', '-timecode', '02:03:04:05'],
	['47952.mov', ...picture('48000/1001'), ...sound(), ...H264, '-c:a', 'aac', '-timecode', '03:00:00:40'],
	['48.mov', ...picture('48'), ...sound(), ...H264, '-c:a', 'aac', '-timecode', '04:00:00:47'],
	['50.mp4', ...picture('50', '640x360'), ...sound(48_000, 2), ...H264, '-c:a', 'aac', '-timecode', '05:00:00:49'],
	['5994drop.mov', ...picture('60000/1001'), ...sound(), ...H264, '-c:a', 'aac', '-timecode', '06:00:00;58'],
	['60.mov', ...picture('60'), ...sound(), ...H264, '-c:a', 'aac', '-timecode', '07:00:00:59'],
	[
		'dated.mp4',
		...picture('25'),
		...sound(),
		...H264,
		'-c:a',
		'aac',
		'-metadata',
		'creation_time=2026-05-16T09:10:11Z'
	],
	['stream.mts', ...picture('25'), ...sound(), ...H264, '-c:a', 'ac3', '-f', 'mpegts'],
	['mute.webm', ...picture('25'), '-c:v', 'libvpx', '-b:v', '200k'],
	['opus.mkv', ...picture('30'), ...sound(48_000, 2), ...H264, '-c:a', 'libopus'],
	['old.avi', ...picture('25'), ...sound(32_000), '-c:v', 'mjpeg', '-c:a', 'pcm_s16le'],
	['memo.m4a', ...sound(16_000), '-c:a', 'aac'],
	['song.mp3', ...sound(44_100, 2)],
	['song.ogg', ...sound(44_100, 2), '-c:a', 'libvorbis'],
	['plain.flac', ...sound(96_000, 2)],
	['rf64.wav', ...sound(48_000, 6), '-c:a', 'pcm_s24le', '-rf64', 'always'],
	[
		'bext.wav',
		...sound(48_000, 2),
		'-write_bext',
		'1',
		'-metadata',
		'time_reference=4147200000',
		'-metadata',
		'originator=Recorder X'
	]
];
const BY_SOX: readonly (readonly [name: string, ...format: string[]])[] = [
	['sox.wav', '-r', '48000', '-c', '8', '-b', '24'],
	['sox.aiff', '-r', '44100', '-c', '1', '-b', '16'],
	['sox.flac', '-r', '88200', '-c', '2', '-b', '24']
];
const OURS = 'ours.wav';
const NAMES = [...BY_FFMPEG, ...BY_SOX].map(([name]) => name);

beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-metadata-'));
	for (const [name, ...args] of BY_FFMPEG) await run('ffmpeg', ['-v', 'error', ...args, join(folder, name)]);
	for (const [name, ...format] of BY_SOX)
		await run('sox', ['-n', ...format, join(folder, name), 'synth', '2', 'sine', '500']);
	const header = broadcastWaveHeader({ sampleRate: 48_000, channels: 2, bitsPerSample: 24 }, 96_000, {
		originator: 'Recorder Y',
		date: '2026-05-16',
		time: '09:10:11',
		// Above 32 bits: 25 hours and more at 48 kHz.
		timeReferenceSamples: 5_000_000_123,
		iXml: '<?xml version="1.0"?><BWFXML><SCENE>007</SCENE><TAKE>03</TAKE><CIRCLED>TRUE</CIRCLED><NOTE>plane &amp; dog</NOTE><TAPE>T1</TAPE><SPEED><TIMECODE_RATE>30000/1001</TIMECODE_RATE><TIMECODE_FLAG>DF</TIMECODE_FLAG></SPEED><TRACK_LIST><TRACK_COUNT>2</TRACK_COUNT><TRACK><CHANNEL_INDEX>1</CHANNEL_INDEX><INTERLEAVE_INDEX>1</INTERLEAVE_INDEX><NAME>Boom</NAME></TRACK><TRACK><CHANNEL_INDEX>2</CHANNEL_INDEX><INTERLEAVE_INDEX>2</INTERLEAVE_INDEX><NAME>Host</NAME></TRACK></TRACK_LIST></BWFXML>'
	});
	await writeFile(join(folder, OURS), Buffer.concat([header, Buffer.alloc(96_000 * 6)]));
}, 120_000);
afterAll(() => rm(folder, { recursive: true }));

type Track = Readonly<Record<string, string>>;

async function mediainfo(name: string): Promise<(kind: string) => Track | undefined> {
	const { stdout } = await run('mediainfo', ['--Output=JSON', join(folder, name)]);
	const { media } = JSON.parse(stdout) as { media: { track: Track[] } };
	return (kind) => media.track.find((track) => track['@type'] === kind);
}

describe('what is read of a file', () => {
	it.each(NAMES)('agrees with mediainfo: %s', async (name) => {
		const facts = await probeFile(join(folder, name));
		const track = await mediainfo(name);
		comparePicture(facts, track('Video'));
		compareSound(facts, track('Audio'));
		// A transport stream has no length of its own: mediainfo takes the last picture's start.
		if (!name.endsWith('.mts')) expect(facts.durationSeconds).toBeCloseTo(Number(track('General')!['Duration']), 1);
		const label = track('Other')?.['TimeCode_FirstFrame'];
		if (name.endsWith('.mov') || name.endsWith('.mxf')) expect(label).toBeDefined();
		if (label !== undefined) expect(facts.timecode?.replace(/[;.]/g, ':')).toBe(label.replace(/[;.]/g, ':'));
		const written = track('General')!['Encoded_Date'];
		if (name === 'dated.mp4')
			expect(facts.creationTime!.slice(0, 19)).toBe(written!.replace(' UTC', '').replace(' ', 'T'));
	});

	it.each(['plain.flac', 'rf64.wav', 'bext.wav', 'song.ogg', ...BY_SOX.map(([name]) => name), OURS])(
		'agrees with sndfile-info: %s',
		async (name) => {
			const { stdout } = await run('sndfile-info', [join(folder, name)]);
			const number = (field: string) => Number(new RegExp(`^${field}\\s*:\\s*(\\d+)`, 'm').exec(stdout)?.[1]);
			const { audio, durationSeconds } = await probeFile(join(folder, name));
			expect([audio!.sampleRate, audio!.channels]).toEqual([number('Sample Rate'), number('Channels')]);
			expect(durationSeconds * audio!.sampleRate).toBeCloseTo(number('Frames'), 0);
		}
	);

	it('agrees with exiftool on broadcast wave and iXML', async () => {
		for (const name of ['bext.wav', OURS]) {
			const { stdout } = await run('exiftool', ['-j', '-TimeReference', '-Originator', join(folder, name)]);
			const [told] = JSON.parse(stdout) as [{ TimeReference: number; Originator: string }];
			const facts = await probeFile(join(folder, name));
			expect(Math.round(facts.clockSeconds! * 48_000)).toBe(told.TimeReference);
			expect(facts.make).toBe(told.Originator);
		}
		const { stdout } = await run('exiftool', ['-j', '-G1', '-a', join(folder, OURS)]);
		const told = (JSON.parse(stdout) as [Record<string, string | number>])[0];
		const facts = await probeFile(join(folder, OURS));
		expect(facts).toMatchObject({
			scene: '007',
			take: '03',
			circled: true,
			note: 'plane & dog',
			tape: 'T1',
			timecodeRate: { num: 30_000, den: 1001 },
			dropFrame: true,
			// The standard's date and time are those of the place, with no zone.
			creationTime: '2026-05-16T09:10:11'
		});
		expect([told['XML:BwfxmlScene'], told['XML:BwfxmlTake'], told['XML:BwfxmlNote']]).toEqual([
			'007',
			'03',
			'plane & dog'
		]);
		expect(facts.audio!.channelNames).toEqual(['Boom', 'Host']);
	});
});

function comparePicture({ video }: MediaFacts, track: Track | undefined): void {
	expect(video === undefined).toBe(track === undefined);
	if (!video || !track) return;
	expect([video.width, video.height]).toEqual([Number(track['Width']), Number(track['Height'])]);
	if (track['FrameRate'] !== undefined)
		expect(video.rate.num / video.rate.den).toBeCloseTo(Number(track['FrameRate']), 2);
}

function compareSound({ audio }: MediaFacts, track: Track | undefined): void {
	expect(audio === undefined).toBe(track === undefined);
	if (!audio || !track) return;
	expect([audio.sampleRate, audio.channels]).toEqual([Number(track['SamplingRate']), Number(track['Channels'])]);
}
