import { expect, test } from '@playwright/test';
import { createHash } from 'node:crypto';
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fastFftProvider } from '../../../src/lib/server/engine/fast-fft';
import { CASES } from '../../support/simulator/cases';
import { writeShoot } from '../../support/simulator/simulator';
import { type RunningServer, startServer } from '../support/server';

/** A shoot of one's own: chosen in the page, gathered, lined up; the recordings stay as they are. */
let server: RunningServer;
let folder: string;

test.beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-new-'));
	const cards = join(folder, 'media', 'spring concert');
	await writeShoot(await CASES[0]!.build(11), cards, 11, await fastFftProvider());
	await mkdir(join(folder, 'media', 'empty'));
	await writeFile(join(cards, 'cam', 'notes.txt'), 'Nothing to hear here.');
	await writeFile(join(cards, 'cam', 'CAM_0009.mp4'), '');
	server = await startServer(join(folder, 'data'), ['--media', join(folder, 'media'), '--no-demo']);
});
test.afterAll(async () => {
	await server.stop();
	await rm(folder, { recursive: true, force: true });
});

async function digests(): Promise<Record<string, string>> {
	const cards = join(folder, 'media');
	const names = (await readdir(cards, { recursive: true, withFileTypes: true })).filter((entry) => entry.isFile());
	const pairs = names.map(async (entry) => {
		const path = join(entry.parentPath, entry.name);
		return [
			path,
			createHash('sha256')
				.update(await readFile(path))
				.digest('hex')
		] as const;
	});
	return Object.fromEntries(await Promise.all(pairs));
}

test('a folder is chosen in the page, gathered and lined up', async ({ page }) => {
	const before = await digests();
	await page.goto(server.address);
	await expect(page.getByText('There is no shoot yet')).toBeVisible();
	await page.getByRole('button', { name: 'New shoot' }).click();
	const folders = page.getByTestId('folders');
	await folders.getByRole('button', { name: join(folder, 'media') }).click();
	await folders.getByRole('button', { name: 'spring concert' }).click();
	await expect(page.getByRole('textbox', { name: 'Name of the shoot' })).toHaveValue('spring concert');
	await page.getByRole('button', { name: 'Gather this folder' }).click();
	await expect(page.getByTestId('device-A')).toContainText('Cam');
	await expect(page.getByTestId('device-1')).toContainText('Rec');
	const bad = page.getByTestId('bad-files');
	await expect(bad).toContainText('cam/CAM_0009.mp4');
	await expect(bad).toContainText('The file is empty.');
	await expect(bad).toContainText('cam/notes.txt');
	await page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name: 'Line up' }).click();
	await page.getByTestId('line-up').click();
	await expect(page.getByTestId('verdict')).toContainText('2 of 2 clips placed', { timeout: 200_000 });
	expect(await digests()).toEqual(before);
});

test('later files are found, and a folder without recordings says so', async ({ page }) => {
	await page.goto(server.address);
	await page.getByRole('link', { name: 'spring concert', exact: true }).click();
	await writeFile(join(folder, 'media', 'spring concert', 'cam', 'later.txt'), 'A second note.');
	await page.getByRole('button', { name: 'Look again for new files' }).click();
	await expect(page.getByTestId('bad-files')).toContainText('cam/later.txt');
	const holiday = { name: 'holiday.mp4', mimeType: 'video/mp4', buffer: Buffer.from('No movie.') };
	await page.getByLabel('Files to bring in').setInputFiles(holiday);
	await expect(page.getByTestId('bad-files')).toContainText('dropped in/holiday.mp4', { timeout: 60_000 });
	await page.goto(server.address);
	await page.getByRole('button', { name: 'New shoot' }).click();
	await page
		.getByTestId('folders')
		.getByRole('button', { name: join(folder, 'media') })
		.click();
	await page.getByTestId('folders').getByRole('button', { name: 'empty' }).click();
	await page.getByRole('button', { name: 'Gather this folder' }).click();
	await expect(page.getByTestId('clips')).toContainText('No recordings were found in this folder.');
	await page.goto(`${server.address}/shoots/6f9619ff-8b86-4d01-b42d-00c04fc964ff/gather`);
	await expect(page.getByRole('heading', { name: 'This shoot could not be opened' })).toBeVisible();
	await expect(page.getByText('There is no such shoot.')).toBeVisible();
});
