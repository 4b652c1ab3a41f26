import { expect, type Page as Chromium, test } from '@playwright/test';
import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import puppeteer, { type Browser, type Page } from 'puppeteer-core';
import { installedPath, spawn } from '../../../scripts/outside-programs';
import { FLICKS_PER_SECOND } from '../../../src/lib/core/time/flicks';
import { PICTURES_A_SECOND, writeNumberedShoot } from '../support/numbered-shoot';
import { type RunningServer, startServer, waitFor } from '../support/server';
import { readShoot } from '../support/shoot';
import { readWall } from '../support/wall-codes';

/** The whole job in Debian's Firefox, which is driven by the standard WebDriver BiDi. */
let server: RunningServer;
let folder: string;
let outputs: ReturnType<typeof spawn>;
const SECONDS = 24;

test.beforeAll(async () => {
	test.setTimeout(300_000);
	folder = await mkdtemp(join(tmpdir(), 'open-choir-firefox-'));
	const media = join(folder, 'media', 'evening');
	const sound = ['-c:a', 'aac'];
	await writeNumberedShoot(media, {
		seconds: SECONDS,
		groupSeconds: 1,
		cameras: [
			{ path: 'camera-1/one.mp4', size: '640:360', sound },
			{ path: 'camera-2/two.mov', size: '640:360', sound }
		]
	});
	// An output for sound that nobody hears: Chromium brings one along, Firefox wants the system's.
	await mkdir(join(folder, 'run'));
	const modules = ['--load=module-null-sink', '--load=module-native-protocol-unix'];
	outputs = spawn('pulseaudio', ['-n', '--daemonize=no', '--exit-idle-time=-1', ...modules], {
		env: { ...process.env, HOME: folder, XDG_RUNTIME_DIR: join(folder, 'run') },
		stdio: 'ignore'
	});
	server = await startServer(join(folder, 'data'), ['--media', join(folder, 'media'), '--no-demo']);
});
test.afterAll(async () => {
	await server?.stop();
	outputs?.kill();
	await rm(folder, { recursive: true, force: true, maxRetries: 5 });
});

async function firefox(hasOutput: boolean): Promise<Browser> {
	const run = join(folder, hasOutput ? 'run' : 'run-without');
	await mkdir(run, { recursive: true });
	return puppeteer.launch({
		browser: 'firefox',
		executablePath: installedPath('/usr/bin/firefox-esr'),
		env: { ...process.env, HOME: folder, XDG_RUNTIME_DIR: run },
		extraPrefsFirefox: { 'media.autoplay.default': 0 },
		protocolTimeout: 120_000
	});
}

async function openPage(browser: Browser): Promise<{ readonly page: Page; readonly faults: readonly string[] }> {
	const page = await browser.newPage();
	page.setDefaultTimeout(60_000);
	const faults: string[] = [];
	page.on('pageerror', (error) => faults.push(`${error}`));
	await page.setViewport({ width: 1280, height: 800 });
	return { page, faults };
}

const byId = (testId: string) => `[data-testid="${testId}"]`;
const byName = (role: string, name: string) => `::-p-aria([name="${name}"][role="${role}"])`;

/** Where its middle lies, once it is seen and can be pressed. */
function middleOf(element: Element): { readonly x: number; readonly y: number } | undefined {
	element.scrollIntoView({ block: 'nearest', inline: 'nearest' });
	const { left, top, width, height } = element.getBoundingClientRect();
	const [x, y] = [left + width / 2, top + height / 2];
	const onTop = document.elementFromPoint(x, y);
	return onTop && (element.contains(onTop) || onTop.contains(element)) ? { x, y } : undefined;
}

/**
 * As soon as it is seen; what is drawn anew in that moment is looked for again. The driver's own click waits for the window to be
 * drawn, which a busy machine can keep back for longer than any sensible wait.
 */
async function click(page: Page, selector: string): Promise<void> {
	await expect(async () => {
		const element = await page.$(selector);
		const middle = await element?.evaluate(middleOf);
		expect(middle, `${selector} is seen`).toBeDefined();
		await page.mouse.click(middle!.x, middle!.y);
	}).toPass({ timeout: 90_000 });
}

async function textOf(page: Page, selector: string): Promise<string> {
	return page.$eval(selector, (element) => element.textContent ?? '').catch(() => '');
}

async function flicksOf(page: Page): Promise<number> {
	return page.$eval(byId('timecode'), (element) => Number(element.getAttribute('data-flicks')));
}

/** Pixels are read the same way, whoever drives the browser. */
function sameToRead(page: Page): Chromium {
	return page as unknown as Chromium;
}

test('gather, line up, prove, choose the master, call and hand off, in Firefox', async () => {
	test.setTimeout(400_000);
	const browser = await firefox(true);
	const { page, faults } = await openPage(browser);
	const stage = async (name: string) => {
		await click(page, `nav[aria-label="Stages"] ::-p-text(${name})`);
	};
	try {
		await page.goto(server.address);
		await click(page, byName('button', 'New shoot'));
		await click(page, `${byId('folders')} ::-p-text(${join(folder, 'media')})`);
		await click(page, `${byId('folders')} ::-p-text(evening)`);
		await click(page, byName('button', 'Gather this folder'));
		await page.locator(byId('device-1')).wait();
		const id = new URL(page.url()).pathname.split('/')[2]!;
		await waitFor(async () => (await readShoot(server.address, id)).clips.length === 3, 60_000);

		await stage('Line up');
		await click(page, byId('line-up'));
		await expect.poll(() => textOf(page, byId('verdict')), { timeout: 120_000 }).toContain('3 of 3 clips placed');

		await stage('Prove');
		await expect
			.poll(() => page.$eval(byId('waves'), (one) => one.getAttribute('data-whole')).catch(() => ''), {
				timeout: 60_000
			})
			.toBe('true');
		await page.evaluate(() => {
			const heard: number[] = [];
			(window as unknown as { heard: number[] }).heard = heard;
			const start = AudioBufferSourceNode.prototype.start;
			AudioBufferSourceNode.prototype.start = function (...when) {
				const loudest = this.buffer!.getChannelData(0).reduce((most, one) => Math.max(most, Math.abs(one)), 0);
				heard.push(loudest);
				start.apply(this, when);
			};
		});
		const before = await flicksOf(page);
		await click(page, byId('play'));
		await new Promise((resolve) => setTimeout(resolve, 4000));
		await click(page, byId('play'));
		const heard = await page.evaluate(() => (window as unknown as { heard: number[] }).heard);
		expect(Math.max(...heard)).toBeGreaterThan(0.01);
		const played = ((await flicksOf(page)) - before) / FLICKS_PER_SECOND;
		expect(played).toBeGreaterThan(1.5);
		expect(played).toBeLessThan(6);

		await stage('Master');
		await expect.poll(() => textOf(page, byId('hears'))).toContain('The audience hears');

		await stage('Call');
		await page.locator(byId('on-air')).wait();
		await expect
			.poll(() => page.$eval(byId('wall'), (one) => one.getAttribute('data-behind')), { timeout: 60_000 })
			.toBe('0');
		const shoot = await readShoot(server.address, id);
		const expected = (badge: string, flicks: number) => {
			const device = shoot.devices.find((one) => one.badge === badge)!;
			const clip = shoot.clips.find((one) => one.deviceId === device.id)!;
			const { startFlicks, ratePpm } = clip.placement!;
			const media = (flicks - startFlicks) / (1 + ratePpm * 1e-6) - clip.parts[0]!.picture!.startFlicks;
			return Math.floor((media / FLICKS_PER_SECOND) * PICTURES_A_SECOND + 1e-6);
		};
		for (let step = 0; step < 4; step++) {
			await page.keyboard.press('ArrowRight');
			await expect(async () => {
				const readings = await readWall(sameToRead(page), 1, 20);
				expect(readings.map(({ tile, code }) => `${tile} ${code?.picture}`)).toEqual(
					readings.map(({ tile, flicks }) => `${tile} ${expected(tile, flicks)}`)
				);
			}).toPass({ timeout: 20_000 });
		}
		await page.keyboard.press('2');
		await expect.poll(() => textOf(page, byId('on-air'))).toContain('Camera 2');

		await stage('Hand off');
		await click(page, byId('hand-off-movie'));
		await page.waitForSelector('[data-testid=hand-off][data-kind=movie]', { timeout: 120_000 });
		expect(faults).toEqual([]);
	} finally {
		await browser.close();
	}
});

test('an output for sound that does not start is said, and the page goes on', async () => {
	test.setTimeout(300_000);
	const browser = await firefox(false);
	const { page } = await openPage(browser);
	try {
		await page.goto(server.address);
		await click(page, byName('link', 'evening'));
		await click(page, byId('play'));
		await page.waitForSelector('::-p-text(The sound output does not start.)', { timeout: 20_000 });
		await click(page, 'nav[aria-label="Stages"] ::-p-text(Gather)');
		await page.locator(byId('device-1')).wait();
	} finally {
		await browser.close();
	}
});
