import { expect, type Page, test } from '@playwright/test';
import { once } from 'node:events';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { spawn } from '../../../scripts/outside-programs';
import { seededRandom } from '../../../demo/random';
import { fastFftProvider } from '../../../src/lib/server/engine/fast-fft';
import { flicksToSeconds, secondsToFlicks } from '../../../src/lib/core/time/flicks';
import type { AlignmentFile } from '../../../src/lib/server/stages/line-up/align-folder';
import { CLOSE, conversation, device, sounding, whole } from '../../support/simulator/building';
import { writeShoot } from '../../support/simulator/simulator';
import { songLike } from '../../support/simulator/sounds';
import { type RunningServer, startServer, waitFor } from '../support/server';
import { readShoot } from '../support/shoot';

/** A camera that hears nothing of the talk, for its sound comes from elsewhere: only its timecode tells where it belongs. */
test.describe.configure({ mode: 'serial' });

const CLOCK_SECONDS = 36_000;

let server: RunningServer;
let folder: string;

/** @param isJammed whether the recorder has timecode as well as the camera that hears the talk */
async function record(name: string, isJammed: boolean): Promise<void> {
	const random = seededRandom(21);
	const talk = conversation('talk', 90, 21);
	const music = sounding('music', songLike(90, 77));
	const clock = { clockSeconds: CLOCK_SECONDS };
	const devices = [
		device('rec', CLOSE, 'wav', random, [whole(talk, random)], { ratePpm: 0, ...(isJammed ? clock : {}) }),
		device('cam-a', { x: 1, y: 3 }, 'mov', random, [{ scene: 'talk', startSeconds: 10, seconds: 70 }], clock),
		device('cam-b', { x: 2, y: 4 }, 'mov', random, [{ scene: 'music', startSeconds: 25, seconds: 40 }], clock)
	];
	await writeShoot({ scenes: [talk, music], devices }, join(folder, 'media', name), 21, await fastFftProvider());
}

test.beforeAll(async () => {
	test.setTimeout(240_000);
	folder = await mkdtemp(join(tmpdir(), 'open-choir-timecode-'));
	await record('jammed', true);
	await record('one-clock', false);
	server = await startServer(join(folder, 'data'), ['--media', join(folder, 'media'), '--no-demo']);
});
test.afterAll(async () => {
	await server?.stop();
	await rm(folder, { recursive: true, force: true });
});

async function ask(path: string, body?: object): Promise<unknown> {
	const init = body ? { method: 'POST', body: JSON.stringify(body) } : {};
	const response = await fetch(server.address + path, { ...init, headers: { 'content-type': 'application/json' } });
	return response.json();
}

async function open(page: Page, name: string): Promise<string> {
	const { id } = (await ask('/api/shoots', { name, folder: join(folder, 'media', name) })) as { id: string };
	await waitFor(async () => (await readShoot(server.address, id)).devices.length === 3, 100_000);
	await page.goto(`${server.address}/shoots/${id}/line-up`);
	await page.getByTestId('line-up').click();
	await waitFor(async () => (await readShoot(server.address, id)).lineUps.length === 1, 100_000);
	return id;
}

/** How much later than the other camera it starts; in truth 15 s. */
async function between(id: string): Promise<number> {
	const { clips } = await readShoot(server.address, id);
	const start = (name: string) => flicksToSeconds(clips.find((clip) => clip.name === name)!.placement!.startFlicks);
	return start('CAM-B_0001') - start('CAM-A_0001');
}

test('a family of clocks that sound has proved places what nobody heard, and the verdict tells it apart', async ({
	page
}) => {
	const id = await open(page, 'jammed');
	const apart = page.getByTestId('by-timecode');
	await expect(apart).toContainText('1 clip by timecode only');
	await expect(apart).toContainText('Not confirmed by sound: look at a clap.');
	await expect(apart.getByRole('button', { name: 'CAM-B_0001' })).toBeVisible();
	await expect(page.getByTestId('stray')).toHaveCount(0);
	expect(Math.abs((await between(id)) - 15)).toBeLessThan(0.045);

	// The command line, run from the build, gives the same places to the flick: nothing hangs on who asks, or what was prepared.
	const { groups } = JSON.parse(
		await commandLine('align', join(folder, 'media', 'jammed'), '--quiet')
	) as AlignmentFile;
	const { clips } = await readShoot(server.address, id);
	const places = clips.map(({ name, placement }) => [name, placement!.startFlicks] as const).sort();
	const same = groups[0]!.clips.map(
		({ path, start }) => [basename(path).replace(/\.\w+$/, ''), Math.round(secondsToFlicks(start))] as const
	);
	expect([...same].sort()).toEqual(places);
});

async function commandLine(...args: readonly string[]): Promise<string> {
	const child = spawn(process.execPath, ['build/entry/open-choir.js', ...args], {
		stdio: ['ignore', 'pipe', 'inherit']
	});
	const output: Buffer[] = [];
	child.stdout.on('data', (block: Buffer) => output.push(block));
	const [code] = (await once(child, 'close')) as [number];
	expect(code).toBe(0);
	return Buffer.concat(output).toString('utf8');
}

test('where nothing proves its clock it stays a stray that says so, and one click places it', async ({ page }) => {
	const id = await open(page, 'one-clock');
	const stray = page.getByTestId('stray');
	await expect(stray).toContainText('CAM-B_0001');
	await expect(stray).toContainText('By its timecode it was recorded while others were, but nothing proves its clock.');
	await stray.getByTestId('place-by-timecode').click();
	await expect(page.getByTestId('stray')).toHaveCount(0);
	await expect(page.getByTestId('by-timecode')).toContainText('CAM-B_0001');
	expect(Math.abs((await between(id)) - 15)).toBeLessThan(0.045);
	if (process.env['SHOT']) await page.screenshot({ path: process.env['SHOT'] });
	await ask(`/api/shoots/${id}/undo`, {});
	await expect(page.getByTestId('stray')).toContainText('CAM-B_0001');
});
