import { expect, test } from '@playwright/test';
import { mkdir, mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { runTool } from '../../../src/lib/server/media/run-tool';
import { type RunningServer, startServer, waitFor } from '../support/server';
import { readShoot } from '../support/shoot';

/** What the server takes does not grow with pages that come and go, nor with files. */
const LOADS = 1000;
const FILES = 2000;
let folder: string;
let server: RunningServer;

test.beforeAll(async () => {
	test.setTimeout(600_000);
	folder = await mkdtemp(join(tmpdir(), 'open-choir-memory-'));
	await mkdir(join(folder, 'media', 'shoot', 'rec'), { recursive: true });
	// 2 000 recordings of three seconds each, every one different.
	const path = join(folder, 'media', 'shoot', 'rec', 'R%04d.wav');
	await runTool('ffmpeg', [
		...['-v', 'error', '-f', 'lavfi', '-i', `anoisesrc=d=${3 * FILES}:r=16000:seed=5`],
		...['-f', 'segment', '-segment_time', '3', '-c:a', 'pcm_s16le', path]
	]);
	server = await startServer(join(folder, 'data'), ['--media', join(folder, 'media'), '--no-demo']);
});
test.afterAll(async () => {
	await server.stop();
	await rm(folder, { recursive: true, force: true });
});

async function serverMb(): Promise<number> {
	const status = await readFile(`/proc/${server.child.pid}/status`, 'utf8');
	return Number(/VmRSS:\s+(\d+)/.exec(status)![1]) / 1024;
}

test(`${FILES} files, then ${LOADS} page loads`, async ({ page }) => {
	test.setTimeout(7_200_000);
	const empty = await serverMb();
	const made = await page.request.post(`${server.address}/api/shoots`, {
		data: { name: 'Many', folder: join(folder, 'media', 'shoot') }
	});
	const { id } = (await made.json()) as { id: string };
	let peak = 0;
	const isDone = async () => {
		peak = Math.max(peak, await serverMb());
		const jobs = (await (await page.request.get(`${server.address}/api/shoots/${id}/jobs`)).json()) as {
			kind: string;
			state: string;
		}[];
		return jobs.some((job) => job.kind === 'prepare' && job.state === 'done');
	};
	await waitFor(isDone, 3_600_000, 500);
	expect((await readShoot(server.address, id)).clips.length).toBeGreaterThan(0);
	const gathered = await serverMb();
	const load = async (stage: string) => {
		await page.goto(`${server.address}/shoots/${id}/${stage}`, { waitUntil: 'domcontentloaded' });
		await page.getByRole('navigation', { name: 'Stages' }).waitFor();
	};
	const marks: number[] = [];
	for (let count = 1; count <= LOADS; count++) {
		await load(['gather', 'line-up', 'prove', 'master', 'call', 'hand-off'][count % 6]!);
		if (count % 100 === 0) marks.push(await serverMb());
	}
	const told = marks.map((mark) => mark.toFixed(0)).join(' ');
	process.stdout.write(
		`server: ${empty.toFixed(0)} MB empty, at most ${peak.toFixed(0)} with ${FILES} files, ${gathered.toFixed(0)} after; every 100 page loads: ${told}\n`
	);
	expect(peak - empty).toBeLessThan(400);
	// Between the 300th load and the last: caches are warm, what grows now grows for ever.
	expect(marks.at(-1)! - marks[2]!).toBeLessThan(60);
});
