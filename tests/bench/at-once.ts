import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { type Browser, chromium, type Page } from '@playwright/test';
import { installedPath, runProgram as run } from '../../scripts/outside-programs';
import { PIECE_SECONDS } from '../../src/lib/core/limits/pieces';
import { placedEnd } from '../../src/lib/core/shoot/clip';
import { placedClips } from '../../src/lib/core/shoot/lookup';
import { FLICKS_PER_SECOND, flicksToSeconds } from '../../src/lib/core/time/flicks';
import { filesBelow, totalBytes } from '../../src/lib/server/media/folder-size';
import { startServer, waitFor } from '../e2e/support/server';
import { readShoot } from '../e2e/support/shoot';

/** What is filmed. */
interface Shape {
	readonly cameras: number;
	readonly recorders: number;
	readonly seconds: number;
}
const SHORT: Shape = { cameras: 5, recorders: 1, seconds: 90 };
const EVENING: Shape = { cameras: 4, recorders: 3, seconds: 7200 };
/** Coded once, then repeated: what is measured does not look at it twice. */
const LOOP_SECONDS = 20;

/** The background is watched for so long to reckon when all is made. */
const WATCHED_SECONDS = 30;

type Kind = readonly [name: string, ending: string, size: string, pixels: string, coder: readonly string[]];

/** Kinds of cameras, and how ffmpeg writes what they would. */
const KINDS: readonly Kind[] = [
	[
		'1080p H.264',
		'mp4',
		'1920x1080',
		'yuv420p',
		['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '25', '-b:v', '20M']
	],
	['4K H.264', 'mp4', '3840x2160', 'yuv420p', ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '25', '-b:v', '60M']],
	[
		'4K HEVC, 10 bit',
		'mp4',
		'3840x2160',
		'yuv420p10le',
		['-c:v', 'libx265', '-preset', 'ultrafast', '-x265-params', 'keyint=25:log-level=error', '-b:v', '40M']
	],
	['ProRes, 1080p', 'mov', '1920x1080', 'yuv422p10le', ['-c:v', 'prores_ks', '-profile:v', 'standard']],
	[
		'interlaced MTS, 1080i',
		'mts',
		'1920x1080',
		'yuv420p',
		[
			'-vf',
			'setfield=tff',
			'-c:v',
			'libx264',
			'-preset',
			'veryfast',
			'-flags',
			'+ildct+ilme',
			'-x264-params',
			'tff=1',
			'-g',
			'25',
			'-b:v',
			'17M'
		]
	]
];

/** Two hours of the first kind, at a rate that fits the disk. */
const EVENING_KIND: Kind = [
	'two hours, 7 devices',
	'mp4',
	'1920x1080',
	'yuv420p',
	['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '25', '-b:v', '2M']
];

/** What an editor waits for after opening Call for the first time, in milliseconds. */
interface Waited {
	readonly opened: number;
	readonly firstStill: number;
	readonly allStills: number;
	readonly firstSound: number;
	readonly onAir: number;
	readonly allExact: number;
	/** Seek while playing, to the next sound. */
	readonly seekSound: number;
	/** Play once more, to the first sound. */
	readonly playSound: number;
}

/**
 * How soon pictures and sound are there of five cameras that were never seen before, by kind of camera; of the demo; of two hours.
 * @param folder where the recordings are made, or lie from an earlier run: they take 20 GB
 */
export async function benchAtOnce(folder: string, only = ''): Promise<string> {
	const rows: string[] = [];
	const browser = await chromium.launch({
		executablePath: installedPath('/usr/bin/chromium'),
		args: ['--autoplay-policy=no-user-gesture-required']
	});
	const measured = [
		...KINDS.map((kind, index) => ({
			kind,
			name: kind[0],
			shape: SHORT,
			media: join(folder, `kind-${index}`)
		})),
		{ kind: EVENING_KIND, name: EVENING_KIND[0], shape: EVENING, media: join(folder, 'evening') },
		{ kind: undefined, name: 'the demo', shape: SHORT, media: undefined }
	];
	try {
		for (const { kind, name, shape, media } of measured) {
			if (!name.includes(only)) continue;
			if (kind) await makeShoot(media, kind, shape);
			rows.push(await measureShoot(browser, join(folder, 'data-at-once'), { media, name, shape }));
			process.stderr.write(`${rows.at(-1)}\n`);
		}
	} finally {
		await browser.close();
	}
	return [
		'In headless Chromium without a graphics card, pictures decoded by the processor. Five cameras of 90 seconds each and a recorder,',
		'or what the row says, lined up, then Call is opened for the first time; meanwhile the background does its work. Seconds since then;',
		'sound, seek and play since the click. The last two columns are reckoned for five cameras of two hours from what half a minute of the',
		'background made; before them what the caches hold at the end.',
		'',
		'| cameras | page there | first still | all angles show a picture | first sound | on air plays exactly | all angles exact about the playhead | seek while playing | play again | caches | all pieces made | pieces take |',
		'|---|---|---|---|---|---|---|---|---|---|---|---|',
		...rows
	].join('\n');
}

async function makeShoot(
	media: string,
	[, ending, size, pixels, coder]: Kind,
	{ cameras, recorders, seconds }: Shape
): Promise<void> {
	if (await readFile(`${media}.made`, 'utf8').catch(() => undefined)) return;
	await rm(media, { recursive: true, force: true });
	for (let recorder = 0; recorder < recorders; recorder++)
		await mkdir(join(media, `recorder-${recorder}`), { recursive: true });
	// Everybody hears the same room: noise that swells and falls.
	const room = `anoisesrc=d=${seconds + 20}:c=pink:a=0.5:seed=11:r=48000,tremolo=f=0.7:d=0.8,aformat=sample_fmts=s16`;
	const sound = join(media, 'recorder-0', 'room.wav');
	await run('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', room, '-ac', '2', sound]);
	for (let recorder = 1; recorder < recorders; recorder++) {
		const copy = join(media, `recorder-${recorder}`, `room-${recorder}.wav`);
		await run('ffmpeg', ['-v', 'error', '-y', '-ss', `${recorder}`, '-i', sound, '-c', 'copy', copy]);
	}
	for (let camera = 0; camera < cameras; camera++) {
		const target = join(media, `camera-${camera}`);
		await mkdir(target);
		const picture = `testsrc2=s=${size}:r=25:d=${LOOP_SECONDS},hue=h=${camera * 60},noise=alls=6:allf=t,format=${pixels}`;
		const filters = coder[0] === '-vf' ? ['-vf', `${picture.split(',').slice(1).join(',')},${coder[1]}`] : [];
		const source = filters.length > 0 ? picture.split(',')[0]! : picture;
		const rest = filters.length > 0 ? coder.slice(2) : coder;
		const loop = join(media, `loop.${ending}`);
		await run('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', source, ...filters, ...rest, loop]);
		const at = ['-ss', `${2 + camera}`, '-t', `${seconds}`];
		const inputs = ['-stream_loop', '-1', '-i', loop, ...at, '-i', sound];
		const mapped = ['-map', '0:v', '-map', '1:a', '-c:v', 'copy', '-c:a', ending === 'mts' ? 'ac3' : 'aac'];
		const out = ['-t', `${seconds}`, ...(ending === 'mts' ? ['-f', 'mpegts'] : []), join(target, `shot.${ending}`)];
		await run('ffmpeg', ['-v', 'error', '-y', ...inputs, ...mapped, ...out]);
		await rm(loop);
	}
	await writeFile(`${media}.made`, 'yes');
}

async function measureShoot(
	browser: Browser,
	data: string,
	{ media, name, shape }: { readonly media: string | undefined; readonly name: string; readonly shape: Shape }
): Promise<string> {
	await rm(data, { recursive: true, force: true });
	const server = await startServer(data, media ? ['--media', media, '--no-demo'] : []);
	try {
		const post = async <Answer>(path: string, body: object) =>
			(await (
				await fetch(server.address + path, {
					method: 'POST',
					body: JSON.stringify(body),
					headers: { 'content-type': 'application/json' }
				})
			).json()) as Answer;
		const demo = async () => ((await (await fetch(`${server.address}/api/shoots`)).json()) as { id: string }[])[0]!;
		const { id } = media ? await post<{ id: string }>('/api/shoots', { name, folder: media }) : await demo();
		const clips = media ? shape.cameras + shape.recorders : 14;
		await waitFor(async () => (await readShoot(server.address, id)).clips.length === clips, 120_000);
		await post(`/api/shoots/${id}/jobs`, { kind: 'line-up' });
		await waitFor(async () => (await readShoot(server.address, id)).lineUps.length > 0, 300_000);
		const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
		const waited = await measure(page, `${server.address}/shoots/${id}/line-up`, await lookingAt(server.address, id));
		await page.close();
		const cache = join(data, 'cache');
		const pieces = async () => (await filesBelow(cache)).filter(({ name }) => name.endsWith('-360.mp4')).length;
		const before = await pieces();
		await new Promise((resolve) => setTimeout(resolve, 1000 * WATCHED_SECONDS));
		const made = Math.max(1, (await pieces()) - before);
		const all = (5 * 7200) / PIECE_SECONDS;
		const hoursToMake = (all / made) * (WATCHED_SECONDS / 3600);
		const bytes = totalBytes((await filesBelow(cache)).filter(({ name }) => name.includes('.piece-')));
		const gigabytes = ((bytes / (await pieces())) * all) / 1e9;
		const inSeconds = (ms: number) => (ms / 1000).toFixed(1);
		const cells = [
			...[waited.opened, waited.firstStill, waited.allStills].map(inSeconds),
			(waited.firstSound / 1000).toFixed(2),
			...[waited.onAir, waited.allExact].map(inSeconds),
			...[waited.seekSound, waited.playSound].map((ms) => (ms / 1000).toFixed(2)),
			`${(totalBytes(await filesBelow(cache)) / 1e9).toFixed(2)} GB`,
			...(media ? [`${hoursToMake.toFixed(1)} h`, `${gigabytes.toFixed(1)} GB`] : ['–', '–'])
		];
		return `| ${name} | ${cells.join(' | ')} |`;
	} finally {
		await server.stop();
	}
}

interface LookedAt {
	readonly seconds: number;
	/** How many cameras run there. */
	readonly angles: number;
}

/** A moment well within the line-up at which the most cameras run, which nothing else has looked at. */
async function lookingAt(address: string, id: string): Promise<LookedAt> {
	const shoot = await readShoot(address, id);
	const filmed = placedClips(shoot, shoot.lineUps[0]!.id).filter((clip) => clip.parts.some((part) => part.picture));
	const ends = filmed.map(placedEnd);
	const [first, last] = [Math.min(...filmed.map((clip) => clip.placement.startFlicks)), Math.max(...ends)];
	let best: LookedAt = { seconds: 0, angles: 0 };
	for (let share = 0.5; share < 0.95; share += 0.01) {
		const at = first + share * (last - first);
		const running = filmed.filter(
			(clip) => at > clip.placement.startFlicks && at < placedEnd(clip) - FLICKS_PER_SECOND
		);
		const angles = new Set(running.map((clip) => clip.deviceId)).size;
		if (angles > best.angles) best = { seconds: Math.round(flicksToSeconds(at)) + 0.5, angles };
	}
	return best;
}

/** Notes when sound was first scheduled to be heard. */
function noteSounds(): void {
	const heard: number[] = [];
	(window as unknown as { heard: number[] }).heard = heard;
	const start = AudioBufferSourceNode.prototype.start;
	AudioBufferSourceNode.prototype.start = function (when, ...rest) {
		const wait = Math.max(0, (when ?? 0) - this.context.currentTime);
		heard.push(performance.now() + 1000 * wait);
		start.call(this, when, ...rest);
	};
}

async function measure(page: Page, address: string, { seconds, angles }: LookedAt): Promise<Waited> {
	await page.addInitScript(noteSounds);
	await page.goto(address);
	await page.getByTestId('play').waitFor();
	await page.keyboard.press('g');
	await page.getByRole('textbox', { name: 'Go to a time of the line-up' }).fill(`${seconds} s`);
	await page.keyboard.press('Enter');
	const began = performance.now();
	const since = () => performance.now() - began;
	await page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name: 'Call' }).click();
	await page.getByTestId('on-air').waitFor();
	const opened = since();
	const wall = page.getByTestId('wall');
	const until = async (isTrue: (angles: { readonly shown: number; readonly exact: number }) => boolean) => {
		for (;;) {
			const data = await wall.evaluate((element) => ({ ...element.dataset }));
			const shown = Number(data['shown'] ?? 0);
			if (data['shown'] !== undefined && isTrue({ shown, exact: angles - Number(data['behind']) })) return since();
			if (since() > 300_000) throw new Error('The pictures did not come.');
			await page.waitForTimeout(20);
		}
	};
	const firstStill = await until(({ shown }) => shown >= 1);
	const allStills = await until(({ shown }) => shown >= angles);
	const sound = async (act: () => Promise<void>) => {
		const from = await page.evaluate(() => {
			(window as unknown as { heard: number[] }).heard.length = 0;
			return performance.now();
		});
		await act();
		await page.waitForFunction(() => (window as unknown as { heard: number[] }).heard.length > 0);
		return (await page.evaluate(() => Math.min(...(window as unknown as { heard: number[] }).heard))) - from;
	};
	const firstSound = await sound(() => page.getByTestId('play').click());
	const onAir = await until(({ exact }) => exact >= 1);
	await page.waitForTimeout(1000);
	const lanes = (await page.getByTestId('score-lanes').boundingBox())!;
	const seekSound = await sound(() => page.mouse.click(lanes.x + 0.3 * lanes.width, lanes.y + 10));
	await page.getByTestId('play').click();
	await page.waitForTimeout(200);
	const allExact = await until(({ exact }) => exact === angles);
	const playSound = await sound(() => page.getByTestId('play').click());
	await page.getByTestId('play').click();
	return { opened, firstStill, allStills, firstSound, onAir, allExact, seekSound, playSound };
}
