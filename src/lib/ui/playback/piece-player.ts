import { pieceAt, type PieceLines } from '../../core/limits/pieces';
import { PieceShelf, type ShelfPiece, type Urgency } from './piece-shelf';
import type { Still } from './read-piece';
import type { WallFile } from './wall-messages';

/** Pictures decoded ahead of the one that is shown. */
const AHEAD = 7;
/** A picture this far ahead of what is decoded is gone to at once. */
const FAR_SECONDS = 0.4;
/** Pieces kept before and behind the one that is shown. */
const KEPT_BEHIND = 1;
const KEPT_AHEAD = 2;

export interface PieceLooking {
	readonly nowMs: number;
	readonly lines: PieceLines;
	readonly isPlaying: boolean;
	/** A piece is made at once, and comes while it is made. */
	readonly isInHaste: boolean;
	/** Otherwise its pieces are kept at hand, and nothing is decoded. */
	readonly isShown: boolean;
	/** Only every so many-th picture of a piece is decoded and shown, where the machine does not keep up with all. */
	readonly every: number;
}

interface Position {
	readonly piece: ShelfPiece;
	readonly at: number;
}

/** Plays one file's small picture from pieces, of which every picture is whole in itself, so that any can be gone to. */
export class PiecePlayer {
	private readonly shelf: PieceShelf;
	/** The newest that was decoded for a time that was asked for. */
	current: Still | undefined;
	private decoderProblem: string | undefined;
	private decoder: VideoDecoder | undefined;
	private decoderConfig: VideoDecoderConfig | undefined;
	private generation = 0;
	private readonly waiting: { seconds: number; frame: VideoFrame }[] = [];
	private inFlight: number[] = [];
	/** Where decoding begins, and the last that was handed to the decoder since. */
	private start: Position | undefined;
	private fed: Position | undefined;
	/** What should show; nothing where no piece tells. */
	private wanted: number | undefined;
	private lines: PieceLines = 160;
	private every = 1;

	constructor(private readonly file: WallFile) {
		this.shelf = new PieceShelf(file);
	}

	/** Whether it holds a decoder or decoded pictures: both are scarce. */
	get holdsPictures(): boolean {
		return this.decoder !== undefined || this.current !== undefined || this.waiting.length > 0;
	}

	get problem(): string | undefined {
		return this.shelf.problem ?? this.decoderProblem;
	}

	/** Whether `current` is the picture of this very time. */
	get isExact(): boolean {
		return this.current !== undefined && this.current.seconds === this.wanted;
	}

	/** How many pictures `current` is off; nothing where no piece tells what should show. */
	get picturesOff(): number | undefined {
		if (this.wanted === undefined) return undefined;
		if (this.isExact) return 0;
		const { current, wanted } = this;
		const piece = this.shelf.piece(pieceAt(wanted), this.lines);
		if (!current || !piece) return Infinity;
		const between = piece.times.filter(
			(time) => time > Math.min(current.seconds, wanted) && time <= Math.max(current.seconds, wanted)
		);
		return pieceAt(current.seconds) === pieceAt(wanted) ? between.length : between.length + 1;
	}

	/** Whether the piece of a time may be there any moment. */
	isUncertain(seconds: number, nowMs: number): boolean {
		return this.shelf.isUncertain(pieceAt(seconds), this.lines, nowMs);
	}

	/** When the piece of a time will be there, as far as is known. */
	secondsLeft(seconds: number, nowMs: number): number | undefined {
		return this.shelf.secondsLeft(pieceAt(seconds), this.lines, nowMs);
	}

	/** Brings the picture of a time to `current` if it is decoded, and keeps decoding ahead. @returns whether there is a piece of it */
	advance(seconds: number, looking: PieceLooking): boolean {
		this.lines = looking.lines;
		this.every = looking.every;
		this.fetchAbout(seconds, looking);
		const position = this.positionAt(seconds);
		this.wanted = position?.piece.times[position.at];
		if (!position) return false;
		if (!looking.isShown) return true;
		this.goTo(position);
		this.pump();
		return true;
	}

	/** Lets go of its decoder and its pictures. */
	letGo(): void {
		this.restart(undefined);
		this.current?.frame.close();
		this.current = undefined;
		this.wanted = undefined;
	}

	/** Lets go of its pieces too. */
	close(): void {
		this.shelf.close();
		this.letGo();
	}

	/** Has the piece of a time come, then the one behind it: what is on air is made at once. */
	private fetchAbout(seconds: number, { isInHaste, isPlaying, lines, nowMs }: PieceLooking): void {
		const index = pieceAt(seconds);
		this.shelf.keep(index - KEPT_BEHIND, index + KEPT_AHEAD);
		const urgency: Urgency = isInHaste ? 'now' : 'soon';
		this.shelf.want(index, lines, urgency, nowMs);
		const piece = this.shelf.piece(index, lines);
		// The picture before the first of this piece is the last of the one before.
		if (piece?.times[0] !== undefined && piece.times[0] > seconds && index > 0)
			this.shelf.want(index - 1, lines, urgency, nowMs);
		if (piece?.isWhole && pieceAt(this.file.seconds - 0.001) > index)
			this.shelf.want(index + 1, lines, isInHaste && isPlaying ? 'now' : 'next', nowMs);
	}

	/** The picture that should show at a time, if its piece has come so far. */
	private positionAt(seconds: number): Position | undefined {
		for (const index of [pieceAt(seconds), pieceAt(seconds) - 1]) {
			const piece = this.shelf.piece(index, this.lines);
			if (!piece) return undefined;
			const at = lastAtOrBefore(piece.times, seconds);
			// The last one that has come may be followed by one that is nearer.
			if (at === piece.times.length - 1 && !piece.isWhole) return undefined;
			if (at >= 0) return { piece, at: at - (at % this.every) };
		}
		return undefined;
	}

	/** The position behind another; nothing where it has not come yet. */
	private after({ piece, at }: Position): Position | undefined {
		const next = at - (at % this.every) + this.every;
		if (next < piece.times.length) return { piece, at: next };
		if (!piece.isWhole) return undefined;
		const following = this.shelf.piece(piece.index + 1, this.lines);
		return following && following.times.length > 0 ? { piece: following, at: 0 } : undefined;
	}

	private goTo(position: Position): void {
		const wanted = position.piece.times[position.at]!;
		if (this.current?.seconds !== wanted) {
			const first = this.waiting[0]?.seconds ?? this.inFlight[0] ?? secondsOf(this.next());
			const last = secondsOf(this.fed ?? this.start);
			const isAtHand = first !== undefined && wanted >= first && wanted < last! + FAR_SECONDS;
			if (!isAtHand) this.restart(position);
		}
		while (this.waiting.length > 0 && this.waiting[0]!.seconds <= wanted) {
			this.current?.frame.close();
			this.current = this.waiting.shift();
		}
		// Far behind: what is not yet decoded is left out.
		const next = secondsOf(this.next());
		if (!this.isExact && this.inFlight.length === 0 && (next === undefined || next < wanted)) {
			this.start = position;
			this.fed = undefined;
		}
	}

	/** What is to be decoded next; nothing where it has not come yet. */
	private next(): Position | undefined {
		return this.fed ? this.after(this.fed) : this.start;
	}

	private restart(position: Position | undefined): void {
		this.generation++;
		for (const picture of this.waiting.splice(0)) picture.frame.close();
		this.inFlight = [];
		this.start = position;
		this.fed = undefined;
		if (this.decoder && this.decoder.state !== 'closed') this.decoder.close();
		this.decoder = undefined;
	}

	private decoderFor(config: VideoDecoderConfig): VideoDecoder {
		const isLike = this.decoder?.state === 'configured' && this.decoderConfig?.codedHeight === config.codedHeight;
		this.decoderConfig = config;
		// Pieces of one size are all made by the same coder.
		if (isLike) return this.decoder!;
		const generation = this.generation;
		if (this.decoder && this.decoder.state !== 'closed') this.decoder.close();
		const decoder = new VideoDecoder({
			output: (frame) => {
				const seconds = generation === this.generation ? this.inFlight.shift() : undefined;
				if (seconds === undefined) frame.close();
				else this.waiting.push({ seconds, frame });
			},
			error: (error) => {
				if (generation !== this.generation) return;
				this.decoderProblem = error.message;
				this.restart(this.next());
			}
		});
		decoder.configure(config);
		this.decoder = decoder;
		return decoder;
	}

	private pump(): void {
		while (this.waiting.length + this.inFlight.length < AHEAD) {
			const next = this.next();
			if (!next) return;
			const { piece, at } = next;
			// Another size: what was decoded is kept until it shows.
			const isOther = this.decoderConfig?.codedHeight !== piece.config!.codedHeight;
			if (isOther && this.inFlight.length > 0) return;
			const decoder = this.decoderFor(piece.config!);
			this.inFlight.push(piece.times[at]!);
			decoder.decode(piece.chunks[at]!);
			this.fed = next;
		}
	}
}

function secondsOf(position: Position | undefined): number | undefined {
	return position?.piece.times[position.at];
}

/** @param times ascending @returns -1 where all are later */
function lastAtOrBefore(times: readonly number[], seconds: number): number {
	let low = 0;
	let high = times.length;
	while (low < high) {
		const middle = (low + high) >> 1;
		if (times[middle]! <= seconds) low = middle + 1;
		else high = middle;
	}
	return low - 1;
}
