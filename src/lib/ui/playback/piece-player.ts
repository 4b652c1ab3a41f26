import pLimit from 'p-limit';
import { stillAddress } from '../../contract/media';
import { pieceAt, type PieceLines } from '../../core/limits/pieces';
import { ownTimeAt } from '../../core/time/course';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import { OriginalKeys } from './original-keys';
import { PieceShelf, type ShelfPiece, type Urgency } from './piece-shelf';
import { fetchStill } from './read-piece';
import type { WallFile } from './wall-messages';

/** Pictures decoded ahead of the one that is shown. */
const AHEAD = 7;
/** A picture this far ahead of what is decoded is gone to at once. */
const FAR_SECONDS = 0.4;
/** Pieces kept before and behind the one that is shown. */
const KEPT_BEHIND = 1;
const KEPT_AHEAD = 2;
/** Of all files together: stills that are asked for at a time. */
const STILLS_AT_ONCE = 3;
/** While playing, a still that the server makes is no older than this, as far as it keeps up; one of the recording itself. */
const STILL_STEP_SECONDS = 2;
const OWN_STILL_STEP_SECONDS = 1;
/** Standing still, one for every half second is made (see the server's grid). */
const STILL_GRID_SECONDS = 0.5;
const stillsInTurn = pLimit(STILLS_AT_ONCE);

/** What is shown of a file. */
export interface ShownPicture {
	readonly frame: VideoFrame;
	/** Since the file's first picture, in seconds: no two of its pictures have the same. */
	readonly seconds: number;
}

export interface Looking {
	readonly flicks: number;
	readonly nowMs: number;
	readonly lines: PieceLines;
	readonly isPlaying: boolean;
	/** It is looked at itself, not beside others: a piece is made at once. */
	readonly isOnAir: boolean;
}

interface Position {
	readonly piece: ShelfPiece;
	readonly at: number;
}

/**
 * Shows one file's small picture about a moving time: from pieces, of which every picture is whole in itself, so that any can
 * be gone to; until there is a piece, key pictures as stills.
 */
export class PiecePlayer {
	private readonly shelf: PieceShelf;
	private keys: OriginalKeys | undefined;
	private current: ShownPicture | undefined;
	private still: ShownPicture | undefined;
	private stillAskedSeconds: number | undefined;
	private isStillComing = false;
	private stillProblem: string | undefined;
	private decoder: VideoDecoder | undefined;
	private decoderConfig: VideoDecoderConfig | undefined;
	private generation = 0;
	/** Grows when all is let go of. */
	private visit = 0;
	private readonly waiting: { seconds: number; frame: VideoFrame }[] = [];
	private inFlight: number[] = [];
	/** Where decoding begins, and the last that was handed to the decoder since. */
	private start: Position | undefined;
	private fed: Position | undefined;
	/** What should show; nothing where no piece tells. */
	private wanted: number | undefined;
	private atSeconds = 0;
	private wantedMs = -Infinity;
	private lines: PieceLines = 160;

	constructor(readonly file: WallFile) {
		this.shelf = new PieceShelf(file);
		if (file.ownStartSeconds !== undefined) this.keys = new OriginalKeys(file);
	}

	/** Whether a line-up time lies within the file. */
	covers(flicks: number): boolean {
		return flicks >= this.file.beginFlicks && flicks < this.file.endFlicks;
	}

	/** Whether it begins soon after a line-up time. */
	beginsWithin(flicks: number, aheadFlicks: number): boolean {
		return this.file.beginFlicks > flicks && this.file.beginFlicks < flicks + aheadFlicks;
	}

	/** Whether it holds a decoder or decoded pictures: both are scarce. */
	get holdsPictures(): boolean {
		return [this.decoder, this.current, this.still].some(Boolean) || this.waiting.length > 0;
	}

	get problem(): string | undefined {
		return this.shelf.problem ?? this.stillProblem;
	}

	/** What shows now: the picture of this very time, or the newest still. */
	get shown(): ShownPicture | undefined {
		const { current, still } = this;
		if (!current || !still || this.isExact) return current ?? still;
		const off = (picture: ShownPicture) => Math.abs(this.atSeconds - picture.seconds);
		return off(still) < off(current) ? still : current;
	}

	/** Whether the picture of this very time shows. */
	get isExact(): boolean {
		return this.current !== undefined && this.current.seconds === this.wanted;
	}

	/** How many pictures what shows is off; nothing where no piece tells what should show. */
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

	/** When the piece that should show will be there, as far as is known. */
	secondsLeft({ flicks, nowMs }: Pick<Looking, 'flicks' | 'nowMs'>): number | undefined {
		return this.shelf.secondsLeft(pieceAt(this.secondsAt(flicks)), this.lines, nowMs);
	}

	/** How old what shows is, at a line-up time; nothing where nothing shows. */
	ageSeconds(flicks: number): number | undefined {
		const { shown } = this;
		return shown && this.secondsAt(flicks) - shown.seconds;
	}

	/** Nobody looks at it now: after a while it lets go of its decoder and its pictures. */
	rest(nowMs: number, afterMs: number): void {
		if (nowMs - this.wantedMs < afterMs) return;
		this.shelf.close();
		// Its index takes megabytes; it is opened anew when somebody looks.
		this.keys?.close();
		if (this.holdsPictures) this.letGo();
	}

	/** Brings the picture of a time to be shown if it is decoded, and keeps decoding ahead. */
	advance(looking: Looking): void {
		const { nowMs, lines } = looking;
		this.wantedMs = nowMs;
		this.lines = lines;
		const seconds = this.secondsAt(looking.flicks);
		if (seconds < 0) return;
		this.atSeconds = seconds;
		this.fetchAbout(seconds, looking);
		const position = this.positionAt(seconds);
		this.wanted = position?.piece.times[position.at];
		if (!position) {
			this.askStill(seconds, looking);
			return;
		}
		this.goTo(position);
		this.pump();
	}

	close(): void {
		this.closeKeys();
		this.shelf.close();
		this.letGo();
	}

	private secondsAt(flicks: number): number {
		return ownTimeAt(this.file.course, flicks) / FLICKS_PER_SECOND + 1e-6;
	}

	private letGo(): void {
		this.visit++;
		this.restart(undefined);
		this.current?.frame.close();
		this.still?.frame.close();
		this.current = undefined;
		this.still = undefined;
		this.stillAskedSeconds = undefined;
		this.wanted = undefined;
	}

	/** Has the piece of a time come, then the one behind it: what is on air is made at once. */
	private fetchAbout(seconds: number, { isOnAir, isPlaying, lines, nowMs }: Looking): void {
		const index = pieceAt(seconds);
		this.shelf.keep(index - KEPT_BEHIND, index + KEPT_AHEAD);
		const urgency: Urgency = isOnAir ? 'now' : 'soon';
		this.shelf.want(index, lines, urgency, nowMs);
		const piece = this.shelf.piece(index, lines);
		// The picture before the first of this piece is the last of the one before.
		if (piece?.times[0] !== undefined && piece.times[0] > seconds && index > 0)
			this.shelf.want(index - 1, lines, urgency, nowMs);
		if (piece?.isWhole && pieceAt(this.file.seconds - 0.001) > index)
			this.shelf.want(index + 1, lines, isOnAir && isPlaying ? 'now' : 'next', nowMs);
	}

	/** The picture that should show at a time, if its piece has come so far. */
	private positionAt(seconds: number): Position | undefined {
		for (const index of [pieceAt(seconds), pieceAt(seconds) - 1]) {
			const piece = this.shelf.piece(index, this.lines);
			if (!piece) return undefined;
			const at = lastAtOrBefore(piece.times, seconds);
			// The last one that has come may be followed by one that is nearer.
			if (at === piece.times.length - 1 && !piece.isWhole) return undefined;
			if (at >= 0) return { piece, at };
		}
		return undefined;
	}

	/** The position behind another; nothing where it has not come yet. */
	private after({ piece, at }: Position): Position | undefined {
		if (at + 1 < piece.times.length) return { piece, at: at + 1 };
		if (!piece.isWhole) return undefined;
		const next = this.shelf.piece(piece.index + 1, this.lines);
		return next && next.times.length > 0 ? { piece: next, at: 0 } : undefined;
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
		if (this.isExact) this.dropStill();
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
				this.stillProblem = error.message;
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

	/** Asks for the key picture before a time, until there is a piece. */
	private askStill(seconds: number, { isPlaying, lines }: Looking): void {
		if (this.isStillComing) return;
		const whilePlaying = this.keys ? OWN_STILL_STEP_SECONDS : STILL_STEP_SECONDS;
		const step = isPlaying ? whilePlaying : STILL_GRID_SECONDS;
		const asked = Math.floor(seconds / step) * step;
		if (this.stillAskedSeconds === asked) return;
		this.stillAskedSeconds = asked;
		this.isStillComing = true;
		void stillsInTurn(() => this.loadStill(asked, lines)).finally(() => (this.isStillComing = false));
	}

	private async loadStill(seconds: number, lines: PieceLines): Promise<void> {
		const { visit } = this;
		const { fileId, identity } = this.file;
		try {
			const still =
				(await this.ownStill(seconds)) ?? (await fetchStill(stillAddress({ fileId, key: identity, seconds, lines })));
			this.stillProblem = undefined;
			// By now there may be better, or nobody who looks.
			if (this.isExact || visit !== this.visit) {
				still.frame.close();
				return;
			}
			this.dropStill();
			this.still = still;
		} catch (error) {
			if (visit === this.visit) this.stillProblem = error instanceof Error ? error.message : String(error);
		}
	}

	/** Of the recording itself, where this browser can show it. */
	private async ownStill(seconds: number): ReturnType<OriginalKeys['key']> {
		const still = await this.keys?.key(seconds).catch(() => undefined);
		if (!still) this.closeKeys();
		return still;
	}

	private closeKeys(): void {
		this.keys?.close();
		this.keys = undefined;
	}

	private dropStill(): void {
		this.still?.frame.close();
		this.still = undefined;
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
