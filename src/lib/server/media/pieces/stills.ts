import { readFile } from 'node:fs/promises';
import { LRUCache } from 'lru-cache';
import pLimit from 'p-limit';
import { PIECE_EDGE_SECONDS, pieceAt, type PieceLines } from '../../../core/limits/pieces';
import type { OwnTurn, Precedence } from '../../jobs/precedence';
import type { MediaCache } from '../media-cache';
import { MediaError } from '../media-error';
import { fragmentAt, fragmentTicks } from '../mp4-boxes';
import { runTool } from '../run-tool';
import type { PictureFile } from './picture-file';
import { pieceKind } from './piece-maker';
import { stillArguments, type StillPlace, stillRunUps, TICKS_A_SECOND } from './small-picture';

/** Small stills of files: key pictures, which are found soon wherever they are. */
export interface Stills {
	/**
	 * The key picture at or before a time, as a piece of one picture, which tells its own time.
	 * @param atSeconds since the file's first picture @throws MediaError
	 */
	still(file: PictureFile, atSeconds: number, lines: PieceLines): Promise<Uint8Array<ArrayBuffer>>;
	/**
	 * A picture at or before a time for a strip of many: out of a piece where there is one, else the key picture, which waits
	 * for all that is looked at itself. @throws MediaError
	 */
	besides(file: PictureFile, atSeconds: number): Promise<Uint8Array<ArrayBuffer>>;
}

const STRIP_LINES: PieceLines = 160;

const AT_ONCE = 2;
/** Some thousands of them. */
const MAX_BYTES = 64 * 2 ** 20;
const TIMEOUT_SECONDS = 60;
/** A still serves for all times within so long. */
const GRID_SECONDS = 0.5;

export function openStills(cache: MediaCache, precedence: Precedence): Stills {
	const inTurn = { 'at once': pLimit(AT_ONCE), near: pLimit(1) };
	const kept = new LRUCache<string, Uint8Array<ArrayBuffer>, StillAsked>({
		maxSize: MAX_BYTES,
		sizeCalculation: (bytes) => Math.max(1, bytes.length),
		ignoreFetchAbort: true,
		allowStaleOnFetchAbort: true,
		fetchMethod: (_name, _stale, { context: { file, at, lines, level } }) =>
			inTurn[level](() => precedence.run(level, (turn) => make(file, at, lines, turn)))
	});
	const keyAt = (file: PictureFile, atSeconds: number, lines: PieceLines, level: StillAsked['level']) => {
		const at = Math.floor(atSeconds / GRID_SECONDS) * GRID_SECONDS;
		return kept.forceFetch(`${file.identity} ${lines} ${at} ${level}`, { context: { file, at, lines, level } });
	};
	return {
		still: (file, atSeconds, lines) => keyAt(file, atSeconds, lines, 'at once'),
		besides: async (file, atSeconds) =>
			(await ofPiece(cache, file, atSeconds)) ?? (await keyAt(file, atSeconds, STRIP_LINES, 'near'))
	};
}

/** The picture of a time, where its piece was made before. */
async function ofPiece(
	cache: MediaCache,
	{ identity }: PictureFile,
	atSeconds: number
): Promise<Uint8Array<ArrayBuffer> | undefined> {
	const piece = await readFile(cache.path(identity, pieceKind(pieceAt(atSeconds), STRIP_LINES))).catch(() => undefined);
	const picture = piece && fragmentAt(piece, Math.round((atSeconds + PIECE_EDGE_SECONDS) * TICKS_A_SECOND));
	return picture && new Uint8Array(picture);
}

interface StillAsked {
	readonly file: PictureFile;
	readonly at: number;
	readonly lines: PieceLines;
	readonly level: 'at once' | 'near';
}

async function make(
	file: PictureFile,
	atSeconds: number,
	lines: PieceLines,
	turn: OwnTurn
): Promise<Uint8Array<ArrayBuffer>> {
	let later: Uint8Array<ArrayBuffer> | undefined;
	for (const earlierSeconds of stillRunUps(file)) {
		const bytes =
			(await runFor(file, { atSeconds, lines, earlierSeconds, skipping: true }, turn)) ??
			(await runFor(file, { atSeconds, lines, earlierSeconds, skipping: false }, turn));
		const ticks = bytes && fragmentTicks(bytes);
		if (!bytes || ticks === undefined) continue;
		if (ticks / TICKS_A_SECOND <= atSeconds + PIECE_EDGE_SECONDS) return bytes;
		later ??= bytes;
	}
	// A file may begin with pictures that are no key pictures.
	if (later) return later;
	throw new MediaError('unreadable', 'There is no picture at that time.');
}

/** @returns nothing where no picture came: only a head */
async function runFor(file: PictureFile, asked: StillPlace, turn: OwnTurn): Promise<Buffer<ArrayBuffer> | undefined> {
	const blocks: Buffer[] = [];
	await runTool('ffmpeg', stillArguments(file, asked), {
		timeoutSeconds: TIMEOUT_SECONDS,
		pausing: turn,
		onOutput: (block) => void blocks.push(block)
	});
	const bytes = Buffer.concat(blocks);
	return bytes.includes('mdat') ? bytes : undefined;
}
