import { open } from 'node:fs/promises';
import { LRUCache } from 'lru-cache';
import { PIECE_LINES, PIECE_SECONDS, type PieceLines } from '../../../core/limits/pieces';
import type { OwnTurn, Precedence } from '../../jobs/precedence';
import type { CachedKind, MediaCache } from '../media-cache';
import { firstFragmentTicks } from '../mp4-boxes';
import { DECODER_STALL_SECONDS, runTool, SEEK_STALL_SECONDS } from '../run-tool';
import { openGrowing, streamFile } from './growing-file';
import type { PictureFile } from './picture-file';
import { isIndexed, pieceArguments, type PieceTarget, runUps, TICKS_A_SECOND } from './small-picture';

/** Small pictures of files, in pieces: made where they are wanted, kept from then on. */
export interface PieceMaker {
	has(file: PictureFile, index: number): Promise<boolean>;
	/** Makes pieces `[from, to)` in one pass, as background: quicker than one by one. @throws MediaError, AbortError */
	make(file: PictureFile, from: number, to: number, signal: AbortSignal): Promise<void>;
	/**
	 * A piece from its first byte on, while it is made if it is not there yet. Once nobody reads it any more it is given up.
	 * @throws MediaError
	 */
	stream(file: PictureFile, index: number, lines: PieceLines): Promise<ReadableStream<Uint8Array>>;
	/**
	 * Has a piece made soon.
	 * @param rank what is looked at now comes first, with 0
	 * @returns in how many seconds it will be there, by what others took
	 * @throws MediaError it could not be made a moment ago
	 */
	ask(file: PictureFile, index: number, rank: number): number;
	/** Waits for what is being made. */
	close(): Promise<void>;
}

interface Making {
	readonly done: Promise<void>;
	readonly abort: AbortController;
	/** Where it grows, once it has begun. */
	readonly growing: Promise<readonly PieceTarget[]>;
	turn: OwnTurn | undefined;
	/** Who waits for it. */
	waiting: number;
}

interface Asked {
	readonly file: PictureFile;
	readonly index: number;
	rank: number;
	atMs: number;
}

/** Nobody looks any more at what was not asked for again for so long. */
const FORGOTTEN_AFTER_MS = 4000;
/** What could not be made is tried again no sooner. */
const TRY_AGAIN_MS = 30_000;
const MAX_FAILURES = 1000;
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

export function openPieceMaker(cache: MediaCache, precedence: Precedence): PieceMaker {
	const making = new Map<string, Making>();
	const asked = new Map<string, Asked>();
	const failed = new LRUCache<string, Error>({ max: MAX_FAILURES, ttl: TRY_AGAIN_MS });
	const closing = new AbortController();
	let isServing: Promise<void> | undefined;
	let cost = USUAL_COST;

	const nameOf = ({ identity }: PictureFile, index: number) => `${identity} ${index}`;
	const points = ({ facts: { video } }: PictureFile) => (video.width * video.height) / USUAL_POINTS;
	const has = (file: PictureFile, index: number) => cache.has(file.identity, pieceKind(index, PIECE_LINES[0]));

	function begin(file: PictureFile, index: number, level: 'on air' | 'near'): Making {
		const name = nameOf(file, index);
		const abort = new AbortController();
		let grows!: (targets: readonly PieceTarget[]) => void;
		const growing = new Promise<readonly PieceTarget[]>((resolve) => (grows = resolve));
		const done = precedence.run(level, async (turn) => {
			// So that `one` is there.
			await Promise.resolve();
			one.turn = turn;
			const began = performance.now();
			const signal = AbortSignal.any([abort.signal, closing.signal]);
			// What may have to be made again is not shown before it is whole.
			await putPieces(file, index, index + 1, turn, signal, isIndexed(file) ? grows : undefined);
			const newest = (performance.now() - began) / 1000 / PIECE_SECONDS / points(file);
			cost += NEWEST_SHARE * (newest - cost);
		});
		const one: Making = { abort, growing, done, turn: undefined, waiting: 0 };
		making.set(name, one);
		done
			.catch((error: unknown) => {
				if (!abort.signal.aborted && error instanceof Error) failed.set(name, error);
			})
			.finally(() => making.get(name) === one && making.delete(name));
		return one;
	}

	/** Makes pieces that follow each other; all are put in their places when all are whole. */
	async function putPieces(
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
			return writePieces(file, targets, turn, signal);
		};
		await put([]);
	}

	/** Waits for a piece along with others. @returns it, and how to wait no longer: what nobody waits for is given up */
	function join(file: PictureFile, index: number, level: 'on air' | 'near'): [Making, () => void] {
		const name = nameOf(file, index);
		const one = making.get(name) ?? begin(file, index, level);
		one.turn?.raise(level);
		one.waiting++;
		let hasLeft = false;
		const leave = () => {
			if (hasLeft) return;
			hasLeft = true;
			if (--one.waiting > 0) return;
			if (making.get(name) === one) making.delete(name);
			one.abort.abort(new DOMException('Nobody waits for it.', 'AbortError'));
		};
		return [one, leave];
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
			if (!(await has(file, index))) {
				const [one, leave] = join(file, index, 'near');
				// What went wrong is told to whoever asks again.
				await one.done.catch(() => undefined);
				leave();
			}
			asked.delete(name);
		}
	}

	return {
		has,
		make: (file, from, to, signal) =>
			precedence.run('background', (turn) =>
				putPieces(file, from, to, turn, AbortSignal.any([signal, closing.signal]))
			),
		async stream(file, index, lines) {
			const path = cache.path(file.identity, pieceKind(index, lines));
			const whole = await open(path, 'r').catch(() => undefined);
			if (whole) return streamFile(whole, undefined);
			const [one, leave] = join(file, index, 'on air');
			try {
				const targets = await Promise.race([one.growing, one.done.then(() => [])]);
				const growing = targets.find((target) => target.lines === lines)?.path ?? path;
				return streamFile(await openGrowing(growing, path, one.done), one.done, leave);
			} catch (error) {
				leave();
				throw error;
			}
		},
		ask(file, index, rank) {
			const name = nameOf(file, index);
			const fault = failed.get(name);
			if (fault) throw fault;
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

async function writePieces(
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

/** Whether a piece has its first picture. */
async function beginsAt(path: string, seconds: number, { facts: { video } }: PictureFile): Promise<boolean> {
	const ticks = await firstFragmentTicks(path);
	const pictureSeconds = video.rate.den / video.rate.num;
	return ticks !== undefined && ticks / TICKS_A_SECOND < seconds + 1.5 * pictureSeconds;
}
