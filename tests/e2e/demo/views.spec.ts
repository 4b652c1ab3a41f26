import AxeBuilder from '@axe-core/playwright';
import { expect, type Page, test } from '@playwright/test';
import { address, demoShoot } from '../support/shoot';

/** Every view of the lined-up demo, as it is for people who do not use a mouse, or see and move differently. */
interface View {
	readonly name: string;
	readonly path: string;
	/** Opens what is folded away. */
	readonly open?: (page: Page) => Promise<unknown>;
}

const STAGES = ['gather', 'line-up', 'prove', 'master', 'call', 'hand-off'];
const button = (name: string | RegExp) => (page: Page) => page.getByRole('button', { name }).first().click();

async function chooseAndName(page: Page): Promise<void> {
	await page
		.getByRole('checkbox', { name: /^Choose all clips of/ })
		.first()
		.check();
	await page.getByRole('button', { name: 'Name…' }).click();
}

async function views(): Promise<readonly View[]> {
	const { id, lineUps } = await demoShoot();
	const at = (stage: string) => `/shoots/${id}/${stage}`;
	return [
		{ name: 'the shoots', path: '/' },
		{ name: 'a new shoot', path: '/', open: button('New shoot') },
		...STAGES.map((stage) => ({ name: stage, path: at(stage) })),
		{ name: 'a clip in Gather', path: at('gather'), open: button('FERRY_T01_0001') },
		...['Drift', 'Points', 'Air', 'Changes'].map((tab) => ({
			name: `${tab} in Prove`,
			path: at('prove'),
			open: (page: Page) => page.getByRole('tab', { name: tab, exact: true }).click({ timeout: 5000 })
		})),
		{ name: 'the report', path: `/reports/${id}?lineUp=${lineUps[0]!.id}` },
		{ name: 'adding a folder', path: at('gather'), open: button('Add a folder') },
		{ name: 'a sound report', path: at('gather'), open: button('Take in a sound report') },
		{ name: 'naming by a pattern', path: at('gather'), open: chooseAndName },
		{ name: 'the menu of a lane', path: at('prove'), open: button(/^Lane of/) },
		{ name: 'the jobs', path: at('gather'), open: button('Running jobs') },
		{ name: 'the sheet of keys', path: at('call'), open: (page) => page.keyboard.press('?') },
		{ name: 'going to a time', path: at('call'), open: (page) => page.keyboard.press('g') }
	];
}

async function show(page: Page, { path, open }: View): Promise<void> {
	await page.goto(address() + path);
	await page.getByRole('main').waitFor();
	await expect(page.getByText('Opening the shoot…')).toHaveCount(0);
	await page.waitForTimeout(500);
	await open?.(page);
}

test('every view: axe-core finds nothing in both themes, the keyboard reaches all, nothing moves where that is not wanted', async ({
	page
}) => {
	await page.emulateMedia({ reducedMotion: 'reduce' });
	const findings: string[] = [];
	for (const view of await views()) {
		await show(page, view);
		const found = [
			...(await page.evaluate(movements)),
			...(await page.evaluate(() => document.documentElement.classList.remove('dark')), await analyse(page)),
			...(await page.evaluate(() => document.documentElement.classList.add('dark')),
			await analyse(page, 'color-contrast')),
			...(await walk(page))
		];
		findings.push(...found.map((one) => `${view.name}: ${one}`));
	}
	expect(findings).toEqual([]);
});

/** @param rule one alone, where all else was looked at before */
async function analyse(page: Page, rule?: string): Promise<readonly string[]> {
	const axe = new AxeBuilder({ page });
	const { violations, passes } = await (rule ? axe.withRules(rule) : axe).analyze();
	expect(passes.length).toBeGreaterThan(rule ? 0 : 15);
	return violations.flatMap(({ id, nodes }) =>
		nodes.map(
			({ html, failureSummary }) => `${id}: ${html.slice(0, 160)} ${failureSummary?.split('\n')[1]?.slice(0, 200)}`
		)
	);
}

const CONTROLS =
	'a[href], button, input, select, textarea, summary, [tabindex], [role="button"], [role="slider"], [role="separator"][tabindex]';

/** Asked in between whether all has been reached: an answer takes longer than a key. */
const PRESSES_AT_A_TIME = 20;

/** Goes through a view with Tab. @returns controls that are never reached, or do not show that they are */
async function walk(page: Page): Promise<readonly string[]> {
	const count = await page.evaluate(markControls, CONTROLS);
	expect(count).toBeGreaterThan(0);
	for (let presses = 0; presses < count + PRESSES_AT_A_TIME; presses += PRESSES_AT_A_TIME) {
		for (let press = 0; press < PRESSES_AT_A_TIME; press++) await page.keyboard.press('Tab');
		if ((await page.evaluate(neverReached)).length === 0) break;
	}
	const missed = (await page.evaluate(neverReached)).map((one) => `never reached: ${one}`);
	return [...missed, ...(await page.evaluate(() => (window as unknown as { faint: string[] }).faint))];
}

/** Marks what can be worked. Of a group of tabs or of a choice of one, the keyboard reaches one and arrows the others. */
function markControls(selector: string): number {
	const modal = document.querySelector('dialog[open]');
	let count = 0;
	for (const one of (modal ?? document).querySelectorAll<HTMLInputElement>(selector)) {
		const isRoving = one.matches('[role="tab"][tabindex="-1"], [role="menuitem"], [role="option"]');
		const isOther = one.type === 'radio' && !one.checked;
		const isNone = one.matches(':disabled, [tabindex="-1"]:not([role]), [aria-hidden="true"] *, [inert] *');
		if (isRoving || isOther || isNone || !one.checkVisibility({ visibilityProperty: true, opacityProperty: true }))
			continue;
		one.dataset['walk'] = 'open';
		count++;
	}
	const faint: string[] = ((window as unknown as { faint: string[] }).faint = []);
	document.addEventListener('focusin', ({ target }) => {
		const one = target as HTMLElement;
		one.dataset['walk'] = 'done';
		const { outlineStyle, outlineWidth, boxShadow } = getComputedStyle(one);
		const isOutlined = outlineStyle !== 'none' && parseFloat(outlineWidth) >= 1;
		if (!isOutlined && boxShadow === 'none') faint.push(`no visible focus: ${one.outerHTML.slice(0, 140)}`);
	});
	(document.activeElement as HTMLElement | null)?.blur();
	return count;
}

function neverReached(): readonly string[] {
	return [...document.querySelectorAll<HTMLElement>('[data-walk="open"]')]
		.filter((one) => one.isConnected && one.checkVisibility())
		.map((one) => one.outerHTML.slice(0, 160));
}

/** What moves by itself during ten pictures. */
async function movements(): Promise<readonly string[]> {
	const seen = new Set<string>();
	for (let look = 0; look < 10; look++) {
		for (const { effect } of document.getAnimations())
			if (Number(effect?.getComputedTiming().activeDuration ?? 0) > 1)
				seen.add(`it moves: ${(effect as KeyframeEffect).target?.outerHTML.slice(0, 120)}`);
		await new Promise(requestAnimationFrame);
	}
	return [...seen];
}
