import { expect, type Page, test } from '@playwright/test';
import { mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { EDGE_CELLS, readEdgeCode } from '../../../demo/edge-code';
import type { JobView } from '../../../src/lib/contract/jobs';
import { FLICKS_PER_SECOND } from '../../../src/lib/core/time/flicks';
import type { Shoot } from '../../../src/lib/core/shoot/shoot';
import { PICTURES_A_SECOND as RATE, writeNumberedShoot } from '../support/numbered-shoot';
import { type RunningServer, startServer, waitFor } from '../support/server';
import { readShoot } from '../support/shoot';
import { readWall } from '../support/wall-codes';

/** Pictures and sound of a shoot of which nothing was made yet; every picture carries its number. */
let server: RunningServer;
let folder: string;
let id: string;
let shoot: Shoot;
const SECONDS = 60;
/** Between key pictures: a still is up to so old. */
const GROUP_SECONDS = 5;

test.beforeAll(async () => {
	test.setTimeout(300_000);
	folder = await mkdtemp(join(tmpdir(), 'open-choir-at-once-'));
	await writeNumberedShoot(join(folder, 'media'), {
		seconds: SECONDS,
		groupSeconds: GROUP_SECONDS,
		cameras: [
			// Any machine decodes so small a picture in time, which the recording itself is to be played for.
			{ path: 'camera-1/one.mp4', size: '640:360', sound: ['-c:a', 'aac'] },
			{ path: 'camera-2/two.mts', size: '1920:1080', sound: ['-c:a', 'ac3', '-f', 'mpegts'] }
		]
	});
	server = await startServer(join(folder, 'data'), ['--media', join(folder, 'media'), '--no-demo']);
	({ id } = await post<{ id: string }>('/api/shoots', { name: 'Never seen', folder: join(folder, 'media') }));
	const load = async () => (shoot = await readShoot(server.address, id));
	await waitFor(async () => (await load()).clips.length === 3, 60_000);
	await stopPreparing();
	await post(`/api/shoots/${id}/jobs`, { kind: 'line-up' });
	await waitFor(async () => (await load()).clips.every((clip) => clip.placement), 120_000);
	await stopPreparing();
});
test.afterAll(async () => {
	await server?.stop();
	await rm(folder, { recursive: true, force: true });
});

async function post<Answer>(path: string, body: object): Promise<Answer> {
	const headers = { 'content-type': 'application/json' };
	const response = await fetch(server.address + path, { method: 'POST', body: JSON.stringify(body), headers });
	return (await response.json()) as Answer;
}

/** Nothing helps: all must be there without. */
async function stopPreparing(): Promise<void> {
	await waitFor(async () => {
		const jobs = (await (await fetch(`${server.address}/api/shoots/${id}/jobs`)).json()) as readonly JobView[];
		const active = jobs.filter((job) => job.kind === 'prepare' && ['waiting', 'running'].includes(job.state));
		for (const job of active) await post(`/api/jobs/${job.id}`, { action: 'stop' });
		return active.length === 0 && jobs.some((job) => job.kind === 'prepare');
	}, 60_000);
}

/** The picture that an angle shows at a time of the line-up, some seconds earlier. */
function pictureAt(badge: string, flicks: number, agoSeconds: number): number {
	const device = shoot.devices.find((one) => one.badge === badge)!;
	const clip = shoot.clips.find((one) => one.deviceId === device.id)!;
	const { startFlicks, ratePpm } = clip.placement!;
	const media = (flicks - startFlicks) / (1 + ratePpm * 1e-6) - clip.parts[0]!.picture!.startFlicks;
	return Math.floor((media / FLICKS_PER_SECOND - agoSeconds) * RATE + 1e-6);
}

async function goToSeconds(page: Page, seconds: number): Promise<void> {
	await page.keyboard.press('g');
	await page.getByRole('textbox', { name: 'Go to a time of the line-up' }).fill(`${seconds} s`);
	await page.keyboard.press('Enter');
}

test('pictures show at once, say how old they are, and become those of the very time', async ({ page }) => {
	await page.goto(`${server.address}/shoots/${id}/line-up`);
	await page.getByTestId('play').waitFor();
	await goToSeconds(page, 34.5);
	await page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name: 'Call' }).click();
	const wall = page.getByTestId('wall');
	await expect(wall).toHaveAttribute('data-shown', '2');
	let stillsSeen = 0;
	await expect(async () => {
		const wordsOf = (badge: string) =>
			page.evaluate((name) => document.querySelector(`[data-testid=state-${name}]`)?.textContent ?? '', badge);
		for (const { tile, code, flicks } of await readWall(page, 1, 20)) {
			const words = await wordsOf(tile);
			const age = /^still, ([\d.]+) s old; being made/.exec(words)?.[1];
			if (words) expect(words).toMatch(/^still, [\d.]+ s old; being made(: \d+ s)?$/);
			const exact = pictureAt(tile, flicks, 0);
			if (age && code?.picture !== exact) {
				stillsSeen++;
				// The age is told to a tenth of a second.
				expect(Math.abs(code!.picture - pictureAt(tile, flicks, Number(age))), `${tile}: ${words}`).toBeLessThan(3);
				expect(Number(age)).toBeLessThan(GROUP_SECONDS + 0.1);
			}
		}
		expect(await wall.getAttribute('data-behind')).toBe('0');
	}).toPass({ timeout: 60_000, intervals: [10] });
	expect(stillsSeen).toBeGreaterThan(0);
	await expect(async () => {
		const readings = await readWall(page, 1, 20);
		expect(readings.map(({ tile, code }) => `${tile} ${code?.picture}`)).toEqual(
			readings.map(({ tile, flicks }) => `${tile} ${pictureAt(tile, flicks, 0)}`)
		);
	}).toPass({ timeout: 10_000 });
});

/** Numbers of a strip's pictures in a tall lane, from left to right, with the time that each one's left edge stands for. */
async function readStrip(
	page: Page,
	badge: string
): Promise<readonly { readonly seconds: number; readonly picture?: number }[]> {
	const [edge, height, tall] = [3, 64, 140];
	const width = (height * 16) / 9;
	const lanes = page.getByTestId('score-lanes');
	const [start, perPixel] = await Promise.all(
		['data-start', 'data-flicks-per-pixel'].map(async (name) => Number(await lanes.getAttribute(name)))
	);
	const device = shoot.devices.find((one) => one.badge === badge)!;
	const clip = shoot.clips.find((one) => one.deviceId === device.id)!;
	const x = (clip.placement!.startFlicks + clip.parts[0]!.picture!.startFlicks - start!) / perPixel!;
	const top = shoot.devices.slice(0, shoot.devices.indexOf(device)).length * tall + edge;
	const rows = await page.getByTestId('waves').evaluate(
		(canvas: HTMLCanvasElement, { x, y, width, cells }) => {
			const context = canvas.getContext('2d')!;
			const count = Math.floor((canvas.width - x) / width) - 1;
			return Array.from({ length: count }, (_, index) =>
				Array.from({ length: cells }, (_, cell) => {
					const at = Math.floor(x + (index + (cell + 0.5) / cells) * width);
					return context.getImageData(at, y, 1, 1).data[1]!;
				})
			);
		},
		{ x, y: top + height - 1, width, cells: EDGE_CELLS }
	);
	return rows.map((levels, index) => ({
		seconds: (index * width * perPixel!) / FLICKS_PER_SECOND,
		picture: readEdgeCode((at) => levels[Math.floor(at * EDGE_CELLS)]!, 240)?.picture
	}));
}

test('without any piece what is on air is exact, standing and playing: from the recording itself', async ({ page }) => {
	await page.route('**/media/pieces/**', (route) => route.abort());
	await page.goto(`${server.address}/shoots/${id}/call`);
	await expect(page.getByTestId('on-air')).toContainText('Camera 1');
	await goToSeconds(page, 13.3);
	const readA = async (count: number, everyMs: number) =>
		(await readWall(page, count, everyMs)).filter(({ tile }) => tile === 'A');
	await expect(async () => {
		const [reading] = await readA(1, 20);
		expect(reading!.code?.picture).toBe(pictureAt('A', reading!.flicks, 0));
	}).toPass({ timeout: 20_000 });
	await expect(page.getByTestId('state-A')).toHaveCount(0);
	// How fast it is decoded is tried while nothing else is to be done.
	await page.waitForTimeout(3500);
	await page.getByTestId('play').click();
	await page.waitForTimeout(2500);
	const readings = await readA(40, 70);
	await page.getByTestId('play').click();
	const off = readings.map(({ code, flicks }) => Math.abs((code?.picture ?? Infinity) - pictureAt('A', flicks, 0)));
	// The page hears of the time a moment before or after the picture changes; key pictures would be up to 5 s off.
	expect(off.filter((one) => one <= 2).length / off.length).toBeGreaterThan(0.8);
});

test('lanes show key pictures of their times, of what was never prepared', async ({ page }) => {
	await page.goto(`${server.address}/shoots/${id}/call`);
	await page.getByTestId('waves').waitFor();
	for (const menu of await page.getByRole('button', { name: /^Lane of/ }).all()) {
		await menu.click();
		await page.getByRole('button', { name: 'Tall', exact: true }).click();
		await page.keyboard.press('Escape');
	}
	for (const badge of ['A', 'B'])
		await expect(async () => {
			const strip = await readStrip(page, badge);
			expect(strip.length).toBeGreaterThan(5);
			for (const { seconds, picture } of strip) {
				// A row of pictures is asked for in steps of a power of 2, which is no longer than one of them is wide.
				const [newest, oldest] = [seconds, seconds - 2 * strip[1]!.seconds - 2 * GROUP_SECONDS];
				expect(picture! / RATE).toBeLessThan(newest + 1 / RATE);
				expect(picture! / RATE).toBeGreaterThan(oldest);
				// A key picture; out of a piece that was made when the wall was looked at, the very picture that was asked for.
				expect([picture! % (GROUP_SECONDS * RATE), picture! % (4 * RATE)]).toContain(0);
			}
			const numbers = strip.map(({ picture }) => picture!);
			expect(numbers).toEqual([...numbers].sort((a, b) => a - b));
			expect(new Set(numbers).size).toBeGreaterThan(5);
		}).toPass({ timeout: 30_000 });
});

test('sound plays at once from anywhere, and nothing is copied for it', async ({ page }) => {
	await page.addInitScript(() => {
		const heard: number[] = [];
		(window as unknown as { heard: number[] }).heard = heard;
		const start = AudioBufferSourceNode.prototype.start;
		AudioBufferSourceNode.prototype.start = function (when, offset) {
			heard.push(performance.now());
			start.call(this, when, offset);
		};
	});
	await page.goto(`${server.address}/shoots/${id}/prove`);
	await page.getByTestId('lane-1').waitFor();
	// The recorder's wave, and by muting all others a camera's coded sound.
	for (const [order, lane] of [2, 0, 1].entries()) {
		const solo = page.getByRole('button', { name: /^Hear only/ }).nth(lane);
		await solo.click();
		await page.evaluate(() => ((window as unknown as { heard: number[] }).heard.length = 0));
		await goToSeconds(page, 20 + 7 * order);
		const began = await page.evaluate(() => performance.now());
		await page.getByTestId('play').click();
		await page.waitForFunction(() => (window as unknown as { heard: number[] }).heard.length > 0);
		const tookMs = (await page.evaluate(() => (window as unknown as { heard: number[] }).heard[0]!)) - began;
		// On a machine that does much else; docs/benchmarks.md has what it takes alone.
		expect(tookMs, `lane ${lane}`).toBeLessThan(8000);
		await page.waitForTimeout(300);
		await page.getByTestId('play').click();
		await solo.click();
	}
	await expect(page.getByText(/cannot be had|not ready/)).toHaveCount(0);
	const cached = await readdir(join(folder, 'data', 'cache'), { recursive: true }).catch(() => []);
	expect(cached.filter((name) => /listening|proxy/.test(name))).toEqual([]);
});

test('what is asked of a file that has changed, or is none of the shoot, is refused', async () => {
	const part = shoot.clips.find((clip) => clip.name === 'one')!.parts[0]!;
	const other = shoot.clips.find((clip) => clip.name === 'room')!.parts[0]!;
	const status = async (path: string) => (await fetch(server.address + path)).status;
	const piece = (fileId: string, key: string, more = '') =>
		`/media/pieces/${fileId}?key=${key}&index=0&lines=160${more}`;
	expect(await status(piece(part.fileId, part.identity))).toBe(200);
	expect(await status(piece(part.fileId, other.identity))).toBe(404);
	expect(await status(piece(other.fileId, other.identity))).toBe(404);
	expect(await status(piece(part.fileId, '../../etc/passwd'))).toBe(400);
	expect(await status(`/media/pieces/${part.fileId}?key=${part.identity}&index=0&lines=2000`)).toBe(400);
	const sound = (range: string) => `/media/sounds/${part.fileId}?key=${part.identity}&channels=0${range}`;
	expect(await status(sound('&from=0&to=4800'))).toBe(200);
	expect(await status(sound('&from=0&to=48000000'))).toBe(400);
	expect(await status(sound('&from=10&to=5'))).toBe(400);
	expect(await status(`/media/sounds/${part.fileId}?key=${part.identity}&channels=7&from=0&to=10`)).toBe(409);
	expect(await status(`/media/originals/${part.fileId}?key=${other.identity}`)).toBe(404);
	const head = await fetch(`${server.address}/media/originals/${part.fileId}?key=${part.identity}`, {
		headers: { range: 'bytes=4-7' }
	});
	expect([head.status, await head.text()]).toEqual([206, 'ftyp']);
});
