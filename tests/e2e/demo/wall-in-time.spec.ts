import { expect, test } from '@playwright/test';
import { readFile } from 'node:fs/promises';
import { cpus } from 'node:os';
import type { JobView } from '../../../src/lib/contract/jobs';
import { FLICKS_PER_SECOND, flicksToSeconds } from '../../../src/lib/core/time/flicks';
import { waitFor } from '../support/server';
import { address, demoShoot, goTo, placementOf } from '../support/shoot';
import { expectedCode, readWall } from '../support/wall-codes';

const ATTEMPTS = 6;
const WITHIN_ONE_SHARE = 0.95;
/** Where the machine was given to others all the time, most pictures must still be right: late ones are, not those that drift. */
const DISTURBED_SHARE = 0.5;
/** More of the processors' time given to others than this, and what was measured is their work as much as ours. */
const MOST_STOLEN = 0.03;

/** Processor time that a shared machine has given to others so far, in seconds (field 8 of /proc/stat, proc(5)). */
async function stolenSeconds(): Promise<number> {
	const line = (await readFile('/proc/stat', 'utf8')).split('\n', 1)[0]!;
	return Number(line.trim().split(/\s+/)[8] ?? 0) / 100;
}

/** Until the background has made all small pictures: what is measured is playing them. */
async function waitUntilPrepared(id: string): Promise<void> {
	await waitFor(async () => {
		const jobs = (await (await fetch(`${address()}/api/shoots/${id}/jobs`)).json()) as readonly JobView[];
		return !jobs.some((job) => job.kind === 'prepare' && ['waiting', 'running'].includes(job.state));
	}, 400_000);
}

/** Runs when nothing else does: it is the machine's speed that counts here. */
test('over 20 seconds with five angles the pictures keep to the master', async ({ page }) => {
	const shoot = await demoShoot();
	await waitUntilPrepared(shoot.id);
	await page.goto(`${address()}/shoots/${shoot.id}/call`);
	await page.getByTestId('on-air').waitFor();
	const begin = placementOf(shoot, '00022').startFlicks + FLICKS_PER_SECOND;
	const measured: { readonly withinOne: number; readonly isOurs: boolean }[] = [];
	const words: string[] = [];
	const percent = (value: number) => `${(100 * value).toFixed(1)}%`;
	for (let attempt = 0; attempt < ATTEMPTS; attempt++) {
		await goTo(page, begin);
		await page.keyboard.press(' ');
		await expect(page.getByTestId('play')).toHaveAttribute('aria-label', 'Pause');
		await page.waitForTimeout(500);
		const [stolenBefore, beganMs] = [await stolenSeconds(), performance.now()];
		const readings = await readWall(page, 300, 85, 20);
		const stolen = ((await stolenSeconds()) - stolenBefore) / ((cpus().length * (performance.now() - beganMs)) / 1000);
		await page.keyboard.press(' ');
		expect(flicksToSeconds(readings.at(-1)!.flicks - readings[0]!.flicks)).toBeGreaterThan(19);
		const off = readings.map(({ tile, code, flicks }) => {
			const expected = expectedCode(shoot, tile, flicks)!;
			return code?.file === expected.file ? Math.abs(code.picture - expected.picture) : Infinity;
		});
		const share = (most: number) => off.filter((one) => one <= most).length / off.length;
		measured.push({ withinOne: share(1), isOurs: stolen <= MOST_STOLEN });
		words.push(
			`exact ${percent(share(0))}, within one ${percent(share(1))} of ${off.length} pictures, ${percent(stolen)} of the machine given to others`
		);
		if (share(1) >= WITHIN_ONE_SHARE) break;
	}
	process.stdout.write(`    wall: ${words.join('; ')}\n`);
	const best = Math.max(...measured.map((one) => one.withinOne));
	const hadTheMachine = measured.some((one) => one.isOurs);
	expect(best).toBeGreaterThanOrEqual(hadTheMachine ? WITHIN_ONE_SHARE : DISTURBED_SHARE);
});
