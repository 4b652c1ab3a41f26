/**
 * Takes the pictures of docs/screenshots from the demo shoot: `npm run screenshots` (builds first if needed).
 * With an address as argument, from a server that already runs.
 */
import { installedPath } from '../../scripts/outside-programs';
import { chromium, type Page } from '@playwright/test';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { DEVICES } from '../../demo/scene';
import { toMedia } from '../../src/lib/core/shoot/placement';
import type { Shoot } from '../../src/lib/core/shoot/shoot';
import { secondsToFlicks } from '../../src/lib/core/time/flicks';
import { startServer, waitFor } from '../e2e/support/server';
import { demoShoot } from '../e2e/support/shoot';

const OUT = resolve(import.meta.dirname, '../../docs/screenshots');
const CALLS = 'A B C D A C B E A B C A C E B A'.split(' ');

async function main(): Promise<void> {
	const folder = await mkdtemp(join(tmpdir(), 'open-choir-screenshots-'));
	const given = process.argv[2];
	const server = given ? undefined : await startServer(join(folder, 'data'));
	const address = given ?? server!.address;
	try {
		await prepare(address);
		await takeAll(address);
	} finally {
		await server?.stop();
		await rm(folder, { recursive: true, force: true });
	}
}

async function post<Answer>(address: string, path: string, body: object): Promise<Answer> {
	const response = await fetch(address + path, {
		method: 'POST',
		body: JSON.stringify(body),
		headers: { 'content-type': 'application/json' }
	});
	if (!response.ok) throw new Error(await response.text());
	return (await response.json()) as Answer;
}

/** Lines up, names, places the camera without sound, calls a handful of angles. */
async function prepare(address: string): Promise<void> {
	await waitFor(async () => (await demoShoot(address)).clips.length === 14, 120_000);
	const { id, devices, lineUps } = await demoShoot(address);
	const edit = (command: object) => post<object>(address, `/api/shoots/${id}/edits`, command);
	const names = {
		A: 'Wide',
		B: 'Host',
		C: 'Guests',
		D: 'Roaming',
		E: 'Gallery',
		1: 'Desk',
		2: 'Table',
		3: 'Phone memo'
	};
	for (const device of devices) {
		const name = names[device.badge as keyof typeof names];
		if (name) await edit({ kind: 'rename-device', deviceId: device.id, name });
	}
	if (lineUps.length === 0) await post(address, `/api/shoots/${id}/jobs`, { kind: 'line-up' });
	const isReady = ({ clips, lineUps }: Shoot) =>
		lineUps.length > 0 && clips.every((clip) => clip.parts.every((part) => !part.sound || part.sound.listeningSamples));
	await waitFor(async () => isReady(await demoShoot(address)), 400_000);
	await placeGallery(address, edit);
	const shoot = await demoShoot(address);
	const lineUpId = shoot.lineUps[0]!.id;
	await edit({ kind: 'trim-to-all-angles', lineUpId });
	for (const [index, badge] of CALLS.entries()) {
		const deviceId = shoot.devices.find((device) => device.badge === badge)!.id;
		await edit({ kind: 'call', lineUpId, atFlicks: secondsToFlicks(4 + index * 12.6), deviceId });
	}
}

async function placeGallery(address: string, edit: (command: object) => Promise<object>): Promise<void> {
	const shoot = await demoShoot(address);
	const clip = (name: string) => shoot.clips.find((one) => one.name === name)!;
	if (clip('gallery').placement) return;
	const clap = 230.5;
	const { startSeconds } = DEVICES.find((one) => one.folder === 'camera-e')!.clips[0]!;
	const onLineUp = secondsToFlicks(clap - DEVICES.find((one) => one.folder === 'recorder-1')!.clips[0]!.startSeconds);
	const wide = clip('A001_C001');
	await edit({
		kind: 'add-sync-point',
		clipId: clip('gallery').id,
		mediaFlicks: secondsToFlicks(clap - startSeconds),
		name: 'Clap'
	});
	await edit({
		kind: 'add-sync-point',
		clipId: wide.id,
		mediaFlicks: Math.round(toMedia(wide.placement!, onLineUp)),
		name: 'Clap'
	});
	const marked = await demoShoot(address);
	const point = (name: string) => marked.clips.find((one) => one.name === name)!.syncPoints[0]!.id;
	await edit({ kind: 'place-by-sync-point', pointId: point('gallery'), ontoPointId: point('A001_C001') });
}

async function takeAll(address: string): Promise<void> {
	const browser = await chromium.launch({
		executablePath: installedPath('/usr/bin/chromium'),
		args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking']
	});
	const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
	const { id } = await demoShoot(address);
	const open = async (stage: string) => {
		await page.goto(`${address}/shoots/${id}/${stage}`);
		await page.waitForTimeout(1500);
	};
	const take = (name: string) => page.screenshot({ path: join(OUT, `${name}.png`) });
	await open('gather');
	await page.getByRole('button', { name: 'CLIP0042' }).click();
	await page.getByRole('slider', { name: 'Place in CLIP0042, in seconds' }).fill('72');
	await page.waitForTimeout(2500);
	await take('gather');
	await open('line-up');
	await take('line-up');
	await open('prove');
	await at(page, 0.31);
	await page.getByTestId('lane-C').hover();
	const lane = (await page.getByTestId('lane-C').boundingBox())!;
	const head = (await page.getByTestId('playhead').boundingBox())!;
	await page.mouse.click(head.x + 1, lane.y + lane.height / 2);
	for (let k = 0; k < 9; k++) await page.keyboard.press('+');
	await page.waitForTimeout(1500);
	await take('prove');
	await page.getByRole('tab', { name: 'Drift' }).click();
	await page.getByRole('tab', { name: 'Points' }).click();
	await page.waitForTimeout(1000);
	await take('prove-drift');
	await page.getByRole('link', { name: 'Report' }).click();
	await page.getByTestId('report').waitFor();
	await page.waitForTimeout(500);
	await take('report');
	await open('master');
	await page.getByRole('button', { name: 'Show all (0)' }).click();
	await page.getByTestId('people-lanes').waitFor({ timeout: 120_000 });
	await page.getByTestId('measuring').waitFor({ state: 'hidden', timeout: 120_000 });
	await page.getByRole('checkbox', { name: 'open by who speaks, others' }).check();
	await page.getByRole('button', { name: 'Even the voices' }).click();
	await page.waitForTimeout(1500);
	await take('master');
	await open('call');
	await page.getByRole('button', { name: 'Pictures of the program' }).click();
	await at(page, 0.52);
	await page.getByTestId('wall').and(page.locator('[data-behind="0"]')).waitFor();
	await page.getByTestId('waves').and(page.locator('[data-pictures="true"]')).waitFor();
	await page.waitForTimeout(500);
	await take('call');
	await page.getByRole('button', { name: 'Dark theme' }).click();
	await page.waitForTimeout(600);
	await take('call-night');
	await page.getByRole('button', { name: 'Light theme' }).click();
	await open('hand-off');
	await page.getByTestId('hand-off-otio').click();
	await page.getByTestId('hand-off-movie').click();
	await page.locator('[data-testid=hand-off][data-kind=movie]').waitFor({ timeout: 400_000 });
	await page.getByRole('button', { name: 'watch' }).click();
	await page.getByTestId('movie-player').evaluate((video: HTMLVideoElement) => (video.currentTime = 41));
	await page.waitForTimeout(1500);
	await take('hand-off');
	await page.goto(address);
	await page.waitForTimeout(800);
	await take('shoots');
	await browser.close();
}

/** Puts the playhead at a share of the score's width. */
async function at(page: Page, share: number): Promise<void> {
	const box = (await page.getByTestId('score-lanes').boundingBox())!;
	await page.mouse.click(box.x + box.width * share, box.y + 8);
	await page.waitForTimeout(2500);
}

await main();
