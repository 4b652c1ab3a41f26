import { expect, test } from '@playwright/test';
import { mkdtemp, readdir, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { seededRandom } from '../../../demo/random';
import { fastFftProvider } from '../../../src/lib/server/engine/fast-fft';
import { CLOSE, conversation, device, whole } from '../../support/simulator/building';
import { writeShoot } from '../../support/simulator/simulator';
import { processesThatName } from '../support/processes';
import { type RunningServer, startServer, waitFor } from '../support/server';
import { readShoot } from '../support/shoot';

/** A server that is killed in the middle of its work loses nothing that was decided; the work goes on. */
interface Job {
	readonly id: string;
	readonly kind: string;
	readonly state: string;
	readonly share: number;
	readonly message: string;
}

async function writeTalk(media: string): Promise<void> {
	const random = seededRandom(3);
	const scene = conversation('talk', 80, 3);
	const devices = [
		device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
		device('cam-a', { x: 1, y: 3 }, 'mov', random, [whole(scene, random)], { noiseDb: -15, isLive: true }),
		device('cam-b', { x: 2, y: 4 }, 'mp4', random, [whole(scene, random)], { noiseDb: -15, isLive: true })
	];
	await writeShoot({ scenes: [scene], devices }, media, 3, await fastFftProvider());
}

test('killed in the middle of a line-up and of a render, it goes on where it was', async () => {
	test.setTimeout(1_200_000);
	const folder = await mkdtemp(join(tmpdir(), 'open-choir-survival-'));
	const data = join(folder, 'da\nta');
	await writeTalk(join(folder, 'media', 'talk'));
	const launch = () => startServer(data, ['--media', join(folder, 'media'), '--no-demo']);
	let server: RunningServer = await launch();
	const post = async (path: string, body: object) => {
		const response = await fetch(server.address + path, {
			method: 'POST',
			body: JSON.stringify(body),
			headers: { 'content-type': 'application/json' }
		});
		expect(response.ok, `${path}: ${await response.clone().text()}`).toBe(true);
		return (await response.json()) as { id: string };
	};
	const jobs = async (shootId: string) =>
		(await (await fetch(`${server.address}/api/shoots/${shootId}/jobs`)).json()) as Job[];
	const job = async (shootId: string, kind: string) => (await jobs(shootId)).find((one) => one.kind === kind);
	try {
		const { id } = await post('/api/shoots', { name: 'Talk', folder: join(folder, 'media', 'talk') });
		const shoot = () => readShoot(server.address, id);
		await waitFor(async () => (await shoot()).clips.length === 3, 100_000);
		const camera = (await shoot()).devices.find((one) => one.badge === 'B')!;
		await post(`/api/shoots/${id}/edits`, { kind: 'rename-device', deviceId: camera.id, name: 'Host' });

		await post(`/api/shoots/${id}/jobs`, { kind: 'line-up' });
		await waitFor(async () => ((await job(id, 'line-up'))?.share ?? 0) > 0.05, 100_000, 10);
		await server.kill();
		await waitFor(async () => (await processesThatName(data)).length === 0, 1500, 20);
		server = await launch();
		expect((await shoot()).devices.find((one) => one.badge === 'B')!.name).toBe('Host');
		await waitFor(async () => (await job(id, 'line-up'))?.state === 'done', 400_000);
		const linedUp = await shoot();
		expect(linedUp.clips.filter((clip) => clip.placement)).toHaveLength(3);

		const lineUpId = linedUp.lineUps[0]!.id;
		const cameras = linedUp.devices.filter((one) => one.kind === 'camera');
		const calls = Array.from({ length: 12 }, (_, index) => ({
			kind: 'call',
			lineUpId,
			atFlicks: (14 + 4 * index) * 705_600_000,
			deviceId: cameras[index % 2]!.id
		}));
		for (const call of calls) await post(`/api/shoots/${id}/edits`, call);
		await post(`/api/shoots/${id}/edits`, {
			kind: 'trim',
			lineUpId,
			inFlicks: 12 * 705_600_000,
			outFlicks: 66 * 705_600_000
		});
		const decided = (await shoot()).programs[0]!;
		await post(`/api/shoots/${id}/hand-offs`, { kind: 'movie', lineUpId });
		// At least one piece is finished and another under way.
		const pieces = async () =>
			(await readdir(join(data, 'rendering'), { recursive: true }).catch(() => [])).filter((name) =>
				/\/[0-9a-f]{24}\.mp4$/.test(`/${name}`)
			);
		await waitFor(async () => (await pieces()).length >= 2, 100_000, 10);
		const made = async (name: string) => (await stat(join(data, 'rendering', name))).mtimeMs;
		const kept = await Promise.all((await pieces()).map(async (name) => ({ name, made: await made(name) })));
		await server.kill();
		await waitFor(async () => (await processesThatName(data)).length === 0, 1500, 20);
		expect(await readdir(join(data, 'hand-offs', id)).catch(() => [])).toEqual([]);
		server = await launch();
		expect((await shoot()).programs[0]).toEqual(decided);
		// What was finished is not made again.
		for (const { name, made: before } of kept) expect(await made(name)).toBe(before);
		await waitFor(async () => (await job(id, 'hand-off'))?.state === 'done', 400_000);
		const { handOffs } = await shoot();
		expect(handOffs.map((one) => one.kind)).toEqual(['movie']);
		expect(await readdir(join(data, 'hand-offs', id))).toHaveLength(1);
		await post(`/api/shoots/${id}/undo`, {});
		expect((await shoot()).programs[0]!.outFlicks).not.toBe(decided.outFlicks);
	} finally {
		await server.stop();
		await rm(folder, { recursive: true, force: true });
	}
});
