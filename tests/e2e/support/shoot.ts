import { expect, type Page } from '@playwright/test';
import type { Snapshot } from '../../../src/lib/contract/changes';
import { assembleShoot } from '../../../src/lib/core/shoot/assemble';
import { storeRows } from '../../../src/lib/core/shoot/rows';
import type { Shoot } from '../../../src/lib/core/shoot/shoot';
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
