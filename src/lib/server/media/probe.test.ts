import { utimes, copyFile, mkdir, mkdtemp, readFile, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ANALYSIS_SAMPLE_RATE } from '../../core/features/band-features';
import { decodeForAnalysis } from './decode-sound';
import { identify, openMediaCache } from './media-cache';
import { probeFile } from './probe';
import { runTool } from './run-tool';
import { allowFolders } from '../access/allowed-folders';
import { scanFolder } from './scan-folder';
import { runProgram as run } from '../../../../scripts/outside-programs';

let folder: string;

beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-media-'));
});
afterAll(() => rm(folder, { recursive: true }));

/** Makes a file with ffmpeg: a test picture and a click at one second. */
async function make(name: string, args: readonly string[], seconds = 2): Promise<string> {
	const path = join(folder, name);
	const click = `aevalsrc='if(between(t,1,1.002),0.8*sin(2*PI*1500*t),0)':s=48000:d=${seconds}`;
	await run('ffmpeg', [
		'-v',
		'error',
		'-y',
		'-f',
		'lavfi',
		'-i',
		`testsrc2=size=320x180:rate=30000/1001:duration=${seconds}`,
		'-f',
		'lavfi',
		'-i',
		click,
		...args,
		path
	]);
	return path;
}

describe('probing', () => {
	it('reads picture, sound, timecode and creation time of a movie', async () => {
		const path = await make('a.mov', [
			'-c:v',
			'libx264',
			'-c:a',
			'aac',
			'-timecode',
			'01:00:00;00',
			'-metadata',
			'creation_time=2026-05-09T19:30:00Z'
		]);
		const facts = await probeFile(path);
		expect(facts.video).toMatchObject({ codec: 'h264', width: 320, height: 180, rate: { num: 30000, den: 1001 } });
		expect(facts.audio).toMatchObject({ codec: 'aac', sampleRate: 48000, channels: 1 });
		expect(facts.timecode).toBe('01:00:00;00');
		// SMPTE ST 12-1 (memory): an hour of drop-frame labels is 107 892 frames, 3599.9964 s.
		expect(facts.clockSeconds).toBeCloseTo(3599.9964, 4);
		expect(facts.creationTime).toMatch(/^2026-05-09T19:30:00/);
		expect(facts.durationSeconds).toBeCloseTo(2, 1);
	});

	it('takes an attached picture for no camera', async () => {
		const cover = await make('cover.png', ['-map', '0:v', '-frames:v', '1']);
		const path = join(folder, 'memo.mp3');
		await run('ffmpeg', [
			'-v',
			'error',
			'-y',
			'-f',
			'lavfi',
			'-i',
			'sine=d=1',
			'-i',
			cover,
			'-map',
			'0',
			'-map',
			'1',
			'-c:v',
			'copy',
			'-disposition:v',
			'attached_pic',
			path
		]);
		const facts = await probeFile(path);
		expect(facts.video).toBeUndefined();
		expect(facts.audio!.codec).toBe('mp3');
	});

	it('says in a sentence what is wrong with a bad file', async () => {
		const whole = await make('whole.mp4', ['-c:v', 'libx264', '-c:a', 'aac']);
		await writeFile(join(folder, 'cut.mp4'), (await readFile(whole)).subarray(0, 5000));
		await writeFile(join(folder, 'empty.wav'), '');
		await writeFile(join(folder, 'notes.txt'), 'scene 4 take 2, the second clap counts\n'.repeat(50));
		const reason = (name: string) =>
			probeFile(join(folder, name)).then(
				() => 'fine',
				(error: Error) => error.message
			);
		expect(await reason('empty.wav')).toBe('The file is empty.');
		expect(await reason('gone.mov')).toBe('The file is gone.');
		expect(await reason('cut.mp4')).toMatch(/^It .*\.$/);
		expect(await reason('notes.txt')).toMatch(/^It .*\.$/);
	});
});

// Presentation times as ffmpeg's decoders give them; the table in the engine's notes was measured the same way.
describe('decoding for the analysis', () => {
	it.each([
		['aac.mp4', ['-c:v', 'libx264', '-c:a', 'aac']],
		['alac.mov', ['-c:v', 'libx264', '-c:a', 'alac']],
		['ac3.mp4', ['-c:v', 'libx264', '-c:a', 'ac3']],
		['pcm.wav', ['-vn']],
		['flac.flac', ['-vn']],
		['lame.mp3', ['-vn', '-c:a', 'libmp3lame']],
		['opus.opus', ['-vn', '-c:a', 'libopus']],
		['vorbis.ogg', ['-vn', '-c:a', 'libvorbis']],
		['44100.wav', ['-vn', '-ar', '44100']],
		['44100.m4a', ['-vn', '-ar', '44100', '-c:a', 'aac']]
	])('a click at one second stays there: %s', async (name, args) => {
		const path = await make(name, args);
		const facts = await probeFile(path);
		const samples = await decodeForAnalysis(path, facts);
		let loudest = 0;
		for (let i = 0; i < samples.length; i++) if (Math.abs(samples[i]!) > Math.abs(samples[loudest]!)) loudest = i;
		const seconds = loudest / ANALYSIS_SAMPLE_RATE + facts.audio!.startSeconds;
		// Within the click's two milliseconds, and as much smear by lossy codecs.
		expect(seconds).toBeGreaterThan(0.998);
		expect(seconds).toBeLessThan(1.004);
	});
});

describe('sound that starts later than the picture', () => {
	it.each(['mov', 'mkv', 'mp4'])('keeps its place in %s', async (ending) => {
		const path = await make(`late.${ending}`, [
			'-c:v',
			'libx264',
			'-c:a',
			ending === 'mp4' ? 'ac3' : 'pcm_s16le',
			'-af',
			'asetpts=PTS+0.5/TB'
		]);
		const facts = await probeFile(path);
		// An encoder may put some milliseconds of its own before the sound.
		expect(facts.audio!.startSeconds).toBeCloseTo(0.5, 1);
		const samples = await decodeForAnalysis(path, facts);
		const loudest = samples.reduce((best, sample, i) => (Math.abs(sample) > Math.abs(samples[best]!) ? i : best), 0);
		expect(Math.abs(loudest / ANALYSIS_SAMPLE_RATE + facts.audio!.startSeconds - 1.5)).toBeLessThan(0.004);
	});
});

describe('scanning a folder', () => {
	it('finds files in order, passes over what is hidden, and follows links as far as they may go', async () => {
		const cards = join(folder, 'cards');
		await mkdir(join(cards, 'cam', 'deep'), { recursive: true });
		for (const name of ['cam/c10.mov', 'cam/c2.mov', 'cam/deep/c1.mov', 'memo.wav', '.hidden.wav', 'cam/Thumbs.db'])
			await writeFile(join(cards, name), 'x');
		await mkdir(join(folder, 'shelf'), { recursive: true });
		await writeFile(join(folder, 'shelf', 'old.wav'), 'x');
		// Out, to another place that may be read, in a circle, to what is listed anyway, and to nothing.
		await symlink('/etc', join(cards, 'etc'));
		await symlink(join(folder, 'shelf'), join(cards, 'cam', 'a-shelf'));
		await symlink(cards, join(cards, 'cam', 'deep', 'round'));
		await symlink(join(cards, 'memo.wav'), join(cards, 'a-memo.wav'));
		await symlink(join(cards, 'gone.wav'), join(cards, 'lost.wav'));
		const allowed = await allowFolders({ folders: [folder] });
		const found = await scanFolder(cards, (path) => allowed.resolve(path));
		const refused = found.filter((file) => file.reason !== undefined);
		expect(refused.map((file) => [file.relativePath, file.reason])).toEqual([
			['etc', expect.stringContaining('lies outside the folders')],
			['lost.wav', expect.stringMatching(/^A link that cannot be followed/)]
		]);
		expect(found.find((file) => file.relativePath === 'cam/a-shelf/old.wav')?.path).toBe(
			join(folder, 'shelf', 'old.wav')
		);
		expect(found.filter((file) => !file.reason).map((file) => [file.relativePath, file.device])).toEqual([
			['cam/a-shelf/old.wav', 'cam'],
			['cam/c2.mov', 'cam'],
			['cam/c10.mov', 'cam'],
			['cam/deep/c1.mov', 'cam'],
			['memo.wav', 'memo']
		]);
	});
});

describe('a media tool', () => {
	it('is stopped when it is asked to, and when it takes too long', async () => {
		const forever = ['-v', 'error', '-f', 'lavfi', '-i', 'anullsrc', '-f', 'null', '-'];
		const controller = new AbortController();
		setTimeout(() => controller.abort(), 200);
		await expect(runTool('ffmpeg', forever, { signal: controller.signal })).rejects.toThrow('aborted');
		await expect(runTool('ffmpeg', forever, { timeoutSeconds: 0.3 })).rejects.toThrow('took longer than');
	});

	it('reads nothing but local files', async () => {
		const list = join(folder, 'elsewhere.m3u8');
		await writeFile(list, '#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\nhttp://127.0.0.1:9/x.ts\n#EXT-X-ENDLIST\n');
		await expect(probeFile(list)).rejects.toThrow();
	});
});

describe('the cache', () => {
	it('shows a file only when it is whole, and knows a changed file', async () => {
		const cache = openMediaCache(join(folder, 'cache'));
		const path = join(folder, 'source.bin');
		await writeFile(path, 'one');
		const first = await identify(path);
		await expect(cache.put(first.identity, 'peaks.s16', () => Promise.reject(new Error('cut off')))).rejects.toThrow(
			'cut off'
		);
		expect(await cache.has(first.identity, 'peaks.s16')).toBe(false);
		await cache.put(first.identity, 'peaks.s16', (target) => writeFile(target, 'peaks'));
		expect(await readFile(cache.path(first.identity, 'peaks.s16'), 'utf8')).toBe('peaks');
		await writeFile(path, 'two');
		expect((await identify(path)).identity).not.toBe(first.identity);
		const copy = join(folder, 'copy.bin');
		await copyFile(path, copy);
		expect((await identify(copy)).digest).toBe((await identify(path)).digest);
		await utimes(copy, 1, 1);
		expect((await identify(copy)).digest).toBe((await identify(path)).digest);
		expect((await identify(copy)).identity).not.toBe((await identify(path)).identity);
		expect(() => cache.path('../../etc/passwd', 'peaks.s16')).toThrow(RangeError);
	});
});
