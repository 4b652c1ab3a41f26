import { expect, type Page } from '@playwright/test';
import type { Snapshot } from '../../../src/lib/contract/changes';
import { assembleShoot } from '../../../src/lib/core/shoot/assemble';
import { storeRows } from '../../../src/lib/core/shoot/rows';
import { lineUpRange } from '../../../src/lib/core/shoot/lookup';
import type { Shoot } from '../../../src/lib/core/shoot/shoot';
import { FLICKS_PER_SECOND } from '../../../src/lib/core/time/flicks';
import type { Stage } from '../../../src/lib/ui/state/stages';

export function address(): string {
	return process.env['OPEN_CHOIR_E2E_ADDRESS']!;
}

/** Reads the demo shoot from the server, as the page does. */
export async function demoShoot(at = address()): Promise<Shoot> {
	const list = (await (await fetch(`${at}/api/shoots`)).json()) as { id: string; isDemo: boolean }[];
	const { id } = list.find((one) => one.isDemo)!;
	return readShoot(at, id);
}

/** Reads a shoot from the server and puts it together, as the page does. */
export async function readShoot(at: string, id: string): Promise<Shoot> {
	const { rows, ...steps } = (await (await fetch(`${at}/api/shoots/${id}`)).json()) as Snapshot;
	return assembleShoot(storeRows(rows), steps).shoot;
}

/** Goes to a stage by its link in the header. */
export async function goToStage(page: Page, name: string, stage: Stage): Promise<void> {
	await page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name }).click();
	await expect(page).toHaveURL(new RegExp(`/${stage}$`));
}

export function placementOf(shoot: Shoot, clipName: string) {
	return shoot.clips.find((clip) => clip.name === clipName)!.placement!;
}

/** Position of the playhead, as the page shows it. */
export async function playhead(page: Page): Promise<number> {
	return Number(await page.getByTestId('timecode').getAttribute('data-flicks'));
}

/** Goes to about a moment of the demo's line-up, by the ruler of the score. */
export async function goTo(on: Page, flicks: number): Promise<void> {
	const shoot = await demoShoot();
	const range = lineUpRange(shoot, shoot.lineUps[0]!.id);
	await on.keyboard.press('0');
	const box = (await on.getByTestId('score-lanes').boundingBox())!;
	const whole = range.outFlicks - range.inFlicks;
	const x = ((flicks - range.inFlicks + whole * 0.01) / (whole * 1.02)) * box.width;
	await on.mouse.click(box.x + x, box.y + 10);
	await expect.poll(() => playhead(on)).toBeGreaterThan(flicks - FLICKS_PER_SECOND);
	expect(Math.abs((await playhead(on)) - flicks)).toBeLessThan(FLICKS_PER_SECOND / 2);
}
