import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import { renderPiece } from './render-picture';
import { runProgram as run } from '../../../../scripts/outside-programs';

const COLOUR = { matrix: 'smpte170m', primaries: 'smpte170m', transfer: 'smpte170m', range: 'tv' } as const;
const FORMAT = { rate: { num: 25, den: 1 }, width: 160, height: 90, colour: COLOUR };

/** A film of four seconds at 30 a second whose brightness tells its second: 40, 90, 140, 190. */
describe('rendering a piece', () => {
	let folder: string;
	let film: string;
	beforeAll(async () => {
		folder = await mkdtemp(join(tmpdir(), 'open-choir-render-'));
		film = join(folder, 'film.mkv');
		const steps = `geq=lum='40+50*floor(T)':cb=128:cr=128`;
		await run('ffmpeg', [
			'-v',
			'error',
			'-f',
			'lavfi',
			'-i',
			'color=gray:size=160x90:rate=30:duration=4',
			'-vf',
			steps,
			'-c:v',
			'libx264',
			'-g',
			'120',
			film
		]);
	});
	afterAll(() => rm(folder, { recursive: true }));

	/** Which second of the film each frame shows; −1 for black. (Adding zero makes 0 of −0.) */
	async function levels(piece: Parameters<typeof renderPiece>[0]): Promise<readonly number[]> {
		const target = join(folder, 'piece.mp4');
		const file = { path: film, containerStartSeconds: 0 };
		await renderPiece(piece, file, FORMAT, target, new AbortController().signal, () => undefined);
		const { stdout } = await run(
			'ffmpeg',
			[
				'-v',
				'error',
				'-i',
				target,
				'-fps_mode',
				'passthrough',
				'-vf',
				'scale=1:1:flags=area',
				'-pix_fmt',
				'gray',
				'-f',
				'rawvideo',
				'-'
			],
			{ encoding: 'buffer' }
		);
		return [...stdout].map((value) => Math.round((value - 40) / 50) + 0);
	}

	/** The film begins 10 s into the line-up. */
	const source = {
		fileId: 'film',
		clipId: 'clip',
		deviceId: 'camera',
		startFlicks: 10 * FLICKS_PER_SECOND,
		rateFactor: 1
	};

	it('shows at each frame the picture that was on, to the frame', async () => {
		const shown = await levels({ fromFrame: 270, toFrame: 305, shown: { kind: 'called', source } });
		// 0.8 s to 2.2 s of the film: the second begins at frame 275, the third at frame 300.
		expect(shown).toEqual([...Array<number>(5).fill(0), ...Array<number>(25).fill(1), ...Array<number>(5).fill(2)]);
	});

	it('corrects a clock, however far it is off', async () => {
		const shown = await levels({
			fromFrame: 250,
			toFrame: 350,
			shown: { kind: 'called', source: { ...source, rateFactor: 1.25 } }
		});
		// Seconds of a quarter more: 31.25 frames each; the last one is cut off at four.
		expect([0, 1, 2, 3].map((second) => shown.filter((one) => one === second).length)).toEqual([32, 31, 31, 6]);
	});

	it('holds the picture that was on at the held frame, the last one after the end, the first one before the beginning', async () => {
		const held = (heldFrame: number) => ({ kind: 'held', source, heldFrame }) as const;
		const after = await levels({ fromFrame: 400, toFrame: 425, shown: held(349) });
		expect(after).toEqual(Array<number>(25).fill(3));
		const before = await levels({ fromFrame: 100, toFrame: 110, shown: held(250) });
		expect(before).toEqual(Array<number>(10).fill(0));
		// A hole in the middle of a file: the picture before the hole, not the file's last one.
		const within = await levels({ fromFrame: 300, toFrame: 310, shown: held(299) });
		expect(within).toEqual(Array<number>(10).fill(1));
	});

	it('is black, and as long as asked, where nothing was ever seen', async () => {
		expect(await levels({ fromFrame: 0, toFrame: 7, shown: { kind: 'black' } })).toEqual(Array<number>(7).fill(-1));
	});
});
