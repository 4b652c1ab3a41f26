import { expect, test } from '@playwright/test';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { type EdgeCode, readEdgeCode } from '../../../demo/edge-code';
import { seededRandom } from '../../../demo/random';
import { DEVICES } from '../../../demo/scene';
import { compile, type PictureInterval } from '../../../src/lib/core/program/compile';
import { flicksToSeconds, videoFrameToFlicks } from '../../../src/lib/core/time/flicks';
import { heardAt, readOtio, seenAt } from '../../support/otio-reader';
import { demoShoot } from '../support/shoot';
import { pathToFileURL } from 'node:url';
import { expectedCode } from '../support/wall-codes';
import { runProgram as run } from '../../../scripts/outside-programs';

/** The rendered movie, read back with ffmpeg alone: is it what was called, when it was called? */
const MAX_BYTES = 256 * 2 ** 20;

async function handOff(kind: 'movie' | 'otio'): Promise<{ readonly path: string; readonly sha256: string }> {
	const shoot = await demoShoot();
	const found = shoot.handOffs.find((one) => one.kind === kind)!;
	return { path: join(process.env['OPEN_CHOIR_E2E_DATA']!, 'hand-offs', shoot.id, found.name), sha256: found.sha256 };
}

/** Brightness of some frames of a movie, by their numbers in rising order; one pass through the file. */
async function framesOf(
	path: string,
	frames: readonly number[],
	{ width, height }: { width: number; height: number }
): Promise<readonly Buffer[]> {
	const chosen = frames.map((frame) => `eq(n\\,${frame})`).join('+');
	const args = [
		'-v',
		'error',
		'-i',
		path,
		'-vf',
		`select=${chosen}`,
		'-fps_mode',
		'passthrough',
		'-pix_fmt',
		'gray',
		'-f',
		'rawvideo',
		'-'
	];
	const { stdout } = await run('ffmpeg', args, { encoding: 'buffer', maxBuffer: MAX_BYTES });
	expect(stdout.length).toBe(width * height * frames.length);
	return frames.map((_, index) => stdout.subarray(index * width * height, (index + 1) * width * height));
}

/** The angle that an interval shows. */
function shownDevice({ shown }: PictureInterval): string | undefined {
	return shown.kind === 'black' ? undefined : shown.source.deviceId;
}

function codeOf(gray: Buffer, { width, height }: { width: number; height: number }): EdgeCode | undefined {
	return readEdgeCode((x, y) => gray[Math.floor(y * height) * width + Math.floor(x * width)]!, height);
}

test('at 40 random instants the picture is of the called camera, and its number the expected one within one', async () => {
	const shoot = await demoShoot();
	const plan = compile(shoot, shoot.programs[0]!);
	const { path } = await handOff('movie');
	const random = seededRandom(40);
	const all = new Set<number>();
	while (all.size < 40) all.add(Math.floor(random() * (plan.toFrame - plan.fromFrame)));
	const instants = [...all].sort((a, b) => a - b);
	const pictures = await framesOf(path, instants, shoot);
	const seen = new Set<string>();
	for (const [index, instant] of instants.entries()) {
		const frame = plan.fromFrame + instant;
		const piece = plan.pictures.find((one) => frame >= one.fromFrame && frame < one.toFrame)!;
		const badge = shoot.devices.find((device) => device.id === shownDevice(piece))!.badge;
		seen.add(badge);
		// Nobody stands in at the demo's calls: what is shown is what was called.
		expect(shownDevice(piece)).toBe(piece.calledDeviceId);
		const code = codeOf(pictures[index]!, shoot);
		const expected = expectedCode(shoot, badge, videoFrameToFlicks(frame, shoot.rate))!;
		expect(code?.file, `camera at frame ${instant}`).toBe(expected.file);
		expect(Math.abs(code!.picture - expected.picture), `picture at frame ${instant}`).toBeLessThanOrEqual(1);
	}
	expect(seen.size).toBeGreaterThanOrEqual(3);
});

test('every frame at a change of shot is of the right camera', async () => {
	const shoot = await demoShoot();
	const plan = compile(shoot, shoot.programs[0]!);
	const { path } = await handOff('movie');
	const changes = plan.pictures.slice(1).flatMap((piece, index) => [
		{ frame: piece.fromFrame - 1, deviceId: shownDevice(plan.pictures[index]!) },
		{ frame: piece.fromFrame, deviceId: shownDevice(piece) }
	]);
	const pictures = await framesOf(
		path,
		changes.map(({ frame }) => frame - plan.fromFrame),
		shoot
	);
	for (const [index, { frame, deviceId }] of changes.entries()) {
		const badge = shoot.devices.find((device) => device.id === deviceId)!.badge;
		expect(codeOf(pictures[index]!, shoot)?.file, `frame ${frame}`).toBe(
			expectedCode(shoot, badge, videoFrameToFlicks(frame, shoot.rate))!.file
		);
	}
});

test('tells what is heard in it, and who speaks', async () => {
	const { path } = await handOff('movie');
	const args = ['-v', 'error', '-show_entries', 'format_tags:stream_tags', '-of', 'json', path];
	const { stdout } = await run('ffprobe', args);
	const told = JSON.parse(stdout) as { format: { tags: Record<string, string> } };
	expect(told.format.tags['comment']).toBe('Sound: Recorder 1: Marit + Jonas + Odile. People: Marit, Jonas, Odile');
});

test('the sound is the master to less than 2 ms, from beginning to end', async () => {
	const shoot = await demoShoot();
	const { inFlicks, outFlicks } = shoot.programs[0]!;
	const { path } = await handOff('movie');
	const rate = 48_000;
	const movie = await decode(['-i', path, '-ac', '1']);
	expect(Math.abs(movie.length / rate - flicksToSeconds(outFlicks - inFlicks))).toBeLessThan(0.05);
	// The master is the reference recorder: its two files, one after the other, are the line-up's own time.
	const folder = join(process.env['OPEN_CHOIR_E2E_DATA']!, 'demo', 'wooden-ferry');
	const [first, second] = DEVICES.find((one) => one.folder === 'recorder-1')!.clips.map((clip) =>
		join(folder, clip.path)
	);
	const voices = '[0:a][1:a]concat=n=2:v=0:a=1,pan=mono|c0=c0+c1+c2';
	const master = await decode(['-i', first!, '-i', second!, '-filter_complex', voices]);
	const start = shoot.clips.find((clip) => clip.name === 'FERRY_T01_0001')!.placement!.startFlicks;
	for (const at of [2, 40, 90, 150, 200]) {
		const lag = bestLag(
			movie,
			Math.round(at * rate),
			master,
			Math.round((flicksToSeconds(inFlicks - start) + at) * rate),
			2 * rate,
			480
		);
		expect(Math.abs(lag.samples) / rate, `at ${at} s`).toBeLessThan(0.002);
		expect(lag.likeness, `at ${at} s`).toBeGreaterThan(0.9);
	}
});

test('the digest is the file’s, and the OpenTimelineIO file holds the program and every device', async () => {
	const shoot = await demoShoot();
	const movie = await handOff('movie');
	const { stdout } = await run('sha256sum', [movie.path]);
	expect(stdout.split(' ')[0]).toBe(movie.sha256);
	const timeline = readOtio(await readFile((await handOff('otio')).path, 'utf8'));
	const plan = compile(shoot, shoot.programs[0]!);
	// What another program would show, frame by frame at each change of shot, is what the movie shows.
	for (const interval of plan.pictures) {
		const at = flicksToSeconds(videoFrameToFlicks(interval.fromFrame, shoot.rate)) + 1e-4;
		const part = shoot.clips
			.flatMap((clip) => clip.parts)
			.find((one) => interval.shown.kind !== 'black' && one.fileId === interval.shown.source.fileId)!;
		expect(seenAt(timeline, at)?.url).toBe(pathToFileURL(part.path).href);
		expect(heardAt(timeline, at).length).toBeGreaterThan(0);
	}
	const { inFlicks, outFlicks } = shoot.programs[0]!;
	expect(seenAt(timeline, flicksToSeconds(inFlicks) - 0.02)).toBeUndefined();
	expect(seenAt(timeline, flicksToSeconds(outFlicks) + 0.02)).toBeUndefined();
	const devices = timeline.tracks.children!.filter((track) => !track.enabled).map((track) => track.name[0]);
	expect([...new Set(devices)].sort()).toEqual(['1', '2', '3', 'A', 'B', 'C', 'D', 'E']);
});

async function decode(args: readonly string[]): Promise<Float32Array> {
	const { stdout } = await run('ffmpeg', ['-v', 'error', ...args, '-ar', '48000', '-f', 'f32le', '-'], {
		encoding: 'buffer',
		maxBuffer: MAX_BYTES
	});
	return new Float32Array(new Uint8Array(stdout).buffer);
}

/** The lag at which two passages are most alike, by plain normalised correlation: nothing of the project's own. */
function bestLag(
	a: Float32Array,
	aFrom: number,
	b: Float32Array,
	bFrom: number,
	length: number,
	reach: number
): { samples: number; likeness: number } {
	let best = { samples: 0, likeness: -1 };
	for (let lag = -reach; lag <= reach; lag++) {
		let [product, squaresA, squaresB] = [0, 0, 0];
		for (let i = 0; i < length; i += 3) {
			const x = a[aFrom + i]!;
			const y = b[bFrom + i + lag]!;
			product += x * y;
			squaresA += x * x;
			squaresB += y * y;
		}
		const likeness = product / Math.sqrt(squaresA * squaresB + 1e-12);
		if (likeness > best.likeness) best = { samples: lag, likeness };
	}
	return best;
}
