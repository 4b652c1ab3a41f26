import { expect, test } from '@playwright/test';
import { startServer, waitFor } from '../support/server';
import { address, demoShoot } from '../support/shoot';

interface Job {
	readonly id: string;
	readonly state: string;
}

test('a stopped job can be started again, and a second server on the same data is turned away', async () => {
	const { id } = await demoShoot();
	const ask = (path: string, body: object) =>
		fetch(address() + path, {
			method: 'POST',
			body: JSON.stringify(body),
			headers: { 'content-type': 'application/json' }
		});
	const started = (await (await ask(`/api/shoots/${id}/jobs`, { kind: 'line-up' })).json()) as { id: string };
	const state = async () =>
		((await (await fetch(`${address()}/api/shoots/${id}/jobs`)).json()) as Job[]).find((one) => one.id === started.id)!
			.state;
	await waitFor(async () => (await state()) === 'running', 100_000, 50);
	const before = (await demoShoot()).clips.map((clip) => clip.placement);
	expect((await ask(`/api/jobs/${started.id}`, { action: 'stop' })).ok).toBe(true);
	await waitFor(async () => (await state()) === 'stopped', 100_000);
	expect((await demoShoot()).clips.map((clip) => clip.placement)).toEqual(before);
	expect((await ask(`/api/jobs/${started.id}`, { action: 'retry' })).ok).toBe(true);
	await waitFor(async () => (await state()) === 'done', 400_000);
	const placed = (await demoShoot()).clips.map((clip) => clip.placement);
	// What was set by hand (camera E) stays, and the rest is found again in the same places, to the flick.
	expect(placed.map((one) => one && { lineUpId: one.lineUpId, startFlicks: one.startFlicks })).toEqual(
		before.map((one) => one && { lineUpId: one.lineUpId, startFlicks: one.startFlicks })
	);

	await expect(startServer(process.env['OPEN_CHOIR_E2E_DATA']!)).rejects.toThrow(
		'Another Open Choir already uses the data folder'
	);
});
