import pMap from 'p-map';
import { beyondLimits } from '../../../core/gather/beyond-limits';
import type { MediaFacts } from '../../../core/gather/media-facts';
import { PIECE_SECONDS } from '../../../core/limits/pieces';
import { isNothingWritable } from '../../disk/disk-fault';
import type { JobContext } from '../../jobs/job-queue';
import type { PictureFile } from '../../media/pieces/picture-file';
import type { Runtime } from '../../runtime';
import { keepBelowLimit } from '../../storage/storage';
import { isSoundPrepared, prepareFileSound } from './prepare-file-sound';
import { piecesOnLineUps, type PieceTask, takeFollowing, takeNextPiece, takeNextSound } from './prepare-order';

interface FileToPrepare {
	id: string;
	path: string;
	relative_path: string;
	identity: string;
	facts: MediaFacts;
	listening_samples: number | null;
	heard_timecode: object | null;
}

/** Decoding the sound of one file keeps one core busy. */
const SOUNDS_AT_ONCE = 2;
/** A second of picture costs about this many times a second of sound to prepare. */
const PICTURE_COST = 6;
/** Pieces that are made in one pass: all angles must grow side by side, and what is looked at must not wait. */
const MOST_TOGETHER = 4;
/** A file of which so many pieces failed is damaged: the rest is made where somebody looks. */
const MAX_FAILURES = 3;

/**
 * Job: makes ready what helps the eye and the engine. Sound and pictures are there without it; it makes them better.
 * What an editor looks at comes first: waveforms, then small pictures about the playhead.
 */
export async function prepare(runtime: Runtime, context: JobContext): Promise<void> {
	const stored = await runtime.database.query<FileToPrepare>(
		`select id, path, relative_path, identity, facts, listening_samples, heard_timecode from media_file where shoot_id = $1 and state = 'probed' and channel_of is null order by relative_path`,
		[context.shootId]
	);
	const files = stored.filter((file) => beyondLimits(file.facts) === undefined);
	const isReady = await pMap(files, (file) => file.facts.audio === undefined || isSoundPrepared(runtime, file), {
		concurrency: 32
	});
	const sounds = files.filter((_, index) => !isReady[index]);
	const pieces = await missingPieces(runtime, context.shootId, files);
	const work = createWork(context, sounds, pieces);
	await prepareSounds(runtime, context, sounds, work);
	await makePieces(runtime, context, pieces, files, work);
	await keepBelowLimit(runtime);
	if (work.failures.length > 0) throw new Error(`Not all files could be prepared. ${work.failures.join(' ')}`);
}

/** How far all of it is, and what could not be done. */
interface Work {
	readonly failures: string[];
	/** @param cost of what is done of a file's sound, or of a piece, so far */
	tell(what: object, cost: number, name: string): void;
}

function createWork(context: JobContext, sounds: readonly FileToPrepare[], pieces: readonly PieceTask[]): Work {
	const seconds = sounds.reduce((sum, file) => sum + file.facts.durationSeconds, 0);
	const total = seconds + PICTURE_COST * PIECE_SECONDS * pieces.length;
	const spent = new Map<object, number>();
	let sum = 0;
	return {
		failures: [],
		tell(what, cost, name) {
			sum += cost - (spent.get(what) ?? 0);
			spent.set(what, cost);
			context.progress(total > 0 ? Math.min(1, sum / total) : 1, name);
		}
	};
}

async function prepareSounds(
	runtime: Runtime,
	{ signal, shootId }: JobContext,
	sounds: readonly FileToPrepare[],
	work: Work
): Promise<void> {
	const { precedence, watched } = runtime;
	const one = (file: FileToPrepare) =>
		prepareFileSound(runtime, file, {
			signal,
			onProgress: (done) => work.tell(file, Math.min(done, file.facts.durationSeconds), file.relative_path)
		});
	const left = [...sounds];
	await pMap(
		Array.from({ length: SOUNDS_AT_ONCE }),
		async () => {
			for (;;) {
				await precedence.myTurn('background', signal);
				const file = takeNextSound(left, watched.get(shootId));
				if (!file) return;
				await unlessDamaged(file, work.failures, signal, () => one(file));
				await runtime.shoots.tell(shootId);
				work.tell(file, file.facts.durationSeconds, file.relative_path);
			}
		},
		{ concurrency: SOUNDS_AT_ONCE }
	);
}

/** Pieces of the small pictures of all that has a place, as far as they are not there. */
async function missingPieces(
	{ shoots, pieces }: Runtime,
	shootId: string,
	files: readonly FileToPrepare[]
): Promise<PieceTask[]> {
	const { shoot } = await shoots.current(shootId);
	const pictures = new Map(
		files.flatMap((file) => (file.facts.video ? [[file.id, file as PictureFile] as const] : []))
	);
	const placed = shoot.clips.flatMap((clip) => (clip.placement ? [{ ...clip, placement: clip.placement }] : []));
	const all = piecesOnLineUps(placed, pictures);
	const isThere = await pMap(all, ({ file, index }) => pieces.has(file, index), { concurrency: 32 });
	return all.filter((_, at) => !isThere[at]);
}

/** One after the other: decoding a picture keeps all cores busy. */
async function makePieces(
	runtime: Runtime,
	{ signal, shootId }: JobContext,
	pieces: readonly PieceTask[],
	files: readonly FileToPrepare[],
	work: Work
): Promise<void> {
	const left = [...pieces];
	const byId = new Map(files.map((file) => [file.id, file]));
	const failures = new Map<FileToPrepare, string[]>();
	for (;;) {
		await runtime.precedence.myTurn('background', signal);
		const piece = takeNextPiece(left, runtime.watched.get(shootId));
		if (!piece) break;
		const file = byId.get(piece.fileId)!;
		// Somebody may have looked at it meanwhile.
		if (await runtime.pieces.has(piece.file, piece.index)) {
			work.tell(piece, PICTURE_COST * PIECE_SECONDS, file.relative_path);
			continue;
		}
		const run = takeFollowing(left, piece, MOST_TOGETHER);
		const failed = failures.get(file) ?? [];
		failures.set(file, failed);
		if (failed.length < MAX_FAILURES)
			await unlessDamaged(file, failed, signal, () =>
				runtime.pieces.make(piece.file, piece.index, piece.index + run.length, signal)
			);
		work.tell(piece, PICTURE_COST * PIECE_SECONDS * run.length, file.relative_path);
	}
	// Each file is told of once.
	work.failures.push(...[...failures.values()].flatMap(([first]) => first ?? []));
}

/** One damaged file holds nothing else up: it is told at the end. */
async function unlessDamaged(
	file: FileToPrepare,
	failures: string[],
	signal: AbortSignal,
	work: () => Promise<unknown>
): Promise<void> {
	signal.throwIfAborted();
	try {
		await work();
	} catch (error) {
		signal.throwIfAborted();
		// All others would fail as well.
		if (isNothingWritable(error)) throw error;
		failures.push(`${file.relative_path}: ${error instanceof Error ? error.message : 'it failed.'}`);
	}
}
