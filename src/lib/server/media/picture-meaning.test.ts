import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { runProgram as run } from '../../../../scripts/outside-programs';
import { shownSize } from '../../core/gather/picture-facts';
import { decodeChannels } from './decode-sound';
import { type MediaCache, openMediaCache } from './media-cache';
import { createPrecedence } from '../jobs/precedence';
import type { MediaFacts } from '../../core/gather/media-facts';
import { openPieceMaker, pieceKind } from './pieces/piece-maker';
import { probeFile } from './probe';
import { renderPiece } from './render-picture';
import { soundFilesOf } from './sound-inputs';

const KEY = (letter: string) => letter.repeat(32);
const BT709 = { matrix: 'bt709', primaries: 'bt709', transfer: 'bt709', range: 'tv' } as const;

/** Pictures and sounds that are not what their points and first streams say, made by ffmpeg, looked at as they come out. */
describe('pictures as they were meant', () => {
	let folder: string;
	beforeAll(async () => (folder = await mkdtemp(join(tmpdir(), 'open-choir-meaning-'))));
	afterAll(() => rm(folder, { recursive: true, force: true }));

	const at = (name: string) => join(folder, name);
	const make = (name: string, ...args: readonly string[]) => run('ffmpeg', ['-v', 'error', '-y', ...args, at(name)]);
	const makePiece = (cache: MediaCache, name: string, identity: string, facts: MediaFacts) =>
		openPieceMaker(cache, createPrecedence()).make(
			{ path: at(name), identity, facts: { ...facts, video: facts.video! } },
			0,
			1,
			new AbortController().signal
		);
	/** A white disc's width over its height, as it is seen on a screen of square points. */
	async function roundness(path: string): Promise<number> {
		const { stdout } = await run(
			'ffmpeg',
			['-v', 'error', '-i', path, '-frames:v', '1', '-f', 'image2pipe', '-c:v', 'pgm', '-pix_fmt', 'gray', '-'],
			{
				encoding: 'buffer',
				maxBuffer: 2 ** 26
			}
		);
		const [, width, height] = /^P5\s(\d+)\s(\d+)\s\d+\s/.exec(stdout.subarray(0, 64).toString('latin1'))!.map(Number);
		const points = stdout.subarray(stdout.length - width! * height!);
		let [left, right, top, bottom] = [width!, 0, height!, 0];
		for (let y = 0; y < height!; y++)
			for (let x = 0; x < width!; x++)
				if (points[y * width! + x]! > 140) {
					[left, right] = [Math.min(left, x), Math.max(right, x)];
					[top, bottom] = [Math.min(top, y), Math.max(bottom, y)];
				}
		return (right - left + 1) / (bottom - top + 1);
	}
	/** A disc of a tenth of the height, stretched as points of a shape would have recorded it. */
	const disc = (width: number, height: number, wide: number) =>
		`color=black:size=${width}x${height}:rate=25:duration=0.4,geq=lum='if(lt(hypot((X-W/2)*${wide},Y-H/2),H/4),220,20)':cb=128:cr=128`;

	it('keeps a disc round through small picture and movie: points of 4:3, and turned by a quarter', async () => {
		await make('wide.mp4', '-f', 'lavfi', '-i', `${disc(480, 360, 4 / 3)},setsar=4/3`, '-c:v', 'libx264');
		await make('flat.mp4', '-f', 'lavfi', '-i', disc(320, 180, 1), '-c:v', 'libx264');
		await make('upright.mp4', '-i', at('flat.mp4'), '-c', 'copy', '-metadata:s:v', 'rotate=90');
		const cache = openMediaCache(join(folder, 'cache'));
		for (const [index, [name, width, height]] of (
			[
				['wide.mp4', 640, 360],
				['upright.mp4', 180, 320]
			] as const
		).entries()) {
			const facts = await probeFile(at(name));
			expect(shownSize(facts.video!), name).toEqual({ width, height });
			await makePiece(cache, name, KEY(`${index + 1}`), facts);
			expect(await roundness(cache.path(KEY(`${index + 1}`), pieceKind(0, 360))), name).toBeCloseTo(1, 1);
			const source = { fileId: 'x', clipId: 'x', deviceId: 'x', startFlicks: 0, rateFactor: 1 };
			const format = { rate: { num: 25, den: 1 }, width: 640, height: 360, colour: BT709 };
			await renderPiece(
				{ fromFrame: 0, toFrame: 5, shown: { kind: 'called', source } },
				{ path: at(name), containerStartSeconds: facts.containerStartSeconds, picture: facts.video! },
				format,
				at(`movie-${name}`),
				new AbortController().signal,
				() => undefined
			);
			expect(await roundness(at(`movie-${name}`)), name).toBeCloseTo(1, 1);
		}
	});

	it('makes whole pictures of fields, and says so', async () => {
		// What moves a lot: a bar, each field at its own time.
		const moving = `color=black:size=320x180:rate=50:duration=1,geq=lum='if(lt(abs(X-20-N*5),8),220,20)':cb=128:cr=128,interlace=scan=tff`;
		await make(
			'fields.mp4',
			'-f',
			'lavfi',
			'-i',
			moving,
			'-c:v',
			'libx264',
			'-flags',
			'+ildct+ilme',
			'-x264opts',
			'tff=1'
		);
		const facts = await probeFile(at('fields.mp4'));
		expect(facts.video!.interlaced).toBe('top first');
		const cache = openMediaCache(join(folder, 'cache'));
		await makePiece(cache, 'fields.mp4', KEY('3'), facts);
		/** How much neighbouring lines differ, against lines two apart: combed pictures differ more. */
		const combing = async (path: string) => {
			const { stdout } = await run(
				'ffmpeg',
				[
					'-v',
					'error',
					'-i',
					path,
					'-vf',
					'scale=320:180',
					'-frames:v',
					'10',
					'-f',
					'rawvideo',
					'-pix_fmt',
					'gray',
					'-'
				],
				{
					encoding: 'buffer',
					maxBuffer: 2 ** 26
				}
			);
			let [near, far] = [0, 0];
			for (let i = 320 * 180 * 5; i < 320 * 180 * 6 - 640; i++) {
				near += Math.abs(stdout[i]! - stdout[i + 320]!);
				far += Math.abs(stdout[i]! - stdout[i + 640]!);
			}
			return near / Math.max(1, far);
		};
		expect(await combing(at('fields.mp4'))).toBeGreaterThan(2);
		expect(await combing(cache.path(KEY('3'), pieceKind(0, 360)))).toBeLessThan(1.2);
	});

	it.each([
		['HLG', 'arib-std-b67'],
		['PQ', 'smpte2084']
	])('tells %s, and brings it down to what a screen shows', async (_name, transfer) => {
		// The white of graphics (203 cd/m²): a signal of 75% in HLG, of 58% in PQ (ITU-R BT.2408, from memory).
		const white = Math.round(64 + (transfer === 'smpte2084' ? 0.58 : 0.75) * 876);
		await make(
			`${transfer}.mp4`,
			...[
				'-f',
				'lavfi',
				'-i',
				`color=black:size=320x180:rate=25:duration=0.4,format=yuv420p10le,geq=lum=${white}:cb=512:cr=512`
			],
			...['-c:v', 'libx265', '-x265-params', 'log-level=error', '-pix_fmt', 'yuv420p10le'],
			...['-color_primaries', 'bt2020', '-color_trc', transfer, '-colorspace', 'bt2020nc', '-color_range', 'tv']
		);
		const facts = await probeFile(at(`${transfer}.mp4`));
		expect(facts.video!.colour).toEqual({ matrix: 'bt2020nc', primaries: 'bt2020', transfer, range: 'tv' });
		const cache = openMediaCache(join(folder, 'cache'));
		const key = KEY(transfer === 'smpte2084' ? '4' : '5');
		await makePiece(cache, `${transfer}.mp4`, key, facts);
		const { stdout } = await run(
			'ffmpeg',
			[
				'-v',
				'error',
				'-i',
				cache.path(key, pieceKind(0, 360)),
				'-frames:v',
				'1',
				'-vf',
				'scale=1:1',
				'-f',
				'rawvideo',
				'-pix_fmt',
				'gray',
				'-'
			],
			{
				encoding: 'buffer'
			}
		);
		// Bright, and not burnt out: Hable's curve lays the white of graphics well below the top.
		expect(stdout[0]!).toBeGreaterThan(140);
		expect(stdout[0]!).toBeLessThan(240);
	});

	it('keeps the colour tags through the movie', async () => {
		await make(
			'sd.mp4',
			'-f',
			'lavfi',
			'-i',
			'color=red:size=320x180:rate=25:duration=0.4',
			'-vf',
			'scale=out_color_matrix=bt470bg:out_range=tv',
			'-c:v',
			'libx264',
			'-colorspace',
			'bt470bg',
			'-color_primaries',
			'bt470bg',
			'-color_trc',
			'gamma28',
			'-color_range',
			'tv'
		);
		const facts = await probeFile(at('sd.mp4'));
		expect(facts.video!.colour).toMatchObject({ matrix: 'bt470bg', primaries: 'bt470bg', range: 'tv' });
		const source = { fileId: 'x', clipId: 'x', deviceId: 'x', startFlicks: 0, rateFactor: 1 };
		await renderPiece(
			{ fromFrame: 0, toFrame: 5, shown: { kind: 'called', source } },
			{ path: at('sd.mp4'), containerStartSeconds: 0, picture: facts.video! },
			{ rate: { num: 25, den: 1 }, width: 320, height: 180, colour: BT709 },
			at('movie.mp4'),
			new AbortController().signal,
			() => undefined
		);
		const movie = await probeFile(at('movie.mp4'));
		expect(movie.video!.colour).toEqual(BT709);
		// Full red is 81, 90, 240 by the one matrix and 63, 102, 240 by the other (ITU-R BT.601 and BT.709).
		const levels = async (name: string) => {
			const cut = ['-frames:v', '1', '-vf', 'crop=2:2:100:100', '-f', 'rawvideo', '-pix_fmt', 'yuv420p', '-'];
			const { stdout } = await run('ffmpeg', ['-v', 'error', '-i', at(name), ...cut], { encoding: 'buffer' });
			return [stdout[0]!, stdout[4]!, stdout[5]!];
		};
		for (const [name, expected] of [
			['sd.mp4', [81, 90, 240]],
			['movie.mp4', [63, 102, 240]]
		] as const)
			for (const [index, level] of (await levels(name)).entries())
				expect(Math.abs(level - expected[index]!), name).toBeLessThanOrEqual(2);
	});

	it('takes all sound streams of a file for its channels, in order', async () => {
		await make(
			'mics.mov',
			...[300, 500, 700].flatMap((hz) => ['-f', 'lavfi', '-i', `sine=f=${hz}:r=48000:d=1`]),
			...['-f', 'lavfi', '-i', 'color=black:size=64x64:rate=25:duration=1'],
			...['-map', '3:v', '-map', '0:a', '-map', '1:a', '-map', '2:a', '-c:v', 'libx264', '-c:a', 'pcm_s16le']
		);
		const facts = await probeFile(at('mics.mov'));
		expect(facts.audio).toMatchObject({ channels: 3, streams: 3, streamChannels: [1, 1, 1] });
		const blocks: Float32Array[] = [];
		await decodeChannels(soundFilesOf(at('mics.mov'), facts), 48_000, (block) => void blocks.push(block));
		const all = Float32Array.from(blocks.flatMap((block) => [...block]));
		expect(all.length / 3).toBe(48_000);
		for (const [channel, hz] of [300, 500, 700].entries()) {
			let crossings = 0;
			for (let i = 1; i < all.length / 3; i++)
				if (all[3 * (i - 1) + channel]! < 0 && all[3 * i + channel]! >= 0) crossings++;
			expect(Math.abs(crossings - hz)).toBeLessThan(3);
		}
	});
});
