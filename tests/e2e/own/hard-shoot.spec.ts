import { expect, type Page, test } from '@playwright/test';
import { mkdir, mkdtemp, rename, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { seededRandom } from '../../../demo/random';
import type { JobView } from '../../../src/lib/contract/jobs';
import { fastFftProvider } from '../../../src/lib/server/engine/fast-fft';
import { CLOSE, conversation, device, sounding, spokenMoment, whole } from '../../support/simulator/building';
import { writeShoot } from '../../support/simulator/simulator';
import { songLike } from '../../support/simulator/sounds';
import { type RunningServer, startServer, waitFor } from '../support/server';

/** What goes wrong on a shoot, as the page tells it: a clock an hour off, lost samples, a card that comes later, a chorus. */
let server: RunningServer;
let folder: string;

test.beforeAll(async () => {
	test.setTimeout(180_000);
	folder = await mkdtemp(join(tmpdir(), 'open-choir-hard-'));
	const random = seededRandom(4);
	const provider = await fastFftProvider();
	const scene = conversation('talk', 160, 4);
	const clockSeconds = 86_400 - 60;
	const take = { scene: 'talk', startSeconds: 2, seconds: 150 };
	const lost = { atSeconds: spokenMoment(scene, take.startSeconds, 70), seconds: 0.4 };
	const silent = { scene: 'talk', startSeconds: 90, seconds: 40, isSilent: true };
	const devices = [
		device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0, clockSeconds }),
		device('rec-2', { x: 0.5, y: 1 }, 'wav', random, [{ ...take, lost }], { noiseDb: -18, clockSeconds }),
		device('cam-a', { x: 1, y: 4 }, 'mov', random, [{ scene: 'talk', startSeconds: 10, seconds: 70 }, silent], {
			noiseDb: -12,
			clockSeconds
		}),
		device('cam-b', { x: 2, y: 4 }, 'mov', random, [whole(scene, random)], {
			noiseDb: -12,
			clockSeconds: clockSeconds + 3600,
			isInverted: true
		})
	];
	await writeShoot({ scenes: [scene], devices }, join(folder, 'media', 'evening'), 4, provider);
	const clips = [{ scene: 'talk', startSeconds: 30, seconds: 60 }];
	const later = [device('cam-c', { x: 3, y: 3 }, 'mp4', random, clips, { noiseDb: -8 })];
	await writeShoot({ scenes: [scene], devices: later }, join(folder, 'later'), 9, provider);
	const song = sounding('song', songLike(100, 17));
	const heard = [
		device('track', CLOSE, 'wav', random, [{ scene: 'song', startSeconds: 0, seconds: 99 }], { isPluggedIn: true }),
		// Nine seconds of a chorus that comes three times.
		device('phone', { x: 0, y: 2 }, 'mp4', random, [{ scene: 'song', startSeconds: 18, seconds: 9 }], { noiseDb: -10 })
	];
	await writeShoot({ scenes: [song], devices: heard }, join(folder, 'media', 'song'), 5, provider);
	await mkdir(join(folder, 'data'));
	server = await startServer(join(folder, 'data'), ['--media', join(folder, 'media'), '--no-demo']);
});
test.afterAll(async () => {
	await server.stop();
	await rm(folder, { recursive: true, force: true });
});

async function gather(page: Page, name: string): Promise<void> {
	await page.goto(server.address);
	await page.getByRole('button', { name: 'New shoot' }).click();
	const folders = page.getByTestId('folders');
	await folders.getByRole('button', { name: join(folder, 'media') }).click();
	await folders.getByRole('button', { name, exact: true }).click();
	await page.getByRole('button', { name: 'Gather this folder' }).click();
	await expect(page.getByTestId('device-1')).toBeVisible();
	await stage(page, 'Line up');
}

async function stage(page: Page, name: string): Promise<void> {
	await page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name }).click();
}

/** Presses the button and waits until the server has done that very job, and the page knows. */
async function lineUp(page: Page, testId = 'line-up'): Promise<void> {
	const answer = page.waitForResponse(
		(response) => response.request().method() === 'POST' && response.url().endsWith('/jobs')
	);
	await page.getByTestId(testId).click();
	const response = await answer;
	const { id } = (await response.json()) as { id: string };
	await waitFor(async () => {
		const jobs = (await (await fetch(response.url())).json()) as JobView[];
		return jobs.find((job) => job.id === id)?.state === 'done';
	}, 150_000);
	await expect(page.getByTestId('line-up-progress')).toHaveCount(0);
}

async function startsOf(page: Page): Promise<Record<string, string>> {
	const rows = page.getByTestId('placement');
	const pairs = await rows.evaluateAll((elements) =>
		elements.map((element) => [element.getAttribute('data-clip')!, element.getAttribute('data-start')!])
	);
	return Object.fromEntries(pairs) as Record<string, string>;
}

test('lost samples and a clock that is off are named; a card that comes later moves nothing', async ({ page }) => {
	test.setTimeout(200_000);
	await gather(page, 'evening');
	await lineUp(page);
	await expect(page.getByTestId('verdict')).toContainText('6 of 6 clips placed');
	await expect(page.getByTestId('lost-samples')).toContainText(/REC-2_0001: 0\.40 s lost at 01:1\d/);
	await expect(page.getByTestId('clock-off')).toContainText('Its timecode is 1 hour ahead.');
	await expect(page.getByTestId('inverted')).toHaveText(/Its polarity is the other way round from that of rec/i);
	await expect(page.getByTestId('contradiction')).toHaveCount(0);
	await expect(page.locator('[data-clip="CAM-A_0002"]').getByText('timecode')).toBeVisible();
	await page.locator('[data-testid="placement"][data-clip="CAM-B_0001"]').getByRole('button').click();
	await expect(page.getByTestId('evidence')).toContainText('What speaks for CAM-B_0001');

	const before = await startsOf(page);
	await rename(join(folder, 'later', 'cam-c'), join(folder, 'media', 'evening', 'cam-c'));
	await stage(page, 'Gather');
	await page.getByRole('button', { name: 'Look again for new files' }).click();
	await expect(page.getByTestId('device-C')).toBeVisible();
	await stage(page, 'Line up');
	await lineUp(page, 'line-up-new');
	await expect(page.getByTestId('verdict')).toContainText('7 of 7 clips placed');
	const after = await startsOf(page);
	expect(Object.keys(after).sort()).toEqual([...Object.keys(before), 'CAM-C_0001'].sort());
	expect(after).toMatchObject(before);
	// What was found before is still told.
	await expect(page.getByTestId('clock-off')).toContainText('Its timecode is 1 hour ahead.');

	await page.getByRole('combobox', { name: /^By/ }).selectOption('timecode');
	await lineUp(page);
	await expect(page.getByTestId('verdict-detail')).toContainText('right to a frame at best');
	const strays = page.getByTestId('stray');
	await expect(strays.filter({ hasText: 'CAM-B_0001' })).toContainText('nothing else was recorded at its time');
	await expect(strays.filter({ hasText: 'CAM-C_0001' })).toHaveAttribute('data-reason', 'no timecode');
});

test('a clip that fits several places has none, and the places are told', async ({ page }) => {
	test.setTimeout(150_000);
	await gather(page, 'song');
	await lineUp(page);
	const stray = page.locator('[data-testid="stray"][data-clip="PHONE_0001"]');
	await expect(stray).toHaveAttribute('data-reason', 'ambiguous');
	await expect(stray).toContainText(/Against TRACK_0001 it could begin at 00:18 or 00:50 or 01:22/);
});
