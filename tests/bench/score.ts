import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { installedPath } from '../../scripts/outside-programs';
import { openDatabase } from '../../src/lib/server/db/database';
import { startServer, waitFor } from '../e2e/support/server';
import { readShoot } from '../e2e/support/shoot';
import { quantile } from '../support/simulator/score';
import { LONG_DAY, writeLargePeaks, writeLargeShoot } from './large-shoot';
import { writeLongShoot } from './long-shoot';

const TIMES = 24;
const LONG = 'Two hours, seven devices';
const SCRIPTED_SECONDS = 30;

interface ShootToMeasure {
	readonly id: string;
	readonly name: string;
	readonly isDemo: boolean;
}

/**
 * How quickly the score answers, in the page, on the demo, on seven devices of two hours and on twenty of four hours.
 * @param folder where the long shoot and its data are made, or lie from an earlier run: they take 13 GB
 * @param only shoots whose names hold this
 */
export async function benchScore(folder: string, only = ''): Promise<string> {
	const media = join(folder, 'seven');
	await mkdir(media, { recursive: true });
	const isMade = await readFile(`${media}.made`, 'utf8').catch(() => undefined);
	if (isMade === undefined && LONG.includes(only)) {
		await writeLongShoot(media, 7200, 5, { size: '320x180', bitRate: '300k' });
		await writeFile(`${media}.made`, '');
	}
	const data = join(folder, 'data');
	// Its tables are made.
	await (await startServer(data, ['--no-demo'])).stop();
	const database = openDatabase(join(data, 'database'));
	const [known] = await database.query<{ id: string }>('select id from shoot where name = $1', [LONG_DAY.name]);
	if (!known) await writeLargeShoot(database, LONG_DAY);
	await database.close();
	await writeLargePeaks(join(data, 'cache'), LONG_DAY);
	const server = await startServer(data, ['--media', media]);
	try {
		const shoots = await linedUp(server.address, media, only);
		const rows: string[] = [];
		for (const shoot of shoots) rows.push(...(await measure(server.address, shoot)));
		return [
			'In headless Chromium without a graphics card, 1280x800. Each is the time from the action until the picture is drawn with all its peaks.',
			'',
			'| shoot | what | median | 95% | longest |',
			'|---|---|---|---|---|',
			...rows
		].join('\n');
	} finally {
		await server.stop();
	}
}

async function linedUp(address: string, media: string, only: string): Promise<readonly ShootToMeasure[]> {
	const api = async (path: string, body?: object) =>
		(await (
			await fetch(address + path, {
				...(body ? { method: 'POST', body: JSON.stringify(body) } : {}),
				headers: { 'content-type': 'application/json' }
			})
		).json()) as never;
	const list = async () =>
		((await api('/api/shoots')) as ShootToMeasure[]).filter(
			(one) => (one.isDemo || one.name === LONG || one.name === LONG_DAY.name) && one.name.includes(only)
		);
	if (LONG.includes(only) && (await list()).every((one) => one.name !== LONG))
		await api('/api/shoots', { name: LONG, folder: media });
	const busy = async (id: string) =>
		((await api(`/api/shoots/${id}/jobs`)) as { state: string }[]).some(
			(job) => job.state === 'running' || job.state === 'waiting'
		);
	for (const { id } of await list()) {
		const { lineUps } = await readShoot(address, id);
		if (lineUps.length > 0) continue;
		await waitFor(async () => !(await busy(id)), 3 * 3_600_000, 2000);
		await api(`/api/shoots/${id}/jobs`, { kind: 'line-up' });
		await waitFor(async () => !(await busy(id)), 3_600_000, 1000);
	}
	return list();
}

async function measure(address: string, { id, name }: ShootToMeasure): Promise<readonly string[]> {
	const browser = await chromium.launch({
		executablePath: installedPath('/usr/bin/chromium'),
		args: ['--no-sandbox', '--disable-gpu']
	});
	try {
		const opening: number[] = [];
		let page: Page | undefined;
		for (let time = 0; time < 5; time++) {
			await page?.close();
			page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
			// What names functions here is not there in the page.
			await page.addInitScript('globalThis.__name = (one) => one');
			await page.goto(`${address}/shoots/${id}/line-up`);
			opening.push(await page.evaluate(untilWhole, 0));
		}
		const rows = [row(name, 'opening, from the address to the first full picture', opening)];
		for (const [what, action] of [
			['one zoom step', 'zoom'],
			['one pan step', 'pan'],
			['one jump', 'jump']
		] as const)
			rows.push(row(name, what, await page!.evaluate(repeat, { action, times: TIMES })));
		const frames = await page!.evaluate(scripted, SCRIPTED_SECONDS);
		const late = frames.filter((ms) => ms > 50).length;
		rows.push(
			row(
				name,
				`${SCRIPTED_SECONDS} s of panning and zooming: a frame (${late} of ${frames.length} over 50 ms)`,
				frames
			)
		);
		return rows;
	} finally {
		await browser.close();
	}
}

function row(shoot: string, what: string, ms: readonly number[]): string {
	const words = (value: number) => `${value.toFixed(value < 100 ? 1 : 0)} ms`;
	return `| ${shoot} | ${what} | ${words(quantile(ms, 0.5))} | ${words(quantile(ms, 0.95))} | ${words(Math.max(...ms))} |`;
}

/** Runs in the page: resolves when the score was drawn whole after a moment. @returns milliseconds since then */
async function untilWhole(since: number): Promise<number> {
	for (;;) {
		await new Promise((resolve) => requestAnimationFrame(resolve));
		const waves = document.querySelector<HTMLCanvasElement>('[data-testid="waves"]');
		const drawn = Number(waves?.dataset['drawn'] ?? -1);
		if (waves?.dataset['whole'] === 'true' && drawn > since) return drawn - since;
		if (performance.now() - since > 60_000) throw new Error('The score was not drawn.');
	}
}

/** Runs in the page. */
async function repeat({ action, times }: { action: 'zoom' | 'pan' | 'jump'; times: number }): Promise<number[]> {
	const lanes = document.querySelector<HTMLElement>('[data-testid="score-lanes"]')!;
	const overview = document.querySelector<HTMLElement>('[data-testid="overview"]')!;
	const wheel = (options: WheelEventInit) =>
		lanes.dispatchEvent(new WheelEvent('wheel', { bubbles: true, cancelable: true, ...options }));
	const whole = async (since: number) => {
		for (;;) {
			await new Promise((resolve) => requestAnimationFrame(resolve));
			const waves = document.querySelector<HTMLCanvasElement>('[data-testid="waves"]')!;
			const drawn = Number(waves.dataset['drawn']);
			if (waves.dataset['whole'] === 'true' && drawn > since) return drawn - since;
			if (performance.now() - since > 30_000) throw new Error('The score was not drawn.');
		}
	};
	const box = lanes.getBoundingClientRect();
	const out: number[] = [];
	for (let time = 0; time < times; time++) {
		// Other things of the page come to rest.
		await new Promise((resolve) => setTimeout(resolve, 120));
		const since = performance.now();
		const x = box.left + box.width * (0.2 + 0.6 * ((time * 0.618) % 1));
		// In to single waves and out again, about changing places.
		const inwards = time % 24 < 14;
		if (action === 'zoom') wheel({ deltaY: inwards ? -300 : 420, clientX: x, clientY: box.top + 80 });
		else if (action === 'pan') wheel({ deltaX: time % 6 < 3 ? 400 : -250, clientX: x, clientY: box.top + 80 });
		else {
			const strip = overview.getBoundingClientRect();
			const at = { clientX: strip.left + strip.width * ((time * 0.618) % 1), clientY: strip.top + 5, pointerId: 1 };
			overview.setPointerCapture = () => undefined;
			overview.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, ...at }));
			overview.dispatchEvent(new PointerEvent('pointerup', { bubbles: true, ...at }));
		}
		out.push(await whole(since));
	}
	return out;
}

/** Runs in the page: pans and zooms all the time. @returns the length of every frame */
async function scripted(seconds: number): Promise<number[]> {
	const lanes = document.querySelector<HTMLElement>('[data-testid="score-lanes"]')!;
	const box = lanes.getBoundingClientRect();
	const frames: number[] = [];
	const began = performance.now();
	let last = await new Promise<number>((resolve) => requestAnimationFrame(resolve));
	while (performance.now() - began < seconds * 1000) {
		const t = (performance.now() - began) / 1000;
		// In for three seconds, along for two, out for three, and so on.
		const phase = t % 8;
		const x = box.left + box.width * (0.5 + 0.3 * Math.sin(t));
		const options =
			phase < 3 ? { deltaY: -22 } : phase < 5 ? { deltaX: 40 * Math.sin(t * 3) } : phase < 8 ? { deltaY: 22 } : {};
		lanes.dispatchEvent(
			new WheelEvent('wheel', { bubbles: true, cancelable: true, clientX: x, clientY: box.top + 80, ...options })
		);
		const now = await new Promise<number>((resolve) => requestAnimationFrame(resolve));
		frames.push(now - last);
		last = now;
	}
	return frames;
}
