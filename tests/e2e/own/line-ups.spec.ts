import { expect, type Page, test } from '@playwright/test';
import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { seededRandom } from '../../../demo/random';
import type { JobView } from '../../../src/lib/contract/jobs';
import type { Sources } from '../../../src/lib/contract/views';
import { flicksToSeconds } from '../../../src/lib/core/time/flicks';
import { fastFftProvider } from '../../../src/lib/server/engine/fast-fft';
import { CLOSE, conversation, device } from '../../support/simulator/building';
import { writeShoot } from '../../support/simulator/simulator';
import { movieSeconds } from '../support/movie';
import { type RunningServer, startServer } from '../support/server';
import { readShoot } from '../support/shoot';

/** A shoot of three scenes: each is a line-up of its own, with a master, a program and hand-offs of its own. */
let server: RunningServer;
let folder: string;
let shootId: string;

test.beforeAll(async () => {
	test.setTimeout(180_000);
	folder = await mkdtemp(join(tmpdir(), 'open-choir-scenes-'));
	const random = seededRandom(12);
	const lengths = { morning: 40, noon: 34, evening: 28 };
	const scenes = Object.entries(lengths).map(([id, seconds], index) => conversation(id, seconds, 40 + index));
	const takes = (from: number) =>
		Object.entries(lengths).map(([scene, seconds]) => ({ scene, startSeconds: from, seconds: seconds - 2 * from }));
	const devices = [
		device('rec', CLOSE, 'wav', random, takes(0.5), { ratePpm: 0, isLive: true }),
		device('cam-a', { x: 1, y: 4 }, 'mov', random, takes(1), { noiseDb: -16, isLive: true }),
		device('cam-b', { x: 2, y: 3 }, 'mov', random, takes(1.5), { noiseDb: -16, isLive: true })
	];
	await writeShoot({ scenes, devices }, join(folder, 'media', 'day'), 12, await fastFftProvider());
	await mkdir(join(folder, 'data'));
	server = await startServer(join(folder, 'data'), ['--media', join(folder, 'media'), '--no-demo']);
});
test.afterAll(async () => {
	await server?.stop();
	await rm(folder, { recursive: true, force: true });
});

const shoot = () => readShoot(server.address, shootId);

async function stage(page: Page, name: string): Promise<void> {
	await page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name }).click();
}

test('three scenes become three line-ups, each chosen, heard, called and handed off by itself', async ({ page }) => {
	test.setTimeout(300_000);
	await page.goto(server.address);
	await page.getByRole('button', { name: 'New shoot' }).click();
	const folders = page.getByTestId('folders');
	await folders.getByRole('button', { name: join(folder, 'media') }).click();
	await folders.getByRole('button', { name: 'day', exact: true }).click();
	await page.getByRole('button', { name: 'Gather this folder' }).click();
	await expect(page).toHaveURL(/\/shoots\/[0-9a-f-]{36}\/gather/);
	shootId = /shoots\/([0-9a-f-]{36})/.exec(page.url())![1]!;
	await expect.poll(async () => (await shoot()).clips.length).toBe(9);
	await stage(page, 'Line up');
	await page.getByTestId('line-up').click();
	await expect.poll(async () => (await shoot()).lineUps.length, { timeout: 120_000 }).toBe(3);
	const { lineUps, programs } = await shoot();
	expect(lineUps.every((lineUp) => lineUp.master.length > 0)).toBe(true);
	expect(programs).toHaveLength(3);

	// By keyboard: the second one, its own master, its own program.
	const choice = page.getByTestId('line-up-choice');
	await expect(choice.locator('option')).toHaveText([
		/Line-up 1 · 3 clips/,
		/Line-up 2 · 3 clips/,
		/Line-up 3 · 3 clips/
	]);
	await choice.focus();
	await page.keyboard.press('ArrowDown');
	await expect(choice).toHaveValue(lineUps[1]!.id);
	await stage(page, 'Master');
	await expect(page.getByTestId('hears')).toContainText('The audience hears');
	await page.getByRole('slider').or(page.getByRole('checkbox')).first().waitFor();
	// All three are compared in one go, and stay so: nothing that was found on one puts another out of date.
	const isCompared = async (lineUp: string) => {
		const answer = await fetch(`${server.address}/api/shoots/${shootId}/sources-report?lineUp=${lineUp}`);
		const { report, isCurrent } = (await answer.json()) as Sources;
		return isCurrent && report!.sources.length === 3;
	};
	for (const { id } of lineUps) await expect.poll(() => isCompared(id), { timeout: 60_000 }).toBe(true);
	const jobs = (await (await fetch(`${server.address}/api/shoots/${shootId}/jobs`)).json()) as readonly JobView[];
	expect(jobs.filter((job) => job.kind === 'measure').length).toBeLessThanOrEqual(2);
	await stage(page, 'Call');
	await expect(page.getByTestId('shot')).toHaveCount(1);
	for (let step = 0; step < 12; step++) await page.keyboard.press('Shift+ArrowRight');
	await page.keyboard.press('2');
	await expect(page.getByTestId('shot')).toHaveCount(2);

	// By mouse: the third one knows nothing of it; a reload comes back to it.
	await choice.selectOption(lineUps[2]!.id);
	await expect(page.getByTestId('shot')).toHaveCount(1);
	await page.reload();
	await expect(choice).toHaveValue(lineUps[2]!.id);
	await expect(page.getByTestId('shot')).toHaveCount(1);
	await choice.selectOption(lineUps[1]!.id);
	await expect(page.getByTestId('shot')).toHaveCount(2);
	const called = (await shoot()).programs.map((one) => [one.lineUpId, one.calls.length]);
	expect(Object.fromEntries(called)).toEqual({ [lineUps[0]!.id]: 1, [lineUps[1]!.id]: 2, [lineUps[2]!.id]: 1 });

	// Each leaves as a movie of its own length.
	await stage(page, 'Hand off');
	for (const [index, lineUp] of lineUps.entries()) {
		await choice.selectOption(lineUp.id);
		await page.getByTestId('hand-off-movie').click();
		await expect(page.locator('[data-testid=hand-off][data-kind=movie]')).toHaveCount(index + 1, { timeout: 120_000 });
	}
	await page.getByTestId('hand-off-otio').click();
	await expect(page.locator('[data-testid=hand-off][data-kind=otio]')).toHaveCount(1);
	const { handOffs, programs: last } = await shoot();
	for (const [index, lineUp] of lineUps.entries()) {
		const movie = handOffs.find((one) => one.kind === 'movie' && one.lineUpId === lineUp.id)!;
		expect(movie.name).toContain(`line-up ${index + 1}`);
		const path = join(folder, 'data', 'hand-offs', shootId, movie.name);
		const seconds = await movieSeconds(path);
		const { inFlicks, outFlicks } = last.find((one) => one.lineUpId === lineUp.id)!;
		expect(Math.abs(seconds - flicksToSeconds(outFlicks - inFlicks))).toBeLessThan(0.06);
	}
	// What was done on one is undone there, whichever one is looked at.
	await page.keyboard.press('Control+z');
	await expect
		.poll(async () => (await shoot()).programs.find((one) => one.lineUpId === lineUps[1]!.id)!.calls.length)
		.toBe(1);
});
