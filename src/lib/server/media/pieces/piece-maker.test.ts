import { mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { runProgram as run } from '../../../../../scripts/outside-programs';
import { PIECE_SECONDS, type PieceLines, pieceCount } from '../../../core/limits/pieces';
import { createPrecedence } from '../../jobs/precedence';
import { openMediaCache } from '../media-cache';
import { probeFile } from '../probe';
import { type PictureFile, pictureSeconds } from './picture-file';
import { openPieceMaker, pieceKind } from './piece-maker';
import { openStills } from './stills';

/** Pieces and stills of files as cameras write them; ffprobe says what times the pictures have. */
let folder: string;
beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-pieces-'));
});
afterAll(() => rm(folder, { recursive: true }));

const never = new AbortController().signal;
let made = 0;
async function film(name: string, ...args: readonly string[]): Promise<PictureFile> {
	const path = join(folder, name);
	await run('ffmpeg', ['-v', 'error', '-y', ...args, path]);
	const facts = await probeFile(path);
	return { path, identity: `${made++}`.padStart(32, '0'), facts: { ...facts, video: facts.video! } };
}

async function pictureTimes(path: string): Promise<readonly number[]> {
	const entries = ['-select_streams', 'v:0', '-show_entries', 'frame=pts_time', '-of', 'csv=p=0'];
	const { stdout } = await run('ffprobe', ['-v', 'error', ...entries, path]);
	return stdout
		.split(/[\s,]+/)
		.filter(Boolean)
		.map(Number);
}

function maker() {
	const cache = openMediaCache(join(folder, `cache-${made++}`));
	return { cache, pieces: openPieceMaker(cache, createPrecedence()) };
}

const MOVING = (seconds: number, rate = '25') => ['-f', 'lavfi', '-i', `testsrc2=s=320x180:r=${rate}:d=${seconds}`];
const SOUND = (seconds: number) => ['-f', 'lavfi', '-i', `sine=d=${seconds}`];

describe('pieces of small pictures', () => {
	it.each([
		['b-frames.mp4', [...MOVING(9), '-c:v', 'libx264', '-preset', 'fast', '-bf', '3', '-g', '60']],
		['ntsc.mov', [...MOVING(9, '30000/1001'), ...SOUND(9), '-c:v', 'libx264', '-preset', 'ultrafast', '-g', '300']],
		['card.mts', [...MOVING(9), ...SOUND(9), '-c:v', 'libx264', '-preset', 'ultrafast', '-f', 'mpegts']],
		['tape.mxf', [...MOVING(9), '-c:v', 'mpeg2video', '-g', '12', '-bf', '2']],
		['ten-bit.mp4', [...MOVING(9), '-c:v', 'libx265', '-preset', 'ultrafast', '-x265-params', 'log-level=error']],
		['all-intra.mov', [...MOVING(9), '-c:v', 'prores_ks', '-profile:v', '0']],
		// Every third picture is gone, and all begin 1.5 s late.
		[
			'phone.mkv',
			[...MOVING(9, '30'), '-vf', "select='mod(n,3)',setpts=PTS+1.5/TB", '-fps_mode', 'vfr', '-c:v', 'libx264']
		]
	] as const)(
		'of %s have every picture once, at its own time, in both sizes',
		{ timeout: 120_000 },
		async (name, args) => {
			const file = await film(name, ...args);
			const { cache, pieces } = maker();
			const count = pieceCount(pictureSeconds(file));
			expect(count).toBe(3);
			const source = await pictureTimes(file.path);
			// The last two in one pass, as the background makes them; the first as one that is asked for.
			await pieces.make(file, 1, count, never);
			await new Response(await pieces.stream(file, 0, 160)).arrayBuffer();
			for (const lines of [360, 160] as const) {
				const times: number[] = [];
				for (let index = 0; index < count; index++) {
					const own = await pictureTimes(cache.path(file.identity, pieceKind(index, lines)));
					expect(own[0]!).toBeGreaterThan(index * PIECE_SECONDS - 0.001);
					expect(own.at(-1)!).toBeLessThan((index + 1) * PIECE_SECONDS);
					times.push(...own);
				}
				expect(times).toHaveLength(source.length);
				for (const [index, time] of times.entries()) expect(time).toBeCloseTo(source[index]! - source[0]!, 3);
			}
		}
	);

	it('come while they are made, and again from where they are kept', async () => {
		const file = await film('long.mp4', '-f', 'lavfi', '-i', 'testsrc2=s=1280x720:r=25:d=6', '-c:v', 'libx264');
		const { cache, pieces } = maker();
		const began = performance.now();
		let firstMs = 0;
		const read = async (lines: PieceLines) => {
			const blocks: Uint8Array[] = [];
			for await (const block of await pieces.stream(file, 0, lines)) {
				firstMs ||= performance.now() - began;
				blocks.push(block);
			}
			return Buffer.concat(blocks);
		};
		const [large, again] = await Promise.all([read(360), read(360)]);
		const wholeMs = performance.now() - began;
		expect(firstMs).toBeLessThan(wholeMs / 2);
		expect(again.equals(large)).toBe(true);
		expect((await read(360)).equals(large)).toBe(true);
		await writeFile(join(folder, 'streamed.mp4'), large);
		expect(await pictureTimes(join(folder, 'streamed.mp4'))).toHaveLength(25 * PIECE_SECONDS);
		expect(await pieces.has(file, 0)).toBe(true);
		const names = await readdir(dirname(cache.path(file.identity, 'sound.json')));
		expect(names.filter((one) => one.includes('.part-'))).toEqual([]);
	}, 60_000);

	it('are made when asked for, what is looked at first, and not when nobody asks any more', async () => {
		const file = await film('asked.mp4', ...MOVING(15), '-c:v', 'libx264', '-preset', 'ultrafast');
		const { pieces } = maker();
		expect(pieces.ask(file, 0, 1)).toBeGreaterThan(0);
		// Behind the first, which is under way: the last is looked at, the others will be.
		pieces.ask(file, 1, 1);
		pieces.ask(file, 2, 1);
		const more = pieces.ask(file, 3, 0);
		expect(more).toBeLessThan(pieces.ask(file, 2, 1));
		const order: number[] = [];
		for (let round = 0; round < 600 && order.length < 4; round++) {
			for (const index of [0, 1, 2, 3]) {
				if (order.includes(index)) continue;
				if (await pieces.has(file, index)) order.push(index);
				// Whoever looks asks again and again: on a slow machine all four take longer than they are remembered.
				else pieces.ask(file, index, index === 3 ? 0 : 1);
			}
			await new Promise((resolve) => setTimeout(resolve, 20));
		}
		expect(order).toEqual([0, 3, 1, 2]);
		await pieces.close();
	}, 60_000);

	it('that nobody waits for any more are given up, and made again when they are asked for', async () => {
		const file = await film('left.mp4', '-f', 'lavfi', '-i', 'testsrc2=s=1920x1080:r=25:d=5', '-c:v', 'libx264');
		const { cache, pieces } = maker();
		const [first, second] = await Promise.all([pieces.stream(file, 0, 360), pieces.stream(file, 0, 360)]);
		await first.cancel();
		// Another still reads it.
		const block = await second.getReader().read();
		expect(block.value!.length).toBeGreaterThan(0);
		const again = await pieces.stream(file, 0, 360);
		expect((await new Response(again).arrayBuffer()).byteLength).toBeGreaterThan(10_000);
		expect(await pieces.has(file, 0)).toBe(true);
		const third = await pieces.stream(file, 1, 360);
		await third.cancel();
		await new Promise((resolve) => setTimeout(resolve, 300));
		expect(await pieces.has(file, 1)).toBe(false);
		const names = await readdir(dirname(cache.path(file.identity, 'sound.json')));
		expect(names.filter((one) => one.includes('.part-'))).toEqual([]);
	}, 60_000);

	it('that cannot be made say so, and leave nothing behind', async () => {
		const file = await film('cut.mp4', ...MOVING(3), '-c:v', 'libx264', '-movflags', '+faststart');
		await writeFile(file.path, 'nothing of a film');
		const { cache, pieces } = maker();
		await expect(pieces.make(file, 0, 1, never)).rejects.toThrow();
		await expect(pieces.stream(file, 0, 160).then((stream) => new Response(stream).arrayBuffer())).rejects.toThrow();
		expect(await cache.has(file.identity, pieceKind(0, 160))).toBe(false);
		// Whoever asks again hears it, and no tool is started each time.
		expect(() => pieces.ask(file, 0, 0)).toThrow();
	});
});

describe('stills', () => {
	it.each([
		['long-groups.mp4', [...MOVING(20), '-c:v', 'libx264', '-g', '125', '-sc_threshold', '0']],
		['late.mts', [...MOVING(20), '-c:v', 'libx264', '-g', '25', '-sc_threshold', '0', '-f', 'mpegts']],
		['long-groups.mts', [...MOVING(20), '-c:v', 'libx264', '-g', '125', '-sc_threshold', '0', '-f', 'mpegts']],
		['every.mov', [...MOVING(20), '-c:v', 'prores_ks', '-profile:v', '0']]
	] as const)(
		'of %s are key pictures before the time, and tell their own',
		async (name, args) => {
			const file = await film(name, ...args);
			const key = [
				'-skip_frame',
				'nokey',
				'-select_streams',
				'v:0',
				'-show_entries',
				'frame=pts_time',
				'-of',
				'csv=p=0'
			];
			const { stdout } = await run('ffprobe', ['-v', 'error', ...key, file.path]);
			const [first, ...rest] = stdout
				.split(/[\s,]+/)
				.filter(Boolean)
				.map(Number);
			const keys = [0, ...rest.map((time) => time - first!)];
			const stills = openStills(maker().cache, createPrecedence());
			for (const seconds of [0, 3.2, 11.5, 19.7]) {
				const still = join(folder, 'still.mp4');
				await writeFile(still, await stills.still(file, seconds, 160));
				const [time, ...others] = await pictureTimes(still);
				expect(others).toEqual([]);
				expect(keys.some((one) => Math.abs(one - time!) < 0.002)).toBe(true);
				expect(time!).toBeLessThanOrEqual(seconds + 0.001);
				// The nearest before, or for containers without an index one more.
				expect(
					keys.filter((one) => one > time! + 0.002 && one <= Math.floor(2 * seconds) / 2).length
				).toBeLessThanOrEqual(1);
			}
		},
		60_000
	);

	it('a strip’s picture comes out of a piece that is there, at its very time, and is the key picture where none is', async () => {
		const file = await film('strip.mp4', ...MOVING(12), '-c:v', 'libx264', '-preset', 'ultrafast', '-g', '100');
		const { cache, pieces } = maker();
		const stills = openStills(cache, createPrecedence());
		const timeAt = async (seconds: number) => {
			const path = join(folder, 'strip-picture.mp4');
			await writeFile(path, await stills.besides(file, seconds));
			return pictureTimes(path);
		};
		await pieces.make(file, 1, 2, never);
		expect(await timeAt(4)).toEqual([4]);
		expect((await timeAt(6.5))[0]).toBeCloseTo(6.48, 4);
		expect(await timeAt(10)).toEqual([8]);
		expect(await timeAt(1.5)).toEqual([0]);
	});
});
