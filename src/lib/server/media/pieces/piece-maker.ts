import { setTimeout as delay } from 'node:timers/promises';
import { type FileHandle, open } from 'node:fs/promises';
import { PIECE_LINES, PIECE_SECONDS, type PieceLines, pieceCount } from '../../../core/limits/pieces';
import type { Level, OwnTurn, Precedence } from '../../jobs/precedence';
import type { CachedKind, MediaCache } from '../media-cache';
import { DECODER_STALL_SECONDS, runTool, SEEK_STALL_SECONDS } from '../run-tool';
import { type PictureFile, pictureSeconds } from './picture-file';
import { isIndexed, pieceArguments, type PieceTarget, runUps } from './small-picture';

/** Small pictures of files, in pieces: made where they are wanted, kept from then on. */
export interface PieceMaker {
	has(file: PictureFile, index: number): Promise<boolean>;
	/** Makes a piece, unless it is there. Whoever asks meanwhile waits for the same work. @throws MediaError, AbortError */
	make(file: PictureFile, index: number, level: Level, signal?: AbortSignal): Promise<void>;
	/** Makes several that follow each other, in one pass, as background: quicker than one by one. @throws MediaError, AbortError */
	makeRun(file: PictureFile, from: number, to: number, signal: AbortSignal): Promise<void>;
	/** A piece from its first byte on, while it is made if it is not there yet. @throws MediaError */
	stream(file: PictureFile, index: number, lines: PieceLines): Promise<ReadableStream<Uint8Array>>;
	/**
	 * Has a piece made soon.
	 * @param rank what is looked at now comes first, with 0
	 * @returns in how many seconds it will be there, by what others took
	 */
	ask(file: PictureFile, index: number, rank: number): number;
	/** Waits for what is being made. */
	close(): Promise<void>;
}

interface Making {
	readonly done: Promise<void>;
	readonly abort: AbortController;
	/** Where it grows, once it has begun. */
	readonly growing: Promise<Readonly<Record<PieceLines, string>>>;
	turn: OwnTurn | undefined;
	level: Level;
}

interface Asked {
	readonly file: PictureFile;
	readonly index: number;
	rank: number;
	atMs: number;
}

/** Nobody looks any more at what was not asked for again for so long. */
const FORGOTTEN_AFTER_MS = 4000;
/** What is being made is looked at again for more after so long. */
const LOOK_AGAIN_MS = 40;
const READ_BYTES = 2 ** 18;
/** What comes of a piece is told by nothing: it must be made within so long. */
const STALL_SECONDS = SEEK_STALL_SECONDS + DECODER_STALL_SECONDS;
/** Share of a second that a second of a large HD picture takes, until something was measured. */
const USUAL_COST = 0.5;
const USUAL_POINTS = 1920 * 1080;
/** How much the newest counts for the usual cost. */
const NEWEST_SHARE = 0.3;

/** Name of a piece in the caches. */
export function pieceKind(index: number, lines: PieceLines): CachedKind {
	return `piece-${index}-${lines}.mp4`;
}

async function makeAll(
	file: PictureFile,
	targets: readonly PieceTarget[],
	turn: OwnTurn,
	signal: AbortSignal
): Promise<void> {
	const { index, path } = targets[0]!;
	const from = index * PIECE_SECONDS;
	for (const runUp of runUps(file)) {
		// Nothing is told of its progress: what was decoded before a piece is thrown away.
		const options = { signal, pausing: turn, stallSeconds: STALL_SECONDS };
		await runTool('ffmpeg', pieceArguments(file, targets, runUp), options);
		if (from <= runUp || isIndexed(file) || (await beginsAt(path, from, file))) return;
	}
}

export function openPieceMaker(cache: MediaCache, precedence: Precedence): PieceMaker {
	const making = new Map<string, Making>();
	const asked = new Map<string, Asked>();
	const closing = new AbortController();
	let isServing: Promise<void> | undefined;
	let cost = USUAL_COST;

	const nameOf = ({ identity }: PictureFile, index: number) => `${identity} ${index}`;
	const points = ({ facts: { video } }: PictureFile) => (video.width * video.height) / USUAL_POINTS;
	const has = (file: PictureFile, index: number) => cache.has(file.identity, pieceKind(index, PIECE_LINES[0]));

	function begin(file: PictureFile, index: number, level: Level): Making {
		const abort = new AbortController();
		let grows!: (paths: Record<PieceLines, string>) => void;
		const growing = new Promise<Readonly<Record<PieceLines, string>>>((resolve) => (grows = resolve));
		const one: Making = { abort, growing, turn: undefined, level, done: work() };
		async function work(): Promise<void> {
			// So that `one` is there.
			await Promise.resolve();
			await precedence.run(one.level, async (turn) => {
				one.turn = turn;
				const began = performance.now();
				const signal = AbortSignal.any([abort.signal, closing.signal]);
				await makePieces(file, index, index + 1, turn, signal, (targets) => {
					// What may have to be made again is not shown before it is whole.
					if (isIndexed(file))
						grows(Object.fromEntries(targets.map(({ lines, path }) => [lines, path])) as Record<PieceLines, string>);
				});
				const newest = (performance.now() - began) / 1000 / PIECE_SECONDS / points(file);
				if (one.level !== 'background') cost += NEWEST_SHARE * (newest - cost);
			});
		}
		one.done.catch(() => undefined).finally(() => making.delete(nameOf(file, index)));
		making.set(nameOf(file, index), one);
		return one;
	}

	/** Makes pieces that follow each other; all are put in their places when all are whole. */
	async function makePieces(
		file: PictureFile,
		from: number,
		to: number,
		turn: OwnTurn,
		signal: AbortSignal,
		onBegin?: (targets: readonly PieceTarget[]) => void
	): Promise<void> {
		const wanted = Array.from({ length: to - from }, (_, at) => from + at).flatMap((index) =>
			PIECE_LINES.map((lines) => ({ index, lines }))
		);
		const put = (targets: readonly PieceTarget[]): Promise<void> => {
			const next = wanted[targets.length];
			if (next)
				return cache.put(file.identity, pieceKind(next.index, next.lines), (path) =>
					put([...targets, { ...next, path }])
				);
			onBegin?.(targets);
			return makeAll(file, targets, turn, signal);
		};
		await put([]);
	}

	function join(file: PictureFile, index: number, level: Level): Making {
		const known = making.get(nameOf(file, index));
		if (!known) return begin(file, index, level);
		known.turn?.raise(level);
		return known;
	}

	/** Makes what was asked for, one at a time: decoding a picture keeps all cores busy. */
	async function serve(): Promise<void> {
		while (!closing.signal.aborted) {
			const oldest = performance.now() - FORGOTTEN_AFTER_MS;
			for (const [name, one] of asked) if (one.atMs < oldest) asked.delete(name);
			let next: [string, Asked] | undefined;
			for (const entry of asked) if (!next || entry[1].rank < next[1].rank) next = entry;
			if (!next) return;
			const [name, { file, index }] = next;
			// A piece that cannot be made is told when it is streamed; here it only must not be tried for ever.
			if (!(await has(file, index))) await join(file, index, 'near').done.catch(() => undefined);
			asked.delete(name);
		}
	}

	return {
		has,
		async make(file, index, level, signal) {
			signal?.throwIfAborted();
			if (await has(file, index)) return;
			const one = join(file, index, level);
			const giveUp = () => one.abort.abort(signal?.reason);
			signal?.addEventListener('abort', giveUp);
			try {
				await one.done;
			} finally {
				signal?.removeEventListener('abort', giveUp);
			}
		},
		makeRun: (file, from, to, signal) =>
			precedence.run('background', (turn) =>
				makePieces(file, from, to, turn, AbortSignal.any([signal, closing.signal]))
			),
		async stream(file, index, lines) {
			const path = cache.path(file.identity, pieceKind(index, lines));
			const whole = await open(path, 'r').catch(() => undefined);
			if (whole) return streamFile(whole, undefined);
			const one = join(file, index, 'on air');
			const paths = await Promise.race([one.growing, one.done.then(() => undefined)]);
			return streamFile(await openGrowing(paths?.[lines] ?? path, path, one.done), one.done);
		},
		ask(file, index, rank) {
			const name = nameOf(file, index);
			const known = asked.get(name);
			if (known) Object.assign(known, { rank, atMs: performance.now() });
			else asked.set(name, { file, index, rank, atMs: performance.now() });
			isServing ??= serve().finally(() => (isServing = undefined));
			const before = [...asked.values()].filter((one) => one.rank <= rank);
			const pieces = making.has(name) ? 1 : before.length;
			return pieces * PIECE_SECONDS * cost * points(file);
		},
		async close() {
			closing.abort(new DOMException('The server closes.', 'AbortError'));
			await Promise.all([...making.values()].map((one) => one.done.catch(() => undefined)));
			await isServing;
		}
	};
}

/** Enough for the head of a piece and of its first picture. */
const HEAD_BYTES = 4096;
const TICKS_A_SECOND = 90_000;

/** Whether a piece has its first picture: its time stands in the head of its first fragment (ISO/IEC 14496-12, "tfdt"). */
async function beginsAt(path: string, seconds: number, { facts: { video } }: PictureFile): Promise<boolean> {
	const file = await open(path, 'r');
	try {
		const head = Buffer.alloc(HEAD_BYTES);
		const { bytesRead } = await file.read(head, 0, HEAD_BYTES, 0);
		const at = head.subarray(0, bytesRead).indexOf('tfdt');
		if (at < 0) return false;
		const isLong = head[at + 4] === 1;
		const ticks = isLong ? Number(head.readBigUInt64BE(at + 8)) : head.readUInt32BE(at + 8);
		return ticks / TICKS_A_SECOND < seconds + (1.5 * video.rate.den) / video.rate.num;
	} finally {
		await file.close();
	}
}

/** Opens a file that is about to be written; it may be whole, and in its place, by then. */
async function openGrowing(growing: string, whole: string, done: Promise<void>): Promise<FileHandle> {
	let isDone = false;
	void done.catch(() => undefined).finally(() => (isDone = true));
	for (;;) {
		const file = (await open(growing, 'r').catch(() => undefined)) ?? (await open(whole, 'r').catch(() => undefined));
		if (file) return file;
		if (isDone) await done;
		await delay(LOOK_AGAIN_MS);
	}
}

/** A file as it grows. @param done when nothing more comes; nothing where it is whole */
function streamFile(file: FileHandle, done: Promise<void> | undefined): ReadableStream<Uint8Array> {
	let at = 0;
	let isDone = done === undefined;
	let fault: unknown;
	void done?.catch((error: unknown) => (fault = error)).finally(() => (isDone = true));
	return new ReadableStream<Uint8Array>({
		async pull(controller) {
			for (;;) {
				// Asked before reading: what was written until then is read.
				const wasDone = isDone;
				const block = new Uint8Array(READ_BYTES);
				const { bytesRead } = await file.read(block, 0, READ_BYTES, at);
				if (bytesRead > 0) {
					at += bytesRead;
					controller.enqueue(block.subarray(0, bytesRead));
					return;
				}
				if (!wasDone) {
					await delay(LOOK_AGAIN_MS);
					continue;
				}
				await file.close();
				if (fault) controller.error(fault);
				else controller.close();
				return;
			}
		},
		cancel: () => file.close()
	});
}

/** Pieces of a file that show anything of a stretch of its pictures. @returns the first and the one behind the last */
export function piecesWithin(file: PictureFile, fromSeconds: number, toSeconds: number): readonly [number, number] {
	const count = pieceCount(pictureSeconds(file));
	const first = Math.max(0, Math.floor(fromSeconds / PIECE_SECONDS));
	return [Math.min(first, count), Math.max(first, Math.min(count, Math.ceil(toSeconds / PIECE_SECONDS)))];
}
