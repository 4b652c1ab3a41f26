import { expect, type Page, test } from '@playwright/test';
import { compile } from '../../../src/lib/core/program/compile';
import { factorAt } from '../../../src/lib/core/program/gain-curve';
import { heardSpeech } from '../../../src/lib/core/program/heard-speech';
import type { Sources } from '../../../src/lib/contract/views';
import { FLICKS_PER_SECOND, secondsToFlicks } from '../../../src/lib/core/time/flicks';
import { address, demoShoot, goTo } from '../support/shoot';

/** The mix in Master, on the demo shoot as the job left it: what is changed is undone. */
test.describe.configure({ mode: 'serial' });

let page: Page;
let undos = 0;
const faults: string[] = [];

test.beforeAll(async ({ browser }) => {
	page = await browser.newPage();
	page.on('pageerror', (error) => faults.push(error.message));
	await page.addInitScript(() => {
		const heard: number[][] = [];
		(window as unknown as { heard: number[][] }).heard = heard;
		const start = AudioBufferSourceNode.prototype.start;
		AudioBufferSourceNode.prototype.start = function (...when) {
			heard.push(
				Array.from({ length: this.buffer!.numberOfChannels }, (_, channel) =>
					this.buffer!.getChannelData(channel).reduce((most, one) => Math.max(most, Math.abs(one)), 0)
				)
			);
			start.apply(this, when);
		};
	});
	await page.goto(`${address()}/shoots/${(await demoShoot()).id}/master`);
	await page.getByTestId('sets').waitFor({ timeout: 240_000 });
	await expect(page.getByTestId('measuring')).toBeHidden({ timeout: 240_000 });
});
test.afterAll(() => page.close());
test.afterEach(() => expect(faults).toEqual([]));

/** Waits for what a change did to the shoot. */
async function changed(does: () => Promise<unknown>, lineUp: Record<string, unknown>): Promise<void> {
	await does();
	undos++;
	await expect.poll(async () => (await demoShoot()).lineUps[0]).toMatchObject(lineUp);
}

/** What the movie would be made of. */
async function plan() {
	const shoot = await demoShoot();
	const [lineUp] = shoot.lineUps;
	const answer = await fetch(`${address()}/api/shoots/${shoot.id}/sources-report?lineUp=${lineUp!.id}`);
	const { report } = (await answer.json()) as Sources;
	const heard = heardSpeech(shoot.people, report, lineUp!.corrections);
	const { sounds } = compile(shoot, shoot.programs[0]!, heard);
	return {
		sounds,
		speech: heard.speech,
		closest: new Map(shoot.people.map((one) => [one.id, one.channels[0]!.channel]))
	};
}

test('polarity, low cut and opening by who speaks are set, seen in the plan, and kept', async () => {
	await page.getByRole('checkbox', { name: 'Turn the polarity of Jonas' }).focus();
	await changed(() => page.keyboard.press('Space'), { master: [{}, { isInverted: true }, {}] });
	await changed(() => page.getByRole('combobox', { name: 'Low cut of Odile' }).selectOption('80'), {
		master: [{}, {}, { lowCutHz: 80 }]
	});
	await page.getByRole('checkbox', { name: 'open by who speaks, others' }).focus();
	await changed(() => page.keyboard.press('Space'), { mix: { opensBySpeech: true, closedDb: -15 } });
	await changed(() => page.getByRole('combobox', { name: 'By how much others are turned down' }).selectOption('-20'), {
		mix: { opensBySpeech: true, closedDb: -20 }
	});
	const { sounds, speech, closest } = await plan();
	const channels = sounds[0]!.channels;
	expect(channels.map((one) => [one.channel, one.isInverted, one.lowCutHz])).toEqual([
		[0, false, 0],
		[1, true, 0],
		[2, false, 80]
	]);
	// In the middle of each long passage in which one speaks alone his microphone is open, and the others are down by 20 dB.
	const alone = speech.filter(
		(one) =>
			one.outFlicks - one.inFlicks > secondsToFlicks(3) &&
			speech.every((other) => other === one || other.inFlicks > one.outFlicks || other.outFlicks < one.inFlicks)
	);
	expect(alone.length).toBeGreaterThan(8);
	for (const { personId, inFlicks, outFlicks } of alone)
		expect(channels.map((one) => factorAt(one.curve!, (inFlicks + outFlicks) / 2).toFixed(6))).toEqual(
			channels.map(({ channel }) => (channel === closest.get(personId) ? '1.000000' : '0.100000'))
		);
	await page.reload();
	await expect(page.getByRole('checkbox', { name: 'Turn the polarity of Jonas' })).toBeChecked({ timeout: 60_000 });
	await expect(page.getByRole('checkbox', { name: 'open by who speaks, others' })).toBeChecked();
	await changed(() => page.getByRole('button', { name: 'Even the voices' }).click(), {
		master: [{ isInverted: false }, { isInverted: true }, { lowCutHz: 80 }]
	});
});

test('a room microphone that hears all later comes to their own with one click, and goes back', async () => {
	await changed(() => page.getByRole('checkbox', { name: 'Recorder 1, Room: in the master' }).click(), {
		master: [{}, {}, {}, { channel: 3 }]
	});
	const apart = page.getByTestId('apart');
	await expect(apart).toContainText(/Room hears .*Marit.* [5-8]\.\d ms later/, { timeout: 30_000 });
	await page.getByRole('button', { name: 'Bring them together' }).click();
	undos++;
	await expect(apart).toBeHidden();
	await expect(page.getByTestId('shift')).toHaveText(/^[5-8]\.\d ms\s+earlier$/);
	const shift = (await demoShoot()).lineUps[0]!.master[3]!.shiftFlicks;
	expect(shift / FLICKS_PER_SECOND).toBeGreaterThan(-0.009);
	expect(shift / FLICKS_PER_SECOND).toBeLessThan(-0.005);
	await changed(() => page.getByRole('button', { name: 'Put Room back in its place' }).click(), {
		master: [{}, {}, {}, { shiftFlicks: 0 }]
	});
	await expect(apart).toBeVisible();
});

test('where the master has gaps the next in order is heard, in the order that an editor gives; without, silence', async () => {
	const roaming = page.getByTestId('source').filter({ hasText: 'Camera D' });
	const shoot = await demoShoot();
	const camera = shoot.devices.find((device) => device.badge === 'D')!;
	const recorder = page.getByTestId('source').filter({ hasText: 'Recorder 1' });
	for (let left = shoot.lineUps[0]!.master.length - 1; left >= 0; left--) {
		await changed(() => recorder.locator('input:checked').first().click(), {});
		await expect(page.getByTestId('master-channel')).toHaveCount(left);
	}
	await changed(() => roaming.getByRole('checkbox').click(), { master: [{ deviceId: camera.id }] });
	const turns = page.getByTestId('sound-turn');
	await expect(turns.and(page.locator('[data-turn="1"]')).first()).toBeVisible();
	await expect(page.getByTestId('gaps')).toContainText(/gaps are covered\.$/);
	const hears = page.getByTestId('hears');
	await goTo(page, 60 * FLICKS_PER_SECOND);
	await expect(hears).toHaveText(/^The audience hears/);
	const first = turns.and(page.locator('[data-turn="1"]')).first();
	await first.focus();
	await page.keyboard.press('Enter');
	await expect(hears).toContainText('in a gap of the master: Recorder 1');
	// The recorder is heard where the camera does not run: sound comes in the page, from the mix.
	await page.evaluate(() => (window as unknown as { heard: number[][] }).heard.splice(0));
	await page.getByTestId('play').click();
	await expect
		.poll(() => page.evaluate(() => Math.max(0, ...(window as unknown as { heard: number[][] }).heard.flat())))
		.toBeGreaterThan(0.005);
	await page.getByTestId('play').click();
	const standIns = page.getByTestId('stand-in');
	const second = await standIns.nth(1).locator('.badge').innerText();
	await standIns.nth(1).getByRole('button', { name: 'before the one above' }).focus();
	await page.keyboard.press('Enter');
	undos++;
	await expect(standIns.first().locator('.badge')).toHaveText(second);
	expect((await demoShoot()).lineUps[0]!.standIns.length).toBeGreaterThan(3);
	await changed(() => page.getByRole('checkbox', { name: 'cover them' }).click(), { mix: { coversGaps: false } });
	await page
		.getByTestId('gaps')
		.getByRole('button', { name: /silent/ })
		.click();
	await expect(hears).toContainText('hears nothing here');
	expect((await plan()).sounds.every((one) => one.run.deviceId === camera.id)).toBe(true);
});

test('all of it is undone', async () => {
	for (; undos > 0; undos--) {
		const { revision } = await demoShoot();
		await page.getByRole('button', { name: 'Undo' }).click();
		await expect.poll(async () => (await demoShoot()).revision).toBeGreaterThan(revision);
	}
	const [lineUp] = (await demoShoot()).lineUps;
	expect(lineUp!.mix).toEqual({ opensBySpeech: false, closedDb: -15, coversGaps: true });
	expect(lineUp!.standIns).toEqual([]);
	expect(lineUp!.master).toHaveLength(3);
	expect(lineUp!.master.every((one) => one.gainDb === 0 && !one.isInverted && one.lowCutHz === 0)).toBe(true);
});
