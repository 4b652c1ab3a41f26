import { mkdir, mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { execFile } from '../scripts/outside-programs';
import { fastFftProvider } from '../src/lib/server/engine/fast-fft';
import type { SourcesFile } from '../src/lib/server/stages/master/measure-folder';
import { diarizationScore } from '../tests/support/diarization';
import { encode } from '../tests/support/simulator/encode';
import { addNoise, hearTalk, makeTalk, onChest, type Talk } from '../tests/support/simulator/talk';
import { SCENE_RATE } from '../tests/support/simulator/sounds';

const ROOT = resolve(import.meta.dirname, '..');
const SECONDS = 100;
const LATE_SECONDS = 3;

function openChoir(...args: readonly string[]): Promise<{ readonly code: number; readonly stderr: string }> {
	return new Promise((done) => {
		execFile(
			process.execPath,
			['--import', 'tsx', 'cli/open-choir.ts', ...args],
			{ cwd: ROOT, maxBuffer: 2 ** 24 },
			(error, _, stderr) => done({ code: typeof error?.code === 'number' ? error.code : 0, stderr })
		);
	});
}

/** The command as a shell sees it, on a conversation whose every word is known. */
describe('measure', () => {
	let folder: string;
	let talk: Talk;

	beforeAll(async () => {
		folder = await mkdtemp(join(tmpdir(), 'open choir measure-'));
		const fft = await fastFftProvider();
		talk = await makeTalk(41, { people: 2, seconds: SECONDS, apart: 2, criticalMetres: 2 });
		for (const device of ['rec-1', 'cam-a', 'rec-2']) await mkdir(join(folder, device));
		for (const [index, person] of talk.people.entries()) {
			const close = addNoise(hearTalk(talk, onChest(person), index, fft), -60, index);
			await encode([close], join(folder, 'rec-1', `${['Host', 'Guest'][index]}.wav`), 'wav');
		}
		const far = addNoise(hearTalk(talk, { x: 1, y: -3 }, 7, fft), -54, 7).subarray(LATE_SECONDS * SCENE_RATE);
		await encode([far], join(folder, 'cam-a', 'C1.mp4'), 'mp4');
		// Cut off, and the same on both channels.
		const cut = addNoise(hearTalk(talk, { x: 0, y: 0.3, z: 0.8 }, 8, fft), -60, 8).map((x) =>
			Math.max(-0.12, Math.min(0.12, x))
		);
		await encode([cut, cut], join(folder, 'rec-2', 'R2.wav'), 'wav');
	}, 120_000);
	afterAll(() => rm(folder, { recursive: true }));

	it('ranks sources and says who speaks when', async () => {
		const out = join(folder, 'out.json');
		const { code, stderr } = await openChoir('measure', folder, '--json', out);
		expect(code).toBe(0);
		expect(stderr).toMatch(/Host/);
		const result = JSON.parse(await readFile(out, 'utf8')) as SourcesFile;
		expect(result).toMatchObject({ format: 'open-choir.sources', version: 1 });
		const [group] = result.groups;
		expect(group!.people).toEqual([
			{ name: 'Guest', channels: [{ device: 'rec-1', channel: 1 }] },
			{ name: 'Host', channels: [{ device: 'rec-1', channel: 2 }] }
		]);
		expect(group!.sets[0]!.channels).toEqual([
			{ device: 'rec-1', channel: 1 },
			{ device: 'rec-1', channel: 2 }
		]);
		const source = (device: string, channel: number) =>
			group!.sources.find((one) => one.device === device && one.channel === channel)!;
		expect(group!.sources).toHaveLength(5);
		expect(source('rec-1', 1)).toMatchObject({ name: 'Guest', coverage: expect.closeTo(1, 1) as number });
		expect(source('rec-2', 2).sameAs).toBe(1);
		expect(source('rec-2', 1).measures['clippedShare']).toBeGreaterThan(0.001);
		expect(source('rec-2', 1).sentence).toMatch(/clipping/);
		expect(source('rec-1', 1).measures['speechToNoiseDb']).toBeGreaterThan(
			source('cam-a', 1).measures['speechToNoiseDb']!
		);
		// The line-up begins where its earliest file does: the voices' own time.
		const spoken = ['Host', 'Guest'].map((name) => group!.speech.filter((one) => one.person === name));
		const zero =
			Math.min(...group!.speech.map((one) => one.from)) - Math.min(...talk.people.map((one) => one.spoken[0]!.from));
		expect(Math.abs(zero)).toBeLessThan(0.5);
		const score = diarizationScore(
			talk.people.map((one) => one.spoken),
			spoken,
			SECONDS
		);
		expect(score.error).toBeLessThan(0.1);
		for (const one of group!.speech) expect(one.confidence).toBeLessThanOrEqual(1);
	}, 180_000);

	it('takes what align takes, and ends as it does', async () => {
		expect((await openChoir('measure')).code).toBe(2);
		expect((await openChoir('measure', folder, '--explain')).code).toBe(2);
		expect((await openChoir('measure', join(folder, 'gone'))).code).toBe(1);
		expect((await openChoir('measure', '--help')).code).toBe(0);
	});
});
