import { expect, test } from '@playwright/test';
import { mkdir, mkdtemp, open, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fastFftProvider } from '../../../src/lib/server/engine/fast-fft';
import { CASES } from '../../support/simulator/cases';
import { writeShoot } from '../../support/simulator/simulator';
import { type ServerOnSmallDisk, startOnSmallDisk, startServer, waitFor } from '../support/server';
import { readShoot } from '../support/shoot';

/** A disk that gets full, that may only be read, that gives back what was never written: said in a sentence, nothing lost. */
let folder: string;
let server: ServerOnSmallDisk;

test.beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-disk-'));
	await writeShoot(await CASES[0]!.build(12), join(folder, 'media', 'evening'), 12, await fastFftProvider());
	await mkdir(join(folder, 'data'));
	server = await startOnSmallDisk(join(folder, 'data'), 130, ['--media', join(folder, 'media'), '--no-demo']);
});
test.afterAll(async () => {
	await server.stop();
	await rm(folder, { recursive: true, force: true });
});

/** Takes all that is left, to the last block. */
async function fill(): Promise<string> {
	const path = join(server.disk, `filler-${Date.now()}`);
	const file = await open(path, 'w');
	for (const size of [2 ** 20, 4096])
		for (;;) {
			const written = await file.write(Buffer.alloc(size)).catch((error: NodeJS.ErrnoException) => {
				if (error.code !== 'ENOSPC') throw error;
				return undefined;
			});
			if (written === undefined || written.bytesWritten < size) break;
		}
	await file.close();
	return path;
}

test('a full disk is told where the editor looks; once there is room, all goes on', async ({ page }) => {
	const made = await page.request.post(`${server.address}/api/shoots`, {
		data: { name: 'Evening', folder: join(folder, 'media', 'evening') }
	});
	const { id } = (await made.json()) as { id: string };
	const filler = await fill();
	// What was under way could not be finished.
	const jobs = async () =>
		(await (await page.request.get(`${server.address}/api/shoots/${id}/jobs`)).json()) as {
			kind: string;
			state: string;
			error: string | null;
		}[];
	const rename = (name: string) =>
		page.request.post(`${server.address}/api/shoots/${id}/edits`, { data: { kind: 'rename-shoot', name } });
	// What was set aside for writing is used up by and by.
	await waitFor(async () => (await rename(`Night ${Math.random()}`)).status() === 507, 60_000, 20);
	await page.goto(server.address);
	await page.getByRole('button', { name: /^Rename/ }).click();
	await page.getByRole('textbox', { name: 'Name of the shoot' }).fill('Lost night');
	await page.keyboard.press('Enter');
	await expect(page.getByRole('alert')).toContainText('The disk is full. Make room on it, then try again');
	await expect(page.getByRole('list', { name: 'Shoots' })).not.toContainText('Lost night');
	await rm(filler);
	expect((await rename('Night')).status()).toBe(200);
	for (const job of await jobs()) if (job.state === 'failed') expect(job.error).toContain('The disk is full.');
	// All is read again, and what could not be made is made.
	await page.request.post(`${server.address}/api/shoots/${id}/jobs`, { data: { kind: 'gather' } });
	await waitFor(async () => {
		const [newest] = await jobs();
		const { newFiles } = await readShoot(server.address, id);
		return newest!.kind === 'prepare' && newest!.state === 'done' && newFiles.length === 0;
	}, 60_000);
	await page.reload();
	await expect(page.getByRole('list', { name: 'Shoots' })).toContainText('Night');
});

test('a data folder that may only be read, and a database of which pages are lost', async () => {
	const damaged = join(folder, 'damaged');
	const first = await startServer(damaged, ['--no-demo']);
	await first.stop();
	const tables = join(damaged, 'database', 'base', '5');
	for (const name of await readdir(tables)) {
		const file = await open(join(tables, name), 'r+');
		const { size } = await file.stat();
		if (/^\d+$/.test(name) && Number(name) >= 16_384 && size > 0)
			await file.write(Buffer.alloc(size, 0xa5), 0, size, 0);
		await file.close();
	}
	await expect(startServer(damaged, ['--no-demo'])).rejects.toThrow(
		/cannot be opened\. (It|The database) is damaged.*--restore/s
	);
	await expect(startOnSmallDisk(join(folder, 'data'), 100, ['--no-demo'], 'ro')).rejects.toThrow(
		'lies on a disk that may only be read. Make it writable, then try again.'
	);
});
