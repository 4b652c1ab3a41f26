import { type PieceAwaited, pieceAddress } from '../../contract/media';
import { PIECE_LINES, PIECE_SECONDS, type PieceLines } from '../../core/limits/pieces';
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
/** One that could not be had is tried again after so long. */
const TRY_AGAIN_MS = 5000;

type Entry =
	| { readonly state: 'coming'; readonly piece: ShelfPiece; readonly abort: AbortController; readonly urgency: Urgency }
	| { readonly state: 'there'; readonly piece: ShelfPiece }
	| { readonly state: 'awaited'; readonly againMs: number; readonly thereMs: number }
	| { readonly state: 'failed'; readonly againMs: number; readonly problem: string };

/** Which piece holds a time. */
export function pieceAt(seconds: number): number {
	// A picture at the very edge may be told a little earlier.
	return Math.max(0, Math.floor((seconds + 0.0002) / PIECE_SECONDS));
}

/** Pieces of one file's small picture about the moment that is looked at. */
export class PieceShelf {
	problem: string | undefined;
	private readonly entries = new Map<string, Entry>();

	constructor(private readonly file: Pick<WallFile, 'fileId' | 'identity'>) {}

	/** A piece as far as it has come; whole in another size rather than in part. */
	piece(index: number, lines: PieceLines): ShelfPiece | undefined {
		const both = PIECE_LINES.flatMap((size) => {
			const entry = this.entries.get(`${index} ${size}`);
			return entry && 'piece' in entry && entry.piece.config ? [entry.piece] : [];
		});
		const rank = (piece: ShelfPiece) => (piece.isWhole ? 0 : 2) + (piece.lines === lines ? 0 : 1);
		return both.sort((a, b) => rank(a) - rank(b))[0];
	}

	/** In how many seconds a piece will be there, as far as is known. */
	secondsLeft(index: number, lines: PieceLines, nowMs: number): number | undefined {
		const entry = this.entries.get(`${index} ${lines}`);
		return entry?.state === 'awaited' ? Math.max(0, (entry.thereMs - nowMs) / 1000) : undefined;
	}

	/** Has a piece come, unless it is there or on its way. */
	want(index: number, lines: PieceLines, urgency: Urgency, nowMs: number): void {
		const key = `${index} ${lines}`;
		const entry = this.entries.get(key);
		if (entry?.state === 'there') return;
		if (entry?.state === 'coming') return;
		if (entry?.state === 'awaited' && urgency !== 'now' && nowMs < entry.againMs) return;
		if (entry?.state === 'failed' && nowMs < entry.againMs) return;
		const piece: ShelfPiece = { index, lines, config: undefined, times: [], chunks: [], isWhole: false };
		const abort = new AbortController();
		const before = entry?.state === 'awaited' ? entry.thereMs : undefined;
		this.entries.set(key, { state: 'coming', piece, abort, urgency });
		void this.load(key, piece, urgency, abort.signal, before);
	}

	/** Lets go of all but some pieces. */
	keep(from: number, to: number): void {
		for (const [key, entry] of this.entries) {
			const index = Number.parseInt(key);
			if (index >= from && index <= to) continue;
			if (entry.state === 'coming') entry.abort.abort();
			this.entries.delete(key);
		}
	}

	close(): void {
		this.keep(Infinity, -Infinity);
	}

	private async load(
		key: string,
		piece: ShelfPiece,
		urgency: Urgency,
		signal: AbortSignal,
		thereMs: number | undefined
	): Promise<void> {
		const { fileId, identity } = this.file;
		const rank = urgency === 'now' ? {} : { rank: urgency === 'soon' ? 0 : 1 };
		const set = (entry: Entry) => !signal.aborted && this.entries.set(key, entry);
		try {
			const { index, lines } = piece;
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
			set({ state: 'failed', againMs: performance.now() + TRY_AGAIN_MS, problem: this.problem });
		}
	}
}

async function sentence(response: Response): Promise<string> {
	const answer = (await response.json().catch(() => undefined)) as { readonly message?: string } | undefined;
	return answer?.message ?? 'The small picture cannot be had from the server.';
}
