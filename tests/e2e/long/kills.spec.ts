import { expect, test } from '@playwright/test';
import { createHash } from 'node:crypto';
import { copyFile, mkdir, mkdtemp, readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { seededRandom } from '../../../demo/random';
import { fastFftProvider } from '../../../src/lib/server/engine/fast-fft';
import { runTool } from '../../../src/lib/server/media/run-tool';
import type { JobKind, JobView } from '../../../src/lib/contract/jobs';
import { CLOSE, conversation, device, whole } from '../../support/simulator/building';
import { writeShoot } from '../../support/simulator/simulator';
import { movieSeconds } from '../support/movie';
import { processesThatName } from '../support/processes';
import { type RunningServer, startServer, waitFor } from '../support/server';
import { readShoot } from '../support/shoot';

/** A hundred kills at random moments, in turns in the midst of every kind of job, with decisions made all the while. */
const KILLS = Number(process.env['OPEN_CHOIR_KILLS'] ?? 100);
const KINDS: readonly JobKind[] = ['gather', 'prepare', 'line-up', 'hand-off'];
const SEED = 41;
const FLICKS = 705_600_000;

const random = seededRandom(SEED);
let folder: string;
let server: RunningServer;
const media = (...names: string[]) => join(folder, 'media', 'talk', ...names);
const spare = (index: number) => join(folder, 'spare', `${index}.mp4`);

test.beforeAll(async () => {
	test.setTimeout(600_000);
	folder = await mkdtemp(join(tmpdir(), 'open-choir-kills-'));
	const scene = conversation('talk', 60, 3);
	const devices = [
		device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
		device('cam-a', { x: 1, y: 3 }, 'mov', random, [whole(scene, random)], { noiseDb: -15, isLive: true }),
		device('cam-b', { x: 2, y: 4 }, 'mp4', random, [whole(scene, random)], { noiseDb: -15, isLive: true })
	];
	await writeShoot({ scenes: [scene], devices }, media(), SEED, await fastFftProvider());
	await mkdir(join(folder, 'spare'));
	for (let index = 0; index < KILLS; index += 2)
		await runTool('ffmpeg', [
			...['-v', 'error', '-f', 'lavfi', '-i', `testsrc2=s=480x270:r=25:d=12`],
			...['-f', 'lavfi', '-i', `anoisesrc=d=12:seed=${index}`],
			...['-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac', spare(index)]
		]);
});
test.afterAll(() => rm(folder, { recursive: true, force: true }));

const launch = async () =>
	(server = await startServer(join(folder, 'data'), ['--media', join(folder, 'media'), '--no-demo']));

async function post<Answer = { readonly id: string }>(path: string, body: object): Promise<Answer> {
	const response = await fetch(server.address + path, {
		method: 'POST',
		body: JSON.stringify(body),
		headers: { 'content-type': 'application/json' }
	});
	if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`);
	return (await response.json()) as Answer;
}

async function digests(): Promise<Record<string, string>> {
	const entries = (await readdir(media(), { recursive: true, withFileTypes: true })).filter((entry) => entry.isFile());
	const pairs = entries.map(async ({ parentPath, name }) => {
		const bytes = await readFile(join(parentPath, name));
		return [name, createHash('sha256').update(bytes).digest('hex')] as const;
	});
	return Object.fromEntries(await Promise.all(pairs));
}

test(`${KILLS} kills lose nothing that was confirmed, and all work is done in the end`, async () => {
	test.setTimeout(10_000_000);
	await launch();
	const { id } = await post('/api/shoots', { name: 'Talk', folder: media() });
	const shoot = () => readShoot(server.address, id);
	const jobs = async () => (await (await fetch(`${server.address}/api/shoots/${id}/jobs`)).json()) as JobView[];
	const edit = (command: object) => post(`/api/shoots/${id}/edits`, command);
	const settle = () =>
		waitFor(async () => (await jobs()).every(({ state }) => state !== 'running' && state !== 'waiting'), 600_000);
	await waitFor(async () => (await shoot()).clips.length === 3, 100_000);
	await settle();
	await post(`/api/shoots/${id}/jobs`, { kind: 'line-up' });
	await settle();
	const lineUpId = (await shoot()).lineUps[0]!.id;
	const cameras = (await shoot()).devices.filter((one) => one.kind === 'camera');
	await edit({ kind: 'trim', lineUpId, inFlicks: 5 * FLICKS, outFlicks: 45 * FLICKS });
	const before = await digests();

	/** What was confirmed; the last one may have been lost on its way to us. */
	let confirmed = '';
	let underWay = '';
	let confirmations = 0;
	async function decide(): Promise<void> {
		for (;;) {
			underWay = `Host ${++confirmations}`;
			await edit({ kind: 'rename-device', deviceId: cameras[0]!.id, name: underWay });
			confirmed = underWay;
			await setTimeout(20);
		}
	}
	const caught: Record<string, number> = {};
	for (let kill = 0; kill < KILLS; kill++) {
		const kind = KINDS[kill % KINDS.length]!;
		if (kind === 'gather' || kind === 'prepare') {
			await copyFile(spare(kill - (kill % 2)), media('cam-a', `extra-${kill}.mp4`));
			before[`extra-${kill}.mp4`] = createHash('sha256')
				.update(await readFile(media('cam-a', `extra-${kill}.mp4`)))
				.digest('hex');
			await post(`/api/shoots/${id}/jobs`, { kind: 'gather' });
		} else if (kind === 'line-up') await post(`/api/shoots/${id}/jobs`, { kind });
		else {
			const at = 6 + random() * 30;
			await edit({ kind: 'call', lineUpId, atFlicks: Math.round(at * FLICKS), deviceId: cameras[kill % 2]!.id });
			await post(`/api/shoots/${id}/hand-offs`, { kind: 'movie', lineUpId });
		}
		const deciding = decide().catch(() => undefined);
		// In the midst of its kind of job, at a random moment.
		await waitFor(async () => (await jobs()).some((job) => job.kind === kind && job.state !== 'waiting'), 60_000, 10);
		await setTimeout(random() * 1500);
		for (const job of await jobs().catch(() => []))
			if (job.state === 'running') caught[job.kind] = (caught[job.kind] ?? 0) + 1;
		await server.kill();
		await deciding;
		await waitFor(async () => (await processesThatName(join(folder, 'data'))).length === 0, 3000, 20);
		await launch();
		const { name } = (await shoot()).devices.find((one) => one.id === cameras[0]!.id)!;
		expect([confirmed, underWay], `kill ${kill}`).toContain(name);
		confirmed = name;
		// What was set aside after two kills is started again, as its reason says.
		for (const job of await jobs())
			if (job.state === 'failed') {
				expect(job.error).toContain('The server ended twice');
				await post(`/api/jobs/${job.id}`, { action: 'retry' });
			}
		// Every fourth time all may be done, so that something is ever in a finished state too.
		if (kill % 8 === 7) await settle();
	}
	await settle();
	await post(`/api/shoots/${id}/jobs`, { kind: 'gather' });
	await settle();
	const end = await shoot();
	process.stdout.write(`${KILLS} kills, running then: ${JSON.stringify(caught)}; ${confirmations} decisions\n`);
	expect(await digests()).toEqual(before);
	expect(end.newFiles).toEqual([]);
	expect(end.clips.filter((clip) => clip.placement)).not.toHaveLength(0);
	for (const clip of end.clips)
		for (const part of clip.parts) {
			expect(part.sound?.listeningSamples, clip.name).toBeTruthy();
		}
	await post(`/api/shoots/${id}/hand-offs`, { kind: 'movie', lineUpId });
	await settle();
	const movies = (await shoot()).handOffs;
	const names = (await readdir(join(folder, 'data', 'hand-offs', id))).filter((name) => name.endsWith('.mp4'));
	expect(names).toHaveLength(movies.length);
	for (const name of names) {
		const path = join(folder, 'data', 'hand-offs', id, name);
		expect(await movieSeconds(path)).toBeCloseTo(40, 0);
	}
	const leftovers = (await readdir(join(folder, 'data', 'cache'), { recursive: true })).filter((name) =>
		/part-|growing/.test(name)
	);
	expect(leftovers).toEqual([]);
	// Everything that was decided can be taken back and done again.
	const decided = (await shoot()).programs;
	for (let step = 0; step < 30; step++) await post(`/api/shoots/${id}/undo`, {});
	for (let step = 0; step < 30; step++) await post(`/api/shoots/${id}/redo`, {});
	expect((await shoot()).programs).toEqual(decided);
	await server.stop();
});
