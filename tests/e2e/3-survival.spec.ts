import { expect, test } from '@playwright/test';
import { mkdtemp, readdir, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type RunningServer, startServer, waitFor } from './support/server';
import { demoShoot } from './support/shoot';

/** A server that is killed in the middle of its work loses nothing that was decided; the work goes on. */
interface Job {
	readonly id: string;
	readonly kind: string;
	readonly state: string;
	readonly share: number;
	readonly message: string;
}

const PORT = 4872;

test('killed in the middle of a line-up and of a render, it goes on where it was', async () => {
	test.setTimeout(1_200_000);
	const folder = await mkdtemp(join(tmpdir(), 'open-choir-survival-'));
	const data = join(folder, 'data');
	let server: RunningServer = await startServer(data, PORT);
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
		await waitFor(async () => (await demoShoot(server.address)).clips.length === 14, 200_000);
		const { id, devices } = await demoShoot(server.address);
		const camera = devices.find((device) => device.badge === 'B')!;
		await post(`/api/shoots/${id}/edits`, { kind: 'rename-device', deviceId: camera.id, name: 'Host' });

		await post(`/api/shoots/${id}/jobs`, { kind: 'line-up' });
		await waitFor(async () => ((await job(id, 'line-up'))?.share ?? 0) > 0.15, 400_000, 50);
		await server.kill();
		server = await startServer(data, PORT);
		expect((await demoShoot(server.address)).devices.find((device) => device.badge === 'B')!.name).toBe('Host');
		await waitFor(async () => (await job(id, 'line-up'))?.state === 'done', 400_000);
		const linedUp = await demoShoot(server.address);
		expect(linedUp.clips.filter((clip) => clip.placement)).toHaveLength(12);

		const lineUpId = linedUp.lineUps[0]!.id;
		const calls = [20, 30, 40, 52, 66].map((seconds, index) => ({
			kind: 'call',
			lineUpId,
			atFlicks: seconds * 705_600_000,
			deviceId: linedUp.devices[index % 3]!.id
		}));
		for (const call of calls) await post(`/api/shoots/${id}/edits`, call);
		await post(`/api/shoots/${id}/edits`, {
			kind: 'trim',
			lineUpId,
			inFlicks: 12 * 705_600_000,
			outFlicks: 80 * 705_600_000
		});
		const decided = (await demoShoot(server.address)).programs[0]!;
		await post(`/api/shoots/${id}/hand-offs`, { kind: 'movie', lineUpId });
		// At least one piece is finished and another under way.
		const pieces = async () =>
			(await readdir(join(data, 'rendering'), { recursive: true }).catch(() => [])).filter((name) =>
				/\/[0-9a-f]{24}\.mp4$/.test(`/${name}`)
			);
		await waitFor(async () => (await pieces()).length >= 2, 400_000, 50);
		const made = async (name: string) => (await stat(join(data, 'rendering', name))).mtimeMs;
		const kept = await Promise.all((await pieces()).map(async (name) => ({ name, made: await made(name) })));
		await server.kill();
		expect(await readdir(join(data, 'hand-offs', id)).catch(() => [])).toEqual([]);
		server = await startServer(data, PORT);
		expect((await demoShoot(server.address)).programs[0]).toEqual(decided);
		// What was finished is not made again.
		for (const { name, made: before } of kept) expect(await made(name)).toBe(before);
		await waitFor(async () => (await job(id, 'hand-off'))?.state === 'done', 400_000);
		const { handOffs } = await demoShoot(server.address);
		expect(handOffs.map((one) => one.kind)).toEqual(['movie']);
		expect(await readdir(join(data, 'hand-offs', id))).toHaveLength(1);
		await post(`/api/shoots/${id}/undo`, {});
		expect((await demoShoot(server.address)).programs[0]!.outFlicks).not.toBe(decided.outFlicks);
	} finally {
		await server.stop();
		await rm(folder, { recursive: true, force: true });
	}
});

test('a stopped job can be started again, and a second server on the same data is turned away', async () => {
	const address = process.env['OPEN_CHOIR_E2E_ADDRESS']!;
	const { id } = await demoShoot();
	const ask = (path: string, body: object) =>
		fetch(address + path, {
			method: 'POST',
			body: JSON.stringify(body),
			headers: { 'content-type': 'application/json' }
		});
	const started = (await (await ask(`/api/shoots/${id}/jobs`, { kind: 'line-up' })).json()) as { id: string };
	const state = async () =>
		((await (await fetch(`${address}/api/shoots/${id}/jobs`)).json()) as Job[]).find((one) => one.id === started.id)!
			.state;
	await waitFor(async () => (await state()) === 'running', 100_000, 50);
	const before = (await demoShoot()).clips.map((clip) => clip.placement);
	expect((await ask(`/api/jobs/${started.id}`, { action: 'stop' })).ok).toBe(true);
	await waitFor(async () => (await state()) === 'stopped', 100_000);
	expect((await demoShoot()).clips.map((clip) => clip.placement)).toEqual(before);
	expect((await ask(`/api/jobs/${started.id}`, { action: 'retry' })).ok).toBe(true);
	await waitFor(async () => (await state()) === 'done', 400_000);
	const placed = (await demoShoot()).clips.map((clip) => clip.placement);
	// What was set by hand (camera E) stays, and the rest is found again in the same places.
	expect(placed.map((one) => one && { lineUpId: one.lineUpId, start: Math.round(one.startFlicks / 7056) })).toEqual(
		before.map((one) => one && { lineUpId: one.lineUpId, start: Math.round(one.startFlicks / 7056) })
	);

	await expect(startServer(process.env['OPEN_CHOIR_E2E_DATA']!, 4873)).rejects.toThrow(
		'Another Open Choir already uses the data folder'
	);
});
