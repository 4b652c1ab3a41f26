import { expect, type Page, test } from '@playwright/test';
import { createHash } from 'node:crypto';
import { mkdtemp, readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { JobView } from '../../../src/lib/contract/jobs';
import { installDemoHeap, installDemoMedia } from '../../../demo/install';
import { type RunningServer, startServer } from '../support/server';

/** A heap of cards dropped into the page, with the server killed in the midst of it, becomes a tidy shoot. */
test.describe.configure({ mode: 'serial' });

let server: RunningServer;
let folder: string;
let heap: string;

/** @param port the same again for a page that waits */
const launch = (port?: number) => startServer(join(folder, 'data'), ['--no-demo'], port);
const launchAgain = () => launch(Number(new URL(server.address).port));

test.beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-heap-'));
	heap = await installDemoHeap(await installDemoMedia(folder));
	server = await launch();
});
test.afterAll(async () => {
	await server.stop();
	await rm(folder, { recursive: true, force: true });
});

async function digestsIn(place: string): Promise<Record<string, string>> {
	const files = (await readdir(place, { recursive: true, withFileTypes: true })).filter((entry) => entry.isFile());
	const pairs = files.map(async ({ parentPath, name }) => {
		const bytes = await readFile(join(parentPath, name));
		return [name, createHash('sha256').update(bytes).digest('hex')] as const;
	});
	return Object.fromEntries(await Promise.all(pairs));
}

async function limitUpload(page: Page, bytesPerSecond: number): Promise<void> {
	const session = await page.context().newCDPSession(page);
	await session.send('Network.emulateNetworkConditions', {
		offline: false,
		latency: 0,
		downloadThroughput: -1,
		uploadThroughput: bytesPerSecond
	});
}

/** The row of a device by its name: badges go by who came first. */
function device(page: Page, name: string) {
	return page.locator('[data-testid^="device-"]').filter({ has: page.getByRole('button', { name: `: ${name}` }) });
}

/** Nothing here is looked at or heard: the time belongs to others. */
async function stopPreparing(shootId: string): Promise<void> {
	const jobs = (await (await fetch(`${server.address}/api/shoots/${shootId}/jobs`)).json()) as JobView[];
	for (const { id } of jobs.filter((one) => one.kind === 'prepare' && one.state === 'running'))
		await fetch(`${server.address}/api/jobs/${id}`, {
			method: 'POST',
			headers: { 'content-type': 'application/json' },
			body: JSON.stringify({ action: 'stop' })
		});
}

/** What was being read in both crashes is set aside, as it may be what ends the server: the editor has it read once more. */
async function readAgain(shootId: string): Promise<void> {
	const jobs = (await (await fetch(`${server.address}/api/shoots/${shootId}/jobs`)).json()) as JobView[];
	for (const { id } of jobs.filter((one) => one.kind === 'gather' && one.state === 'failed'))
		await fetch(`${server.address}/api/jobs/${id}`, {
			method: 'POST',
			headers: { 'content-type': 'application/json' },
			body: JSON.stringify({ action: 'retry' })
		});
}

/** Share that has arrived, from the page's words. */
async function arrived(page: Page): Promise<number> {
	const words = await page.getByTestId('upload-progress').locator('p').first().innerText();
	return Number(/^(\d+) of/.exec(words)?.[1] ?? 0);
}

test('files dropped into the page arrive whole, though the server is killed twice', async ({ page }) => {
	await page.goto(server.address);
	await page.getByRole('button', { name: 'New shoot' }).click();
	await page.getByRole('textbox', { name: 'Name of the shoot' }).fill('One heap');
	await page.getByRole('button', { name: 'Begin empty' }).click();
	await expect(page.getByTestId('uploads')).toBeVisible();
	await limitUpload(page, 12_000_000);
	await page.getByLabel('Folder to bring in').setInputFiles(heap);
	await expect.poll(() => arrived(page), { timeout: 60_000 }).toBeGreaterThan(1);
	// In the midst of the upload: nobody is told, nothing is tidied up.
	await server.kill();
	server = await launchAgain();
	await expect.poll(() => arrived(page), { timeout: 120_000 }).toBeGreaterThan(5);
	await page.getByRole('button', { name: 'Pause' }).click();
	await expect(page.getByTestId('upload-progress')).toContainText('paused');
	await page.getByRole('button', { name: 'Go on' }).click();
	await expect.poll(() => arrived(page), { timeout: 180_000 }).toBe(15);
	// In the midst of the reading.
	await server.kill();
	const [shoot] = await readdir(join(folder, 'data', 'uploads'));
	expect(await digestsIn(join(folder, 'data', 'uploads', shoot!))).toEqual(await digestsIn(heap));
	server = await launchAgain();
	// What began of a file whose answer was lost with the server is given up once it has stood still.
	await expect.poll(() => readdir(join(folder, 'data', 'uploads.part')), { timeout: 20_000 }).toEqual([]);
	await readAgain(shoot!);
	await page.reload();
	await expect(page.getByTestId('device-1')).toBeVisible({ timeout: 60_000 });
	await expect(page.locator('[data-testid^="device-"]')).toHaveCount(8);
	await expect(device(page, 'Camera B')).toContainText('2 clips');
	await stopPreparing(shoot!);
});

test('an upload that was cut off by a reload goes on where it stopped', async ({ page }) => {
	await page.goto(server.address);
	await page.getByRole('link', { name: 'One heap', exact: true }).click();
	await limitUpload(page, 400_000);
	const recording = join(heap, 'B001_C001.mov');
	const sent: number[] = [];
	page.on('request', (request) => {
		if (request.method() === 'PATCH') sent.push(Number(request.headers()['upload-offset'] ?? -1));
	});
	await page.getByLabel('Files to bring in').setInputFiles(recording);
	await page.waitForTimeout(2500);
	await page.reload();
	await expect(page.getByTestId('unfinished-uploads')).toContainText('B001_C001.mov');
	await page.getByLabel('Files to bring in').setInputFiles(recording);
	await expect.poll(() => arrived(page), { timeout: 60_000 }).toBe(1);
	expect(sent[0]).toBe(0);
	expect(sent.at(-1)).toBeGreaterThan(0);
	// It is there already, byte by byte: nothing is kept twice.
	const [shoot] = await readdir(join(folder, 'data', 'uploads'));
	const names = await readdir(join(folder, 'data', 'uploads', shoot!), { recursive: true });
	expect(names.filter((name) => name.endsWith('B001_C001.mov')).length).toBeLessThanOrEqual(2);
	await expect(page.getByTestId('bad-files')).toContainText('It is a copy of', { timeout: 60_000 });
});

test('while files are still arriving the first of them are seen and heard', async ({ page }) => {
	await page.goto(server.address);
	await page.getByRole('button', { name: 'New shoot' }).click();
	await page.getByRole('textbox', { name: 'Name of the shoot' }).fill('Arriving');
	await page.getByRole('button', { name: 'Begin empty' }).click();
	// One of the two comes as slowly as over a poor line: its bytes are held back.
	let letGo!: () => void;
	const isLetGo = new Promise<void>((resolve) => (letGo = resolve));
	const slow = new Set<string>();
	await page.route('**/api/uploads**', async (route) => {
		const request = route.request();
		if (request.method() === 'POST') {
			const response = await route.fetch();
			const path = /relativePath ([^,]+)/.exec(request.headers()['upload-metadata'] ?? '')?.[1] ?? '';
			if (Buffer.from(path, 'base64').toString().endsWith('C001.mov')) slow.add(response.headers()['location']!);
			return route.fulfill({ response });
		}
		if (request.method() === 'PATCH' && [...slow].some((location) => request.url().endsWith(location))) await isLetGo;
		return route.continue();
	});
	const brought = ['B001_C000.mov', 'B001_C001.mov'].map((name) => join(heap, name));
	await page.getByLabel('Files to bring in').setInputFiles(brought);
	await page.getByText('B001_C000', { exact: true }).first().click({ timeout: 30_000 });
	await expect(page.getByTestId('upload-progress')).toContainText('1 of 2');
	const preview = page.getByTestId('clip-preview');
	const points = () =>
		preview.getByTestId('clip-picture').evaluate((canvas: HTMLCanvasElement) => {
			const read = document.createElement('canvas').getContext('2d')!;
			read.drawImage(canvas, 0, 0);
			return new Set(read.getImageData(0, 0, canvas.width, canvas.height).data).size;
		});
	await expect.poll(points, { timeout: 30_000 }).toBeGreaterThan(50);
	await preview.getByRole('button', { name: 'Play B001_C000' }).click();
	await expect
		.poll(async () => Number.parseFloat(await preview.getByTestId('clip-place').innerText()))
		.toBeGreaterThan(1);
	await preview.getByRole('button', { name: 'Pause B001_C000' }).click();
	await expect(page.getByTestId('upload-progress')).toContainText('1 of 2');
	letGo();
	await expect(page.getByText('B001_C001', { exact: true }).first()).toBeVisible({ timeout: 60_000 });
});

test('clips are moved, devices merged, names given and taken back', async ({ page }) => {
	await page.goto(server.address);
	await page.getByRole('link', { name: 'One heap', exact: true }).click();
	const rehearsal = page.getByRole('checkbox', { name: 'Choose B001_C000' });
	await rehearsal.check();
	await page.getByLabel('Move to a device').selectOption({ label: 'A new device' });
	await expect(page.locator('[data-testid^="device-"]')).toHaveCount(9);
	await page.getByRole('button', { name: 'About New camera' }).click();
	await expect(page.getByTestId('reasons')).toContainText('You decided it so.');
	const cameraB = await page.getByLabel('The same device as').getByText('Camera B').innerText();
	await page.getByLabel('The same device as').selectOption({ label: cameraB });
	await expect(page.locator('[data-testid^="device-"]')).toHaveCount(8);
	await page.getByRole('checkbox', { name: 'Choose all clips of Camera B' }).check();
	await page.getByRole('button', { name: 'Name…' }).click();
	await page.getByRole('textbox', { name: 'Pattern' }).fill('{angle} {date} {counter:2}');
	await expect(page.getByTestId('name-preview')).toContainText(' 2026-05-09 01');
	await page.getByRole('button', { name: 'Name 2 clips' }).click();
	await expect(page.getByRole('button', { name: /^[A-Z] 2026-05-09 02$/ })).toBeVisible();
	// Tall enough for both rows: what is dragged over is in sight.
	await page.setViewportSize({ width: 1280, height: 1500 });
	// Dragged by hand to another device, all that are chosen; a device that has none left goes.
	const row = page.getByRole('row').filter({ has: page.getByRole('button', { name: /^[A-Z] 2026-05-09 01$/ }) });
	await row.dragTo(device(page, 'Camera A'));
	await expect(device(page, 'Camera A')).toContainText('3 clips');
	await expect(device(page, 'Camera B')).toHaveCount(0);
	for (let step = 0; step < 4; step++) await page.getByRole('button', { name: 'Undo' }).click();
	await expect(page.getByRole('button', { name: 'B001_C000', exact: true })).toBeVisible();
	await expect(device(page, 'Camera B')).toContainText('2 clips');
});

test('a sound report fills in scene, take and notes', async ({ page }) => {
	await page.goto(server.address);
	await page.getByRole('link', { name: 'One heap', exact: true }).click();
	await page.getByRole('button', { name: 'Take in a sound report' }).click();
	await page.getByLabel('The report’s file').setInputFiles({
		name: 'report.csv',
		mimeType: 'text/csv',
		buffer: Buffer.from(
			'Day 1,,,,\nTake,Scene,File name,Circled,Comment\n3,12A,REC_0007.MP3,yes,"door, loud"\n1,9,OTHER.WAV,,\n'
		)
	});
	await expect(page.getByRole('status').filter({ hasText: 'of this shoot' })).toContainText(
		'1 line of 2 belongs to 1 clip'
	);
	await page.getByRole('button', { name: 'Take it over' }).click();
	await page.getByRole('button', { name: 'REC_0007', exact: true }).click();
	const facts = page.getByRole('region', { name: 'Selected clip' });
	await expect(facts).toContainText('12A');
	await expect(facts).toContainText('door, loud');
	await page.getByLabel('Show only: Scene').selectOption({ label: 'Scene 12A' });
	await expect(page.locator('[data-testid^="device-"]')).toHaveCount(1);
});
