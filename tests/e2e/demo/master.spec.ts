import { expect, type Page, test } from '@playwright/test';
import type { Sources } from '../../../src/lib/contract/views';
import type { SourcesReport } from '../../../src/lib/core/master/report';
import type { Person } from '../../../src/lib/core/shoot/person';
import { FLICKS_PER_SECOND, flicksToSeconds } from '../../../src/lib/core/time/flicks';
import { address, demoShoot, goTo, playhead } from '../support/shoot';

/** Master in depth, on the demo shoot as the job left it: what is changed is undone. */
test.describe.configure({ mode: 'serial' });

let page: Page;
const faults: string[] = [];

test.beforeAll(async ({ browser }) => {
	page = await browser.newPage();
	page.on('pageerror', (error) => faults.push(error.message));
	await page.goto(`${address()}/shoots/${(await demoShoot()).id}/master`);
	await page.getByTestId('sets').waitFor({ timeout: 240_000 });
	await expect(page.getByTestId('measuring')).toBeHidden({ timeout: 240_000 });
});
test.afterAll(() => page.close());
test.afterEach(() => expect(faults).toEqual([]));

let known: readonly Person[] = [];

/** A person's identity, by name. */
const people = (name: string) => known.find((one) => one.name === name)!.id;

/** What was found of who speaks on the first line-up. */
async function foundSpeech(): Promise<SourcesReport['speech']> {
	return (await sources()).report!.speech;
}

async function sources(): Promise<Sources> {
	const shoot = await demoShoot();
	known = shoot.people;
	const query = `lineUp=${shoot.lineUps[0]!.id}`;
	const answer = await fetch(`${address()}/api/shoots/${shoot.id}/sources-report?${query}`);
	return (await answer.json()) as Sources;
}

/** Until what is known follows from what there is now. */
async function allCompared(): Promise<void> {
	await expect.poll(async () => (await sources()).isCurrent, { timeout: 120_000 }).toBe(true);
	await expect(page.getByTestId('measuring')).toBeHidden({ timeout: 120_000 });
}

test('by keys alone, from source to source and through who speaks', async () => {
	const hears = page.getByTestId('hears');
	await page.keyboard.press('ArrowDown');
	await expect(hears).toHaveText(/^You try: Recorder 1, Marit \+ Jonas \+ Odile/);
	await page.keyboard.press('ArrowDown');
	await expect(hears).toHaveText(/^You try: Recorder 2/);
	await page.keyboard.press('x');
	await expect(hears).toHaveText(/^You try: Recorder 1/);
	await page.keyboard.press('x');
	await expect(hears).toHaveText(/^You try: Recorder 2/);
	await page.keyboard.press('e');
	await expect(hears).toHaveText('You try: Recorder 2');
	await page.keyboard.press('e');
	// While it plays, a key is heard at once: its gains begin to move within 30 ms, and move within some more, not at a jump.
	await goTo(page, 60 * FLICKS_PER_SECOND);
	await page.keyboard.press(' ');
	await expect(page.getByTestId('meters')).toContainText(/−\d+\.\d LUFS/);
	const waits = await page.evaluate(async () => {
		const own = AudioParam.prototype.setTargetAtTime;
		const found: number[] = [];
		let pressed = 0;
		AudioParam.prototype.setTargetAtTime = function (value, start, constant) {
			if (pressed > 0) found.push(performance.now() - pressed);
			pressed = 0;
			return own.call(this, value, start, constant);
		};
		for (let time = 0; time < 9; time++) {
			await new Promise((resolve) => setTimeout(resolve, 150));
			pressed = performance.now();
			document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'x', bubbles: true, cancelable: true }));
		}
		await new Promise((resolve) => setTimeout(resolve, 150));
		AudioParam.prototype.setTargetAtTime = own;
		return found.sort((a, b) => a - b);
	});
	expect(waits).toHaveLength(9);
	expect(waits[4]).toBeLessThan(30);
	await page.keyboard.press(' ');
	await page.keyboard.press('m');
	await expect(hears).toHaveText(/^The audience hears: Recorder 1/);
	// The second person's passages.
	await page.keyboard.press('Home');
	await page.keyboard.press('p');
	await page.keyboard.press('>');
	const jonas = (await foundSpeech()).filter((one) => one.personId === people('Jonas'));
	expect(await playhead(page)).toBe(jonas[0]!.inFlicks);
	await page.keyboard.press('>');
	expect(await playhead(page)).toBe(jonas[1]!.inFlicks);
	const chosen = page.getByTestId('chosen-speech');
	await expect(chosen.getByRole('combobox', { name: 'Spoken by' })).toHaveValue(jonas[1]!.personId);
	await page.keyboard.press('Delete');
	await expect(chosen).toBeHidden();
	await expect(page.getByTestId('people-lanes')).toHaveAttribute(
		'data-passages',
		`${(await foundSpeech()).length - 1}`
	);
	await page.keyboard.press('Control+z');
	await expect(page.getByTestId('people-lanes')).toHaveAttribute('data-passages', `${(await foundSpeech()).length}`);
});

test('people are named, get microphones, and what they say is put right by hand', async () => {
	const list = page.getByTestId('people');
	await expect(list.getByTestId('person')).toHaveCount(3);
	await expect(list.getByTestId('person').first()).toContainText(/speaks .+, \d+%/);
	await page.getByRole('button', { name: 'Name of Odile: Odile' }).click();
	await page.getByRole('textbox', { name: 'Name of Odile' }).fill('Odile Blanc');
	await page.keyboard.press('Enter');
	await expect(list).toContainText('Odile Blanc');
	await page.getByRole('combobox', { name: 'Add a microphone of Odile Blanc' }).selectOption({ label: '1 Room' });
	const microphones = page.getByRole('list', { name: 'Microphones of Odile Blanc, closest first' });
	await expect(microphones.getByRole('listitem').nth(1)).toContainText('Room');
	await page.getByRole('button', { name: '1 Room is closer to Odile Blanc' }).click();
	await expect(microphones.getByRole('listitem').nth(0)).toContainText('Room');
	await page.getByRole('button', { name: 'Undo' }).click();
	await page.getByRole('button', { name: 'Undo' }).click();
	await expect(microphones.getByRole('listitem')).toHaveCount(2);
	await expect(microphones.getByRole('listitem').nth(0)).toContainText('Odile');
	await allCompared();
	// An edge of a passage is dragged; what was found stays as it was, and what was put right outlives a reload.
	const [first] = (await foundSpeech()).filter((one) => one.personId === people('Marit'));
	const edge = async () => {
		const lanes = (await page.getByTestId('people-lanes').boundingBox())!;
		const data = await page.getByTestId('score-lanes').evaluate((element) => ({ ...element.dataset }));
		const x = (flicks: number) => lanes.x + (flicks - Number(data['start'])) / Number(data['flicksPerPixel']);
		return { x: x(first!.inFlicks), y: lanes.y + 7, pixels: Number(data['flicksPerPixel']) };
	};
	await page.keyboard.press('0');
	const { x, y, pixels } = await edge();
	await page.mouse.move(x + 1, y);
	await page.mouse.down();
	await page.mouse.move(x - 11, y, { steps: 4 });
	await page.mouse.up();
	const chosen = page.getByTestId('chosen-speech');
	await expect(chosen).toContainText('by hand');
	const begins = Number(await chosen.getByRole('spinbutton', { name: 'from, in seconds' }).inputValue());
	const wanted = flicksToSeconds(first!.inFlicks - 11.5 * pixels);
	expect(Math.abs(begins - wanted)).toBeLessThan(2 * flicksToSeconds(pixels));
	await chosen.getByRole('combobox', { name: 'Spoken by' }).selectOption({ label: 'Jonas' });
	await expect(chosen.getByRole('combobox', { name: 'Spoken by' })).toHaveValue(people('Jonas'));
	const told = list.getByTestId('person').nth(1).getByTestId('spoke');
	const spoke = await told.innerText();
	await page.reload();
	await expect(told).toHaveText(spoke, { timeout: 60_000 });
	for (let step = 0; step < 2; step++) await page.getByRole('button', { name: 'Undo' }).click();
	await expect(told).not.toHaveText(spoke);
	await page.getByRole('button', { name: 'Undo' }).click();
	await expect(list).not.toContainText('Odile Blanc');
});
