import { type PieceAwaited, pieceAddress } from '../../contract/media';
import { PIECE_LINES, type PieceLines } from '../../core/limits/pieces';
import { readPiece } from './read-piece';
import type { WallFile } from './wall-messages';

/** A piece of a small picture, as far as it has come. */
export interface ShelfPiece {
	readonly index: number;
	readonly lines: PieceLines;
	config: VideoDecoderConfig | undefined;
	/** Since the file's first picture, in seconds. */
	readonly times: number[];
	readonly chunks: EncodedVideoChunk[];
	isWhole: boolean;
}

/** How soon a piece is wanted: it is made at once, or in its turn. */
export type Urgency = 'now' | 'soon' | 'next';

/** A piece that is being made is asked for again after so long. */
const ASK_AGAIN_MS = 600;
/** Within so long the server has told whether a piece is there; one that is made at once comes anyway, sooner or later. */
const UNCERTAIN_MS: Readonly<Record<Urgency, number>> = { now: 150, soon: 1000, next: 1000 };
/** One that could not be had is tried again after so long. */
const TRY_AGAIN_MS = 5000;

type Entry =
	| {
			readonly state: 'coming';
			readonly piece: ShelfPiece;
			readonly abort: AbortController;
			readonly sinceMs: number;
			readonly urgency: Urgency;
	  }
	| { readonly state: 'there'; readonly piece: ShelfPiece }
	| { readonly state: 'awaited'; readonly againMs: number; readonly thereMs: number }
	| { readonly state: 'failed'; readonly againMs: number };

/** Pieces of one file's small picture about the moment that is looked at. */
export class PieceShelf {
	problem: string | undefined;
	private readonly entries: Readonly<Record<PieceLines, Map<number, Entry>>> = { 360: new Map(), 160: new Map() };

	constructor(private readonly file: Pick<WallFile, 'fileId' | 'identity'>) {}

	/** A piece as far as it has come; whole in another size rather than in part. */
	piece(index: number, lines: PieceLines): ShelfPiece | undefined {
		const wanted = this.come(index, lines);
		if (wanted?.isWhole) return wanted;
		const other = this.come(index, lines === 160 ? 360 : 160);
		return other?.isWhole ? other : (wanted ?? other);
	}

	/** Whether it is not known yet if a piece is there: soon it will be. */
	isUncertain(index: number, lines: PieceLines, nowMs: number): boolean {
		const entry = this.entries[lines].get(index);
		return entry?.state === 'coming' && nowMs - entry.sinceMs < UNCERTAIN_MS[entry.urgency];
	}

	/** In how many seconds a piece will be there, as far as is known. */
	secondsLeft(index: number, lines: PieceLines, nowMs: number): number | undefined {
		const entry = this.entries[lines].get(index);
		return entry?.state === 'awaited' ? Math.max(0, (entry.thereMs - nowMs) / 1000) : undefined;
	}

	/** Has a piece come, unless it is there or on its way. */
	want(index: number, lines: PieceLines, urgency: Urgency, nowMs: number): void {
		const entry = this.entries[lines].get(index);
		if (entry?.state === 'there' || entry?.state === 'coming') return;
		if (entry?.state === 'awaited' && urgency !== 'now' && nowMs < entry.againMs) return;
		if (entry?.state === 'failed' && nowMs < entry.againMs) return;
		const piece: ShelfPiece = { index, lines, config: undefined, times: [], chunks: [], isWhole: false };
		const abort = new AbortController();
		this.entries[lines].set(index, { state: 'coming', piece, abort, sinceMs: nowMs, urgency });
		void this.load(piece, urgency, abort.signal, entry?.state === 'awaited' ? entry.thereMs : undefined);
	}

	/** Lets go of all but some pieces. */
	keep(from: number, to: number): void {
		for (const lines of PIECE_LINES)
			for (const [index, entry] of this.entries[lines]) {
				if (index >= from && index <= to) continue;
				if (entry.state === 'coming') entry.abort.abort();
				this.entries[lines].delete(index);
			}
	}

	close(): void {
		this.keep(Infinity, -Infinity);
	}

	/** A piece of a size, once its head has come. */
	private come(index: number, lines: PieceLines): ShelfPiece | undefined {
		const entry = this.entries[lines].get(index);
		return entry && 'piece' in entry && entry.piece.config ? entry.piece : undefined;
	}

	private async load(
		piece: ShelfPiece,
		urgency: Urgency,
		signal: AbortSignal,
		thereMs: number | undefined
	): Promise<void> {
		const { fileId, identity } = this.file;
		const rank = urgency === 'now' ? {} : { rank: urgency === 'soon' ? 0 : 1 };
		const { index, lines } = piece;
		const set = (entry: Entry) => !signal.aborted && this.entries[lines].set(index, entry);
		try {
			const response = await fetch(pieceAddress({ fileId, key: identity, index, lines, ...rank }), { signal });
			if (response.status === 202) {
				const { secondsLeft } = (await response.json()) as PieceAwaited;
				const nowMs = performance.now();
				// What was promised first counts until it is past: a number that jumps tells nothing.
				const promised = nowMs + secondsLeft * 1000;
				const kept = thereMs !== undefined && thereMs > nowMs ? Math.min(thereMs, promised) : promised;
				set({ state: 'awaited', againMs: nowMs + ASK_AGAIN_MS, thereMs: kept });
				return;
			}
			if (!response.ok || !response.body) throw new Error(await sentence(response));
			await readPiece(response.body, {
				onConfig: (config) => (piece.config = config),
				onPicture(seconds, chunk) {
					piece.times.push(seconds);
					piece.chunks.push(chunk);
				}
			});
			piece.isWhole = true;
			set({ state: 'there', piece });
			this.problem = undefined;
		} catch (error) {
			if (signal.aborted) return;
			this.problem = error instanceof Error ? error.message : String(error);
			set({ state: 'failed', againMs: performance.now() + TRY_AGAIN_MS });
		}
	}
}

async function sentence(response: Response): Promise<string> {
	const answer = (await response.json().catch(() => undefined)) as { readonly message?: string } | undefined;
	return answer?.message ?? 'The small picture cannot be had from the server.';
}
