import { expect, type Locator, type Page, test } from '@playwright/test';
import { DEVICES } from '../../../demo/scene';
import { placedClips } from '../../../src/lib/core/shoot/lookup';
import { toTimeline } from '../../../src/lib/core/shoot/placement';
import {
	FLICKS_PER_SECOND,
	flicksToSeconds,
	secondsToFlicks,
	videoFrameToFlicks
} from '../../../src/lib/core/time/flicks';
import { address, demoShoot, goTo, goToStage, placementOf, playhead } from '../support/shoot';
import { waitFor } from '../support/server';
import { expectedCode, readWall } from '../support/wall-codes';

/** The six stages on the demo shoot, by mouse and keyboard, in the order of the work; each step builds on the last. */
test.describe.configure({ mode: 'serial' });

let page: Page;
const faults: string[] = [];

test.beforeAll(async ({ browser }) => {
	page = await browser.newPage();
	page.on('pageerror', (error) => faults.push(error.message));
	await page.goto(`${address()}/shoots/${(await demoShoot()).id}/gather`);
});
test.afterAll(() => page.close());
test.afterEach(() => expect(faults).toEqual([]));

test('Gather: the demo shoot lists its devices and clips', async () => {
	await page.goto(address());
	await page.getByRole('link', { name: 'An evening about the wooden ferry', exact: true }).click();
	const table = page.getByTestId('clips');
	await expect(table.locator('[data-testid^="device-"]')).toHaveCount(8);
	await expect(page.getByTestId('device-1')).toContainText('Recorder 1');
	await table.getByRole('button', { name: 'FERRY_T01_0001' }).click();
	const selected = page.getByRole('region', { name: 'Selected clip' });
	await expect(selected).toContainText('Marit');
	await expect(selected).toContainText('FERRY_T01_0002.WAV');
	await expect(selected).toContainText('235.000 s');
});

test('Gather: names and badges are changed, and changed back', async () => {
	await page.getByRole('button', { name: 'Name of device A: Camera A' }).click();
	await page.getByRole('textbox', { name: 'Name of device A' }).fill('Wide');
	await page.keyboard.press('Enter');
	await expect(page.getByTestId('device-A')).toContainText('Wide');
	await page.getByRole('button', { name: 'Badge of Camera B: B' }).click();
	await page.getByRole('textbox', { name: 'Badge of Camera B' }).fill('1');
	await page.keyboard.press('Enter');
	await expect(page.getByRole('alert')).toContainText('belongs to another device');
	await page.getByRole('button', { name: 'Close' }).click();
	await page.getByRole('button', { name: 'Undo' }).click();
	await expect(page.getByTestId('device-A')).toContainText('Camera A');
	await page.getByRole('button', { name: 'Redo' }).click();
	await expect(page.getByTestId('device-A')).toContainText('Wide');
});

test('Line up: one button; a reload in the middle loses nothing', async () => {
	await goToStage(page, 'Line up', 'line-up');
	await page.getByTestId('line-up').click();
	await expect(page.getByTestId('line-up-progress')).toContainText('%');
	await page.reload();
	await expect(page.getByTestId('verdict')).toContainText('12 of 14 clips placed', { timeout: 400_000 });
	const strays = page.getByTestId('stray');
	await expect(strays).toHaveCount(2);
	await expect(page.locator('[data-testid=stray][data-clip="B001_C000"]')).toHaveAttribute(
		'data-reason',
		'no common sound with anything'
	);
	await expect(page.locator('[data-testid=stray][data-clip="gallery"]')).toHaveAttribute(
		'data-reason',
		'no sound stream'
	);
	await expect(page.getByTestId('placement')).toHaveCount(12);
	await expect(page.getByTestId('shelf')).toContainText('gallery: no sound stream');
});

test('Prove: waveforms from the whole shoot to single samples', async () => {
	await goToStage(page, 'Prove', 'prove');
	await waitForWaveforms();
	const lanes = page.getByTestId('score-lanes').locator('canvas');
	const inked = () =>
		lanes.evaluate((canvas: HTMLCanvasElement) => {
			const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
			let count = 0;
			// Hues of the devices are saturated; paper and lines are not.
			for (let i = 0; i < data.length; i += 4)
				if (
					data[i + 3]! > 0 &&
					Math.max(data[i]!, data[i + 1]!, data[i + 2]!) - Math.min(data[i]!, data[i + 1]!, data[i + 2]!) > 60
				)
					count++;
			return count;
		});
	await expect.poll(inked).toBeGreaterThan(8000);
	for (let k = 0; k < 24; k++) await page.keyboard.press('+');
	await expect.poll(inked).toBeGreaterThan(100);
	await expect(page.getByTestId('score-lanes')).toContainText(' s');
	await page.keyboard.press('0');
	await expect.poll(inked).toBeGreaterThan(8000);
});

test('Prove: jumps to the clap, plays lanes, mutes and solos', async () => {
	await page.keyboard.press('Home');
	await page.getByTestId('next-sharp-sound').click();
	const clapSeconds = 6 - DEVICES.find((one) => one.folder === 'recorder-1')!.clips[0]!.startSeconds;
	// The clap is heard at the table some milliseconds later.
	expect(Math.abs(flicksToSeconds(await playhead(page)) - clapSeconds)).toBeLessThan(0.03);
	await page.getByRole('button', { name: 'Hear only Wide' }).click();
	await expect(page.getByTestId('hears')).toHaveText('You hear lanes A');
	await page.getByRole('button', { name: 'Hear only Recorder 2' }).click();
	await expect(page.getByTestId('hears')).toHaveText('You hear lanes A, 2');
	const before = await playhead(page);
	await page.keyboard.press(' ');
	await expect.poll(async () => (await playhead(page)) - before).toBeGreaterThan(FLICKS_PER_SECOND);
	await page.keyboard.press(' ');
	await page.getByRole('button', { name: 'Hear only Wide' }).click();
	await page.getByRole('button', { name: 'Hear only Recorder 2' }).click();
	await page.getByRole('button', { name: 'Mute Camera C' }).click();
	await expect(page.getByTestId('hears')).not.toContainText('C');
	await page.getByRole('button', { name: 'Mute Camera C' }).click();
	await page.getByRole('button', { name: 'Hear the master' }).click();
	await expect(page.getByTestId('hears')).toContainText('The audience hears: Recorder 1');
});

test('Prove: nudges by frame and by sample, types a start, undoes all of it', async () => {
	const start = placementOf(await demoShoot(), 'CLIP0042').startFlicks;
	const now = async () => placementOf(await demoShoot(), 'CLIP0042').startFlicks;
	await page.getByTestId('lane-C').waitFor();
	const laneC = (await page.getByTestId('lane-C').boundingBox())!;
	await page.mouse.click(700, laneC.y + laneC.height / 2);
	await expect(page.getByRole('region', { name: 'Repairs' })).toContainText('CLIP0042');
	await page.keyboard.press(']');
	await expect.poll(now).toBe(start + videoFrameToFlicks(1, { num: 25, den: 1 }));
	await page.keyboard.press('{');
	await expect.poll(now).toBe(start + FLICKS_PER_SECOND / 25 - FLICKS_PER_SECOND / 48_000);
	await page.getByRole('button', { name: '−10 frames' }).click();
	await expect.poll(now).toBe(start - (9 * FLICKS_PER_SECOND) / 25 - FLICKS_PER_SECOND / 48_000);
	await page.getByTestId('clip-start').fill('3.5');
	await page.getByRole('button', { name: 'Set', exact: true }).click();
	await expect.poll(now).toBe(secondsToFlicks(3.5));
	for (let k = 0; k < 4; k++) await page.keyboard.press('Control+z');
	await expect.poll(now).toBe(start);
	await page.keyboard.press('Control+Shift+z');
	await expect.poll(now).toBe(start + FLICKS_PER_SECOND / 25);
	await page.keyboard.press('Control+z');
	await expect.poll(now).toBe(start);
});

test('Prove: camera E, which has no sound, is placed by a sync point in each of two clips', async () => {
	const clap = 230.5;
	const cameraE = DEVICES.find((one) => one.folder === 'camera-e')!.clips[0]!;
	await page
		.getByTestId('shelf')
		.getByRole('link', { name: /gallery/ })
		.click();
	const viewer = page.getByTestId('stray-viewer');
	// The picture in which the hands meet, at 23.976 a second.
	const picture = Math.round(((clap - cameraE.startSeconds) * 24000) / 1001);
	await viewer.getByTestId('stray-slider').fill(`${picture - 1}`);
	await viewer.getByTestId('stray-next').click();
	await expect(viewer.getByTestId('stray-picture')).toContainText(`picture ${picture}`);
	await viewer.getByTestId('stray-mark').click();
	await expect(page.getByTestId('sync-points').getByRole('listitem')).toHaveCount(1);
	await page.getByRole('button', { name: /^Tail/ }).click();
	// The first clip that runs there: camera A's. The playhead stays.
	await page.keyboard.press('ArrowDown');
	await expect(page.getByTestId('mark-here')).toHaveText('Mark in A');
	await page.getByTestId('mark-here').click();
	await page.getByTestId('place-by-point').click();
	await expect(page.getByTestId('lane-E')).toBeVisible();
	const placed = (await demoShoot()).clips.find((clip) => clip.name === 'gallery')!.placement!;
	const reference = DEVICES.find((one) => one.folder === 'recorder-1')!.clips[0]!.startSeconds;
	// To a picture of camera E, and the way of the clap through the air.
	expect(Math.abs(flicksToSeconds(placed.startFlicks) - (cameraE.startSeconds - reference))).toBeLessThan(0.05);
	expect(placed.method).toBe('sync point');
});

test('Master: sources are ranked with reasons, tried at the same moment, and chosen', async () => {
	await goToStage(page, 'Master', 'master');
	const sets = page.getByTestId('sets').getByRole('row');
	await expect(sets.nth(1)).toContainText('Marit + Jonas + Odile', { timeout: 240_000 });
	await expect(sets.nth(1)).toContainText('proposed');
	await expect(sets.nth(1)).toContainText(/Speech \d+ dB over noise, room tail \d+ dB under speech/);
	// The close set stands before all single sources; each source says what speaks for it and against.
	const points = async (row: Locator) => Number(await row.locator('td').nth(2).innerText());
	const sources = page.getByTestId('source');
	await expect(sources).toHaveCount(11);
	expect(await points(sets.nth(1))).toBeGreaterThan(await points(sources.first()));
	await goTo(page, 60 * FLICKS_PER_SECOND);
	await page.keyboard.press(' ');
	await page.getByRole('button', { name: 'Try Recorder 2: channel 1 + channel 2, together' }).click();
	await expect(page.getByTestId('hears')).toHaveText(/^You try: Recorder 2, \+\d+\.\d dB to be as loud$/);
	const before = await playhead(page);
	await page.getByRole('button', { name: 'Try Wide, channel 1' }).click();
	await expect(page.getByTestId('hears')).toHaveText(/^You try: Wide/);
	await page.getByRole('checkbox', { name: 'as loud as the master' }).uncheck();
	await expect(page.getByTestId('hears')).toHaveText('You try: Wide');
	await page.getByRole('checkbox', { name: 'as loud as the master' }).check();
	const after = await playhead(page);
	expect(after).toBeGreaterThanOrEqual(before);
	expect(after - before).toBeLessThan(3 * FLICKS_PER_SECOND);
	await expect(page.getByTestId('meters')).toContainText(/−\d+\.\d LUFS/);
	await expect(page.getByTestId('meters')).toContainText(/−\d+\.\d dBTP/);
	await page.getByRole('button', { name: 'Back to the master' }).click();
	await page.keyboard.press(' ');
	await page.getByRole('checkbox', { name: 'Recorder 1, Room: in the master' }).check();
	await expect(page.getByTestId('master').getByRole('listitem')).toHaveCount(4);
	await page.getByRole('checkbox', { name: 'Recorder 1, Room: in the master' }).uncheck();
	await expect(page.getByTestId('hears')).toHaveText('The audience hears: Recorder 1, Marit + Jonas + Odile');
	await page.getByRole('button', { name: 'Make Recorder 2: channel 1 + channel 2 the master' }).click();
	await expect(page.getByTestId('hears')).toHaveText('The audience hears: Recorder 2, channel 1 + channel 2');
	await page.getByRole('button', { name: 'Undo' }).click();
	await expect(page.getByTestId('hears')).toHaveText('The audience hears: Recorder 1, Marit + Jonas + Odile');
	// A fault is gone to where it lies.
	const clipped = sources.filter({ hasText: 'Jonas' }).getByRole('button', { name: /^clipped in/ });
	await page.keyboard.press('Home');
	await clipped.click();
	expect(await playhead(page)).toBeGreaterThan(10 * FLICKS_PER_SECOND);
});

test('Call: frame steps are exact on every angle', async () => {
	await goToStage(page, 'Call', 'call');
	const shoot = await demoShoot();
	await page.keyboard.press('Home');
	// In the middle of the roaming camera's longest clip all five angles record.
	const roaming = placementOf(shoot, '00022');
	await goTo(page, roaming.startFlicks + 2 * FLICKS_PER_SECOND);
	// Until there are pieces of all of them, key pictures stand in.
	await expect(page.getByTestId('wall')).toHaveAttribute('data-behind', '0', { timeout: 60_000 });
	for (let step = 0; step < 24; step++) {
		await page.keyboard.press(step % 4 === 3 ? 'Shift+ArrowRight' : 'ArrowRight');
		await expect(async () => {
			const readings = await readWall(page, 1, 20);
			expect(readings).toHaveLength(5);
			for (const { tile, code, flicks } of readings)
				expect(code, `angle ${tile} at step ${step}`).toEqual(expectedCode(shoot, tile, flicks));
		}).toPass({ timeout: 20_000, intervals: [50] });
	}
});

test('Call: angles are called by digits while playing and by clicks standing still', async () => {
	const shoot = await demoShoot();
	const { inFlicks } = shoot.programs[0]!;
	await goTo(page, inFlicks);
	await page.keyboard.press(' ');
	for (const digit of ['2', '3', '5', '1']) {
		await page.waitForTimeout(1800);
		await page.keyboard.press(digit);
		await expect(page.getByTestId('on-air')).toContainText(
			{ 1: 'Wide', 2: 'Camera B', 3: 'Camera C', 5: 'Camera E' }[Number(digit)]!
		);
	}
	await page.keyboard.press(' ');
	await goTo(page, inFlicks + 30 * FLICKS_PER_SECOND);
	await page.getByRole('button', { name: 'Call B, Camera B' }).click();
	await goTo(page, inFlicks + 50 * FLICKS_PER_SECOND);
	await page.getByRole('button', { name: 'Call C, Camera C' }).click();
	await goTo(page, placementOf(shoot, '00020').startFlicks + 3 * FLICKS_PER_SECOND);
	await page.keyboard.press('4');
	await goTo(page, placementOf(shoot, '00020').startFlicks + 12 * FLICKS_PER_SECOND);
	await page.keyboard.press('1');
	await expect(page.getByTestId('shot')).toHaveCount(9);
	const angles = await page
		.getByTestId('shot')
		.evaluateAll((all) => all.map((one) => one.getAttribute('data-angle')).join(' '));
	expect(angles).toBe('A B C E A B C D A');
});

test('Call: a shot changes its angle, a call is moved by frame and by dragging, another dropped; a reload keeps undo', async () => {
	const shots = page.getByTestId('shot');
	const ins = () => shots.evaluateAll((all) => all.map((one) => Number(one.getAttribute('data-in'))));
	const before = await ins();
	await shots.nth(6).click();
	await page.getByTestId('shot-angle').selectOption({ label: 'E Camera E' });
	await expect(shots.nth(6)).toHaveAttribute('data-angle', 'E');
	await page.keyboard.press(']');
	await page.keyboard.press(']');
	await page.keyboard.press(']');
	await expect.poll(async () => (await ins())[6]).toBe(before[6]! + (3 * FLICKS_PER_SECOND) / 25);
	const handle = (await page.getByTestId('call-handle').nth(4).boundingBox())!;
	await page.mouse.move(handle.x + 4, handle.y + 10);
	await page.mouse.down();
	await page.mouse.move(handle.x + 24, handle.y + 10, { steps: 4 });
	await page.mouse.up();
	await expect.poll(async () => (await ins())[5]! - before[5]!).toBeGreaterThan(FLICKS_PER_SECOND);
	await shots.nth(8).click();
	await page.keyboard.press('Delete');
	await expect(shots).toHaveCount(8);
	const timecode = page.getByTestId('timecode');
	const leftAt = (await timecode.getAttribute('data-flicks'))!;
	await page.reload();
	await expect(shots).toHaveCount(8);
	await expect(timecode).toHaveAttribute('data-flicks', leftAt);
	await page.getByTestId('jobs').click();
	await expect(page.locator('[popover]').getByText('Lining up')).toBeVisible();
	await page.keyboard.press('Escape');
	await page.keyboard.press('Control+z');
	await expect(shots).toHaveCount(9);
	await page.keyboard.press('Control+z');
	await expect.poll(async () => (await ins())[5]).toBe(before[5]);
	await page.keyboard.press('Control+Shift+z');
	await expect.poll(async () => (await ins())[5]! - before[5]!).toBeGreaterThan(FLICKS_PER_SECOND);
});

test('Call: where the called angle does not record, the page shows what the movie will, and says why', async () => {
	const shoot = await demoShoot();
	const { inFlicks, outFlicks } = shoot.programs[0]!;
	const roaming = shoot.devices.find((device) => device.badge === 'D')!;
	const runs = placedClips(shoot, shoot.lineUps[0]!.id).filter((clip) => clip.deviceId === roaming.id);
	const isAway = (flicks: number) =>
		runs.every(
			(clip) =>
				flicks < clip.placement.startFlicks - 3 * FLICKS_PER_SECOND ||
				flicks > toTimeline(clip.placement, clip.durationFlicks) + 3 * FLICKS_PER_SECOND
		);
	let away = inFlicks + 5 * FLICKS_PER_SECOND;
	while (!isAway(away) && away < outFlicks) away += FLICKS_PER_SECOND;
	await goTo(page, away);
	await page.keyboard.press('4');
	await expect(page.getByTestId('on-air')).toHaveAttribute('data-shown', 'stand-in');
	await expect(page.getByTestId('on-air-why')).toHaveText('stands in: D has no picture here');
	await expect(page.getByTestId('on-air')).toHaveAttribute('data-device', shoot.mainCameraId!);
	await page.keyboard.press('Control+z');
	await expect(page.getByTestId('on-air')).toHaveAttribute('data-shown', 'called');
	await expect(page.getByTestId('on-air-why')).toHaveCount(0);
});

test('Call: an angle is hidden and another made large, for the eye only; the shoot opens where the work was left', async () => {
	const tileOf = (badge: string) => page.getByTestId(`tile-${badge}`);
	const widthOf = async (badge: string) => Number(await tileOf(badge).getAttribute('data-width'));
	const before = await widthOf('C');
	await tileOf('D').hover();
	await page.getByRole('button', { name: 'Hide Camera D, for the eye only' }).click();
	await expect(tileOf('D')).toHaveCount(0);
	await tileOf('C').hover();
	await page.getByRole('button', { name: 'Show Camera C large' }).click();
	await expect.poll(() => widthOf('C')).toBeGreaterThan(1.5 * before);
	await expect.poll(() => widthOf('B')).toBeLessThan(await widthOf('C'));
	// What is hidden is called by its digit all the same.
	const shoot = await demoShoot();
	await goTo(page, placementOf(shoot, '00022').startFlicks + 2 * FLICKS_PER_SECOND);
	await page.keyboard.press('4');
	await expect(page.getByTestId('on-air')).toContainText('Camera D');
	await expect(page.getByTestId('wall')).toHaveAttribute('data-behind', '0', { timeout: 60_000 });
	const leftAt = (await page.getByTestId('timecode').getAttribute('data-flicks'))!;
	await page.getByRole('link', { name: 'Open Choir' }).click();
	await page.getByRole('link', { name: shoot.name, exact: true }).click();
	await page.waitForURL('**/call');
	await expect(page.getByTestId('timecode')).toHaveAttribute('data-flicks', leftAt);
	await expect(tileOf('D')).toHaveCount(0);
	await page.getByRole('button', { name: 'show all angles' }).click();
	await tileOf('C').hover();
	await page.getByRole('button', { name: 'Show Camera C like the others' }).click();
	await expect.poll(() => widthOf('C')).toBe(before);
	await page.keyboard.press('Control+z');
	await expect(page.getByTestId('on-air')).not.toContainText('Camera D');
});

test('Hand off: the movie is rendered and plays; the line-up leaves as OpenTimelineIO', async () => {
	await goToStage(page, 'Hand off', 'hand-off');
	await page.getByTestId('hand-off-movie').click();
	await expect(page.getByTestId('hand-off-job')).toContainText('%');
	await expect(page.locator('[data-testid=hand-off][data-kind=movie]')).toHaveCount(1, { timeout: 400_000 });
	await page.getByRole('button', { name: 'watch' }).click();
	const player = page.getByTestId('movie-player');
	const length = await player.evaluate(async (video: HTMLVideoElement) => {
		video.muted = true;
		await video.play();
		await new Promise((done) => setTimeout(done, 1500));
		return { duration: video.duration, at: video.currentTime, width: video.videoWidth };
	});
	expect(length.at).toBeGreaterThan(0.5);
	const { programs } = await demoShoot();
	expect(Math.abs(length.duration - flicksToSeconds(programs[0]!.outFlicks - programs[0]!.inFlicks))).toBeLessThan(
		0.05
	);
	await page.getByTestId('hand-off-otio').click();
	await expect(page.locator('[data-testid=hand-off][data-kind=otio]')).toHaveCount(1);
});

/** Until all waveforms are there. */
async function waitForWaveforms(): Promise<void> {
	await waitFor(async () => {
		const parts = (await demoShoot()).clips.flatMap((clip) => clip.parts);
		return parts.every(({ sound }) => !sound || sound.listeningSamples !== undefined);
	}, 400_000);
	expect(placedClips(await demoShoot(), (await demoShoot()).lineUps[0]!.id).length).toBeGreaterThan(0);
	expect(toTimeline({ ...placementOf(await demoShoot(), 'A001_C001') }, 0)).toBeGreaterThan(0);
}
