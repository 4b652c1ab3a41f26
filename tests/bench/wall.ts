import { mkdir, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Worker as Thread } from 'node:worker_threads';
import { type Browser, chromium, type Page } from '@playwright/test';
import { installedPath, runProgram as run } from '../../scripts/outside-programs';
import type { JobView } from '../../src/lib/contract/jobs';
import { PIECE_SECONDS } from '../../src/lib/core/limits/pieces';
import { filesBelow } from '../../src/lib/server/media/folder-size';
import type { WallReport } from '../../src/lib/ui/playback/wall-messages';
import { startServer, waitFor } from '../e2e/support/server';
import { readShoot } from '../e2e/support/shoot';

const CAMERAS = 25;
const SECONDS = 7200;
const LOOP_SECONDS = 40;
/** So much is played, and prepared about it. */
const PLAYED_SECONDS = 30;
const PREPARED_SECONDS = 2 * PLAYED_SECONDS;
/** Threads that do nothing but keep the processors busy. */
const LOAD = 16;

/** How well the wall keeps up with many angles. @param folder where recordings and data are made, or lie from an earlier run: 4 GB */
export async function benchWall(folder: string): Promise<string> {
	const media = join(folder, 'media');
	await makeCameras(media);
	const data = join(folder, 'data');
	const server = await startServer(data, ['--media', media, '--no-demo']);
	const rows: string[] = [];
	try {
		const post = async <Answer>(path: string, body: object) => {
			const headers = { 'content-type': 'application/json' };
			const response = await fetch(server.address + path, { method: 'POST', body: JSON.stringify(body), headers });
			if (!response.ok) throw new Error(await response.text());
			return (await response.json()) as Answer;
		};
		const known = (await (await fetch(`${server.address}/api/shoots`)).json()) as readonly { readonly id: string }[];
		const { id } = known[0] ?? (await post<{ id: string }>('/api/shoots', { name: 'Many angles', folder: media }));
		await waitFor(async () => (await readShoot(server.address, id)).clips.length === CAMERAS, 600_000);
		if (known.length === 0) await post(`/api/shoots/${id}/jobs`, { kind: 'line-up' });
		await waitFor(async () => (await readShoot(server.address, id)).clips.every((clip) => clip.placement), 600_000);
		const pieces = async () =>
			(await filesBelow(join(data, 'cache'))).filter(({ name }) => name.endsWith('-160.mp4')).length;
		await watchMiddle(server.address, id);
		await waitFor(async () => (await pieces()) >= (CAMERAS * 1.3 * PREPARED_SECONDS) / PIECE_SECONDS, 1_800_000);
		const jobs = (await (await fetch(`${server.address}/api/shoots/${id}/jobs`)).json()) as readonly JobView[];
		for (const job of jobs.filter((one) => one.kind === 'prepare' && one.state === 'running'))
			await post(`/api/jobs/${job.id}`, { action: 'stop' });
		for (const count of [9, 16, 25])
			for (const load of count === 9 ? [0] : [0, LOAD]) {
				rows.push(await measure(server.address, id, count, load));
				process.stderr.write(`${rows.at(-1)}\n`);
			}
	} finally {
		await server.stop();
	}
	return [
		'In headless Chromium without a graphics card, pictures decoded by the processor; recordings of two hours each. Of all pictures that',
		`the wall draws in ${PLAYED_SECONDS} seconds of playing: those of their very time, late by one, later. A load of ${LOAD} is as many threads that do nothing but`,
		'keep the processors busy.',
		'',
		'| angles | load | exact | late by one | later | no piece yet | every so many-th is shown at the end | looked at, each | all angles show a picture after | memory of the whole browser |',
		'|---|---|---|---|---|---|---|---|---|---|',
		...rows
	].join('\n');
}

async function makeCameras(media: string): Promise<void> {
	if (await readFile(`${media}.made`, 'utf8').catch(() => undefined)) return;
	await rm(media, { recursive: true, force: true });
	await mkdir(media, { recursive: true });
	// Everybody hears the same room.
	const room = join(media, 'room.m4a');
	const noise = `anoisesrc=d=${SECONDS}:c=pink:a=0.5:seed=11:r=48000,tremolo=f=0.7:d=0.8`;
	await run('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', noise, '-c:a', 'aac', '-b:a', '32k', room]);
	for (let camera = 0; camera < CAMERAS; camera++) {
		const name = `camera-${`${camera + 1}`.padStart(2, '0')}`;
		await mkdir(join(media, name), { recursive: true });
		const loop = join(media, 'loop.mov');
		const picture = `testsrc2=s=640x360:r=25:d=${LOOP_SECONDS},hue=h=${camera * 14}`;
		const coder = ['-c:v', 'libx264', '-preset', 'veryfast', '-g', '25', '-b:v', '150k', '-pix_fmt', 'yuv420p'];
		await run('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', picture, ...coder, loop]);
		const inputs = ['-stream_loop', '-1', '-i', loop, '-i', room, '-map', '0:v', '-map', '1:a'];
		await run('ffmpeg', [
			'-v',
			'error',
			'-y',
			...inputs,
			'-c',
			'copy',
			'-t',
			`${SECONDS}`,
			join(media, name, 'shot.mov')
		]);
		await rm(loop);
	}
	await rm(room);
	await writeFile(`${media}.made`, 'yes');
}

async function openBrowser(): Promise<Browser> {
	return chromium.launch({
		executablePath: installedPath('/usr/bin/chromium'),
		args: ['--no-sandbox', '--autoplay-policy=no-user-gesture-required']
	});
}

async function goToMiddle(page: Page): Promise<void> {
	await page.getByTestId('play').waitFor();
	await page.keyboard.press('g');
	await page.getByRole('textbox', { name: 'Go to a time of the line-up' }).fill(`${SECONDS / 2} s`);
	await page.keyboard.press('Enter');
}

/** The background prepares about where somebody looks. */
async function watchMiddle(address: string, id: string): Promise<void> {
	const browser = await openBrowser();
	const page = await browser.newPage();
	await page.goto(`${address}/shoots/${id}/line-up`);
	await goToMiddle(page);
	await page.waitForTimeout(3000);
	await browser.close();
}

/** Notes what the wall's worker reports. */
function noteReports(): void {
	const reports: WallReport[] = [];
	(window as unknown as { reports: WallReport[] }).reports = reports;
	window.Worker = class extends Worker {
		constructor(...args: ConstructorParameters<typeof Worker>) {
			super(...args);
			this.addEventListener('message', ({ data }: MessageEvent<WallReport>) => {
				if (data.kind === 'report') reports.push(data);
			});
		}
	};
}

async function measure(address: string, id: string, count: number, load: number): Promise<string> {
	const shoot = await readShoot(address, id);
	const hidden = shoot.devices.slice(count).map((device) => device.id);
	const browser = await openBrowser();
	const busy: Thread[] = [];
	try {
		const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
		await page.addInitScript(noteReports);
		const look = { key: `open-choir.wall.${id}`, hidden };
		await page.addInitScript(({ key, hidden }) => localStorage.setItem(key, JSON.stringify({ hidden })), look);
		await page.goto(`${address}/shoots/${id}/line-up`);
		await goToMiddle(page);
		await page.waitForTimeout(1000);
		const began = performance.now();
		await page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name: 'Call' }).click();
		const wall = page.getByTestId('wall');
		while (Number(await wall.getAttribute('data-shown').catch(() => 0)) < count) await page.waitForTimeout(20);
		const openedMs = performance.now() - began;
		await page.waitForTimeout(3000);
		for (let one = 0; one < load; one++) busy.push(new Thread('for (;;);', { eval: true }));
		await page.getByTestId('play').click();
		await page.waitForTimeout(3000);
		const memory = await browserBytes();
		await page.evaluate(() => void ((window as unknown as { reports: WallReport[] }).reports.length = 0));
		await page.waitForTimeout(1000 * PLAYED_SECONDS);
		const reports = await page.evaluate(() => (window as unknown as { reports: WallReport[] }).reports);
		const sum = (of: (report: WallReport) => number) => reports.reduce((all, one) => all + of(one), 0);
		const all = sum(({ exact, byOne, worse, stills }) => exact + byOne + worse + stills);
		const percent = (part: number) => `${((100 * part) / all).toFixed(1)} %`;
		const cells = [
			...[count, load],
			...[sum((one) => one.exact), sum((one) => one.byOne), sum((one) => one.worse), sum((one) => one.stills)].map(
				percent
			),
			`${reports.at(-1)?.every}`,
			`${(all / count / PLAYED_SECONDS).toFixed(0)} a second`,
			`${(openedMs / 1000).toFixed(2)} s`,
			`${(memory / 2 ** 20).toFixed(0)} MiB`
		];
		return `| ${cells.join(' | ')} |`;
	} finally {
		await Promise.all(busy.map((one) => one.terminate()));
		await browser.close();
	}
}

/** What all processes of Chromium take, shared pages counted once (proc_pid_smaps(5)). */
async function browserBytes(): Promise<number> {
	let kibibytes = 0;
	for (const pid of (await readdir('/proc')).filter((name) => /^\d+$/.test(name))) {
		const name = await readFile(`/proc/${pid}/comm`, 'utf8').catch(() => '');
		if (!name.startsWith('chrom')) continue;
		const rollup = await readFile(`/proc/${pid}/smaps_rollup`, 'utf8').catch(() => '');
		kibibytes += Number(/^Pss:\s+(\d+)/m.exec(rollup)?.[1] ?? 0);
	}
	return kibibytes * 1024;
}
