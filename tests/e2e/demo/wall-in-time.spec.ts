import { expect, test } from '@playwright/test';
import { FLICKS_PER_SECOND, flicksToSeconds } from '../../../src/lib/core/time/flicks';
import { address, demoShoot, goTo, placementOf } from '../support/shoot';
import { expectedCode, readWall } from '../support/wall-codes';

/** Runs when nothing else does: it is the machine's speed that counts here. */
test('over 20 seconds with five angles the pictures keep to the master', async ({ page }) => {
	const shoot = await demoShoot();
	await page.goto(`${address()}/shoots/${shoot.id}/call`);
	await page.getByTestId('on-air').waitFor();
	const begin = placementOf(shoot, '00022').startFlicks + FLICKS_PER_SECOND;
	const measured: string[] = [];
	// A shared machine may lose a second now and then: three tries, all of them told.
	for (let attempt = 0; attempt < 3; attempt++) {
		await goTo(page, begin);
		await page.keyboard.press(' ');
		await expect(page.getByTestId('play')).toHaveAttribute('aria-label', 'Pause');
		await page.waitForTimeout(500);
		const readings = await readWall(page, 300, 85, 20);
		await page.keyboard.press(' ');
		expect(flicksToSeconds(readings.at(-1)!.flicks - readings[0]!.flicks)).toBeGreaterThan(19);
		const off = readings.map(({ tile, code, flicks }) => {
			const expected = expectedCode(shoot, tile, flicks)!;
			return code?.file === expected.file ? Math.abs(code.picture - expected.picture) : Infinity;
		});
		const share = (most: number) => off.filter((one) => one <= most).length / off.length;
		const percent = (value: number) => `${(100 * value).toFixed(1)}%`;
		measured.push(`exact ${percent(share(0))}, within one ${percent(share(1))} of ${off.length} pictures`);
		if (share(1) >= 0.95) break;
	}
	process.stdout.write(`    wall: ${measured.join('; ')}\n`);
	expect(Number(/within one ([\d.]+)/.exec(measured.at(-1)!)![1])).toBeGreaterThanOrEqual(95);
});
