import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { installedPath } from '../../scripts/outside-programs';
import { compile, coverLineUp } from '../../src/lib/core/program/compile';
import { placedClips } from '../../src/lib/core/shoot/lookup';
import type { Shoot } from '../../src/lib/core/shoot/shoot';
import { openDatabase } from '../../src/lib/server/db/database';
import { startServer, waitFor } from '../e2e/support/server';
import { demoShoot, readShoot } from '../e2e/support/shoot';
import { quantile } from '../support/simulator/score';
import { LARGE_SHOOT, writeLargePeaks, writeLargeShoot } from './large-shoot';

const TIMES = 60;
const READINGS = 15;
const FLICKS = 705_600_000;

/** How quickly a shoot answers and shows what was changed: the demo, and one of three hours with 2 000 clips. */
export async function benchChanges(folder: string): Promise<string> {
	await mkdir(folder, { recursive: true });
	const data = join(folder, 'data');
	let server = await startServer(data);
	const rest = async () => {
		const { id } = await demoShoot(server.address);
		const jobs = (await (await fetch(`${server.address}/api/shoots/${id}/jobs`)).json()) as { state: string }[];
		return jobs.length > 0 && jobs.every((job) => job.state !== 'running' && job.state !== 'waiting');
	};
	await waitFor(async () => (await demoShoot(server.address)).clips.length === 14 && (await rest()), 600_000, 500);
	const { id: demoId, lineUps } = await demoShoot(server.address);
	if (lineUps.length === 0) await post(server.address, `/api/shoots/${demoId}/jobs`, { kind: 'line-up' });
	await waitFor(rest, 600_000, 500);
	await server.stop();
	const database = openDatabase(join(data, 'database'));
	const [known] = await database.query<{ id: string }>('select id from shoot where name = $1', [LARGE_SHOOT.name]);
	const largeId = known?.id ?? (await writeLargeShoot(database));
	await database.close();
	await writeLargePeaks(join(data, 'cache'));
	server = await startServer(data);
	try {
		const measured = { demo: await measure(server.address, demoId), large: await measure(server.address, largeId) };
		const rows = Object.keys(measured.demo).map((what) => {
			const [demo, large] = [measured.demo[what]!, measured.large[what]!];
			const ratio = quantile(large, 0.5) / quantile(demo, 0.5);
			return `| ${what} | ${figures(demo)} | ${figures(large)} | ${ratio.toFixed(1)} |`;
		});
		return [
			`The demo is the yardstick for ${LARGE_SHOOT.clips} clips of ${LARGE_SHOOT.devices} devices over ${LARGE_SHOOT.hours} h with ${LARGE_SHOOT.calls} calls and ${LARGE_SHOOT.pairs} compared pairs. Over HTTP on the same machine; what is shown, in headless Chromium without a graphics card, from the key to the frame that is drawn with it.`,
			'',
			'| what | demo, median / 95% | large, median / 95% | times the demo |',
			'|---|---|---|---|',
			...rows
		].join('\n');
	} finally {
		await server.stop();
	}
}

type Measured = Record<string, readonly number[]>;

function figures(ms: readonly number[]): string {
	const words = (value: number) => value.toFixed(value < 10 ? 1 : 0);
	return `${words(quantile(ms, 0.5))} / ${words(quantile(ms, 0.95))} ms`;
}

async function measure(address: string, id: string): Promise<Measured> {
	// The first one after a start reads the database, the others what is kept in memory.
	const reading = await times(READINGS, async () => {
		await (await fetch(`${address}/api/shoots/${id}`)).json();
	});
	const shoot = await readShoot(address, id);
	const edits = `/api/shoots/${id}/edits`;
	const [{ lineUpId, inFlicks, outFlicks }] = shoot.programs as [Shoot['programs'][0]];
	const angles = shoot.devices.filter((device) => device.kind === 'camera').slice(0, 2);
	const clip = shoot.clips.find((one) => one.placement?.lineUpId === lineUpId)!;
	const at = (index: number) =>
		Math.round((inFlicks + ((index + 0.5) / TIMES) * (outFlicks - inFlicks)) / FLICKS) * FLICKS;
	const compiling = await times(READINGS, () => Promise.resolve(void compile(shoot, shoot.programs[0]!)));
	const coverage = coverLineUp(placedClips(shoot, shoot.programs[0]!.lineUpId));
	const recompiling = await times(READINGS, () =>
		Promise.resolve(void compile(shoot, shoot.programs[0]!, undefined, coverage))
	);
	const revision = async () =>
		((await (await fetch(`${address}/api/shoots/${id}`)).json()) as { revision: number }).revision;
	const before = await revision();
	const calling = await times(TIMES, (index) =>
		post(address, edits, { kind: 'call', lineUpId, atFlicks: at(index), deviceId: angles[index % 2]!.id })
	);
	const nudging = await times(TIMES, (index) =>
		post(address, edits, { kind: 'shift-clips', clipIds: [clip.id], byFlicks: index % 2 ? 14_700 : -14_700 })
	);
	// No more than was changed: what had been there before, the line-up too, would be undone with it.
	const undoing = await times((await revision()) - before, () => post(address, `/api/shoots/${id}/undo`, {}));
	const shown = await shownInPage(address, id);
	return {
		'reading the shoot, the first time': reading.slice(0, 1),
		'reading the shoot again': reading.slice(1),
		'a call, answered': calling,
		'a nudge, answered': nudging,
		'undo, answered': undoing,
		...shown,
		'compiling the program': compiling,
		'compiling it again after a call': recompiling
	};
}

async function times(count: number, work: (index: number) => Promise<void>): Promise<readonly number[]> {
	const out: number[] = [];
	for (let index = 0; index < count; index++) {
		const began = performance.now();
		await work(index);
		out.push(performance.now() - began);
	}
	return out;
}

async function post(address: string, path: string, body: object): Promise<void> {
	const response = await fetch(address + path, {
		method: 'POST',
		headers: { 'content-type': 'application/json' },
		body: JSON.stringify(body)
	});
	if (!response.ok) throw new Error(`${path}: ${await response.text()}`);
	await response.json();
}

async function shownInPage(address: string, id: string): Promise<Measured> {
	const browser = await chromium.launch({
		executablePath: installedPath('/usr/bin/chromium'),
		args: ['--no-sandbox', '--disable-gpu']
	});
	try {
		const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
		await page.addInitScript('globalThis.__name = (one) => one');
		await page.goto(`${address}/shoots/${id}/call`);
		await page.getByTestId('on-air').waitFor();
		await page.waitForFunction(
			() => document.querySelector<HTMLElement>('[data-testid="waves"]')?.dataset['whole'] === 'true',
			undefined,
			{ timeout: 120_000 }
		);
		await page.waitForTimeout(1000);
		const calls = await keyed(page, TIMES / 2, '2');
		const undone = await keyed(page, TIMES / 2, 'undo');
		return { 'a call, shown': calls, 'undo of a call, shown': undone };
	} finally {
		await browser.close();
	}
}

/** Presses keys and tells how long each took until the page shows another program. */
async function keyed(page: Page, count: number, key: '2' | 'undo'): Promise<readonly number[]> {
	const out: number[] = [];
	for (let index = 0; index < count; index++) {
		if (key === '2') for (let step = 0; step < 5; step++) await page.keyboard.press('Shift+ArrowRight');
		await page.waitForTimeout(150);
		out.push(await page.evaluate(untilShown, key));
	}
	return out;
}

/** Runs in the page: presses a key, and waits until another program is drawn. @returns milliseconds */
async function untilShown(key: '2' | 'undo'): Promise<number> {
	const program = () =>
		[...document.querySelectorAll<HTMLElement>('[data-testid="shot"]')]
			.map((shot) => `${shot.dataset['angle']} ${shot.dataset['in']}`)
			.join();
	const onAir = document.querySelector('[data-testid="on-air"] .badge')?.textContent;
	const tiles = [...document.querySelectorAll<HTMLElement>('[data-testid^="tile-"]')];
	const digit = 1 + tiles.findIndex((tile) => tile.dataset['testid'] !== `tile-${onAir}`);
	const before = program();
	const pressed = key === 'undo' ? { key: 'z', ctrlKey: true } : { key: `${digit}` };
	// Told by the page's own change: asking again and again would take the time that is measured.
	const lane = document.querySelector('[data-testid="program-lane"]')!;
	const changed = new Promise<void>((resolve, reject) => {
		const late = setTimeout(() => reject(new Error(`Nothing was shown after ${pressed.key}.`)), 10_000);
		const observer = new MutationObserver(() => {
			if (program() === before) return;
			observer.disconnect();
			clearTimeout(late);
			resolve();
		});
		observer.observe(lane, { subtree: true, childList: true, attributeFilter: ['data-angle', 'data-in'] });
	});
	const since = performance.now();
	document.body.dispatchEvent(new KeyboardEvent('keydown', { bubbles: true, cancelable: true, ...pressed }));
	await changed;
	await new Promise((resolve) => requestAnimationFrame(resolve));
	return performance.now() - since;
}
