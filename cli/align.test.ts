import { once } from 'node:events';
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { seededRandom } from '../demo/random';
import type { AlignmentFile } from '../src/lib/server/stages/line-up/align-folder';
import { fastFftProvider } from '../src/lib/server/engine/fast-fft';
import { CASES } from '../tests/support/simulator/cases';
import { linearTimecodeWriter } from '../tests/support/linear-timecode/write';
import { score } from '../tests/support/simulator/score';
import { type TrueFile, writeShoot } from '../tests/support/simulator/simulator';
import { execFile, spawn } from '../scripts/outside-programs';

const ROOT = resolve(import.meta.dirname, '..');

interface Ended {
	readonly code: number;
	readonly stdout: string;
	readonly stderr: string;
}

function openChoir(...args: readonly string[]): Promise<Ended> {
	return new Promise((done) => {
		execFile(
			process.execPath,
			['--import', 'tsx', 'cli/open-choir.ts', ...args],
			{ cwd: ROOT, maxBuffer: 2 ** 24 },
			(error, stdout, stderr) => done({ code: typeof error?.code === 'number' ? error.code : 0, stdout, stderr })
		);
	});
}

/** A tool that takes its input from here. */
async function run(
	tool: string,
	args: readonly string[],
	input: Float32Array | undefined,
	more: readonly string[]
): Promise<void> {
	const child = spawn(tool, [...args, ...more], { stdio: [input ? 'pipe' : 'ignore', 'ignore', 'inherit'] });
	if (input) child.stdin!.end(Buffer.from(input.buffer));
	const [code] = (await once(child, 'close')) as [number];
	if (code !== 0) throw new Error(`${tool} ended with ${code}.`);
}

/** The command as a shell sees it, on simulated shoots with known truth. */
describe('align', () => {
	let folder: string;
	let truth: readonly TrueFile[];

	beforeAll(async () => {
		folder = await mkdtemp(join(tmpdir(), 'open choir align-'));
		truth = await writeShoot(
			await CASES.find(({ name }) => name === 'another day')!.build(3),
			folder,
			3,
			await fastFftProvider()
		);
		await mkdir(join(folder, 'notes'));
		await writeFile(join(folder, 'notes', 'scenes.txt'), 'Scene 1: the second take.');
	}, 120_000);
	afterAll(() => rm(folder, { recursive: true }));

	it('writes where everything lies, every file in exactly one place', async () => {
		const out = join(folder, 'notes', '.out.json');
		const { code, stdout, stderr } = await openChoir('align', folder, '--json', out);
		expect([code, stdout]).toEqual([0, '']);
		expect(stderr).toMatch(/placed in 1 line-up/);
		const result = JSON.parse(await readFile(out, 'utf8')) as AlignmentFile;
		expect(result).toMatchObject({
			format: 'open-choir.alignment',
			version: 1,
			timing: { decodeSeconds: expect.any(Number) as number, alignSeconds: expect.any(Number) as number }
		});
		const paths = [...result.groups.flatMap((lineUp) => lineUp.clips), ...result.unplaced]
			.map((one) => one.path)
			.sort();
		expect(paths).toEqual([...truth.map((one) => one.path), 'notes/scenes.txt'].sort());
		for (const clip of result.groups.flatMap((lineUp) => lineUp.clips)) {
			expect(Object.keys(clip)).toEqual(['path', 'device', 'start', 'ratePpm', 'confidence', 'method']);
		}
		expect(result.unplaced.find((one) => one.path === 'notes/scenes.txt')).toMatchObject({
			device: 'notes',
			reason: 'unreadable'
		});
		const scored = score(
			{ groups: result.groups, unplaced: result.unplaced.filter((one) => one.device !== 'notes') },
			truth
		);
		expect(scored.map(({ path, verdict }) => [path, verdict])).toEqual(
			expect.arrayContaining(truth.map(({ path }) => [path, 'right']))
		);
	}, 120_000);

	it('says what is wrong with what it was asked, and by its exit code', async () => {
		expect((await openChoir('align')).code).toBe(2);
		expect((await openChoir('align', folder, '--loud')).code).toBe(2);
		expect((await openChoir('sing')).code).toBe(2);
		const gone = await openChoir('align', join(folder, 'gone'));
		expect([gone.code, gone.stderr]).toEqual([1, `${join(folder, 'gone')} is not a folder that can be read.\n`]);
		expect((await openChoir('align', '--help')).code).toBe(0);
	});

	it('hears timecode on a channel, where timecode alone is to count', async () => {
		const shoot = await mkdtemp(join(tmpdir(), 'open choir heard-'));
		try {
			await Promise.all(['cam', 'rec'].map((device) => mkdir(join(shoot, device))));
			const heard = await (await linearTimecodeWriter(shoot))({ fps: 25, start: [10, 0, 3, 5], frames: 300 });
			// Noise on the first channel, timecode on the second: 2.8 s before the camera's 10:00:06:00.
			const random = seededRandom(8);
			const samples = Float32Array.from(
				{ length: 2 * heard.length },
				(_, i) => 0.3 * (i % 2 === 0 ? random() - 0.5 : heard[i >> 1]!)
			);
			await run('ffmpeg', ['-v', 'error', '-f', 'f32le', '-ar', '48000', '-ac', '2', '-i', 'pipe:0'], samples, [
				join(shoot, 'rec', 'R1.wav')
			]);
			const picture = ['-f', 'lavfi', '-i', 'testsrc2=size=64x36:rate=25:duration=5'];
			await run('ffmpeg', ['-v', 'error', ...picture], undefined, [
				...['-timecode', '10:00:06:00', '-c:v', 'libx264', join(shoot, 'cam', 'C1.mov')]
			]);
			const { code, stdout } = await openChoir('align', shoot, '--by', 'timecode', '--quiet');
			expect(code).toBe(0);
			const result = JSON.parse(stdout) as AlignmentFile;
			const starts = new Map(result.groups.flatMap(({ clips }) => clips).map(({ path, start }) => [path, start]));
			expect(starts.get('cam/C1.mov')! - starts.get('rec/R1.wav')!).toBeCloseTo(2.8, 2);
			expect(result.remarks).toEqual([
				expect.stringMatching(/^rec\/R1\.wav: timecode heard on channel 2, \d+% of its frames\.$/)
			]);
		} finally {
			await rm(shoot, { recursive: true });
		}
	}, 60_000);

	it('writes to standard output, quietly', async () => {
		await mkdir(join(folder, 'notes', 'alone'));
		const { code, stdout, stderr } = await openChoir('align', join(folder, 'notes', 'alone'), '--quiet');
		expect([code, stderr]).toEqual([0, '']);
		expect(JSON.parse(stdout)).toMatchObject({ groups: [], unplaced: [] });
	});
});
