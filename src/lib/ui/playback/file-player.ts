import type { PieceLines } from '../../core/limits/pieces';
import { ownTimeAt } from '../../core/time/course';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import { OriginalPictures } from './original-pictures';
import { OriginalPlayer } from './original-player';
import { PiecePlayer } from './piece-player';
import type { Still } from './read-piece';
import { areStillsComing, StillPlayer } from './still-player';
import type { WallFile } from './wall-messages';

export interface Looking {
	readonly flicks: number;
	readonly nowMs: number;
	readonly lines: PieceLines;
	readonly isPlaying: boolean;
	/** It is looked at itself, not beside others. */
	readonly isOnAir: boolean;
	/** Of pieces, only every so many-th picture is shown. */
	readonly every: number;
}

/** An index of a long recording takes megabytes: it is let go of when pieces have served for so long. */
const CLOSE_ORIGINAL_AFTER_MS = 3000;

/**
 * Shows one file's picture about a moving time, the best that there is: of the recording itself, from pieces of its small
 * picture, or a still.
 */
export class FilePlayer {
	private readonly pieces: PiecePlayer;
	private readonly stills: StillPlayer;
	private readonly originalPictures: OriginalPictures | undefined;
	private readonly original: OriginalPlayer | undefined;
	/** Since the file's first picture. */
	private atSeconds = 0;
	private wantedMs = -Infinity;
	private originalUsedMs = 0;

	constructor(readonly file: WallFile) {
		this.originalPictures = file.own ? new OriginalPictures(file) : undefined;
		this.original = this.originalPictures && new OriginalPlayer(this.originalPictures);
		this.pieces = new PiecePlayer(file);
		this.stills = new StillPlayer(file, this.originalPictures);
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
		const { pieces, stills, original } = this;
		return pieces.holdsPictures || stills.still !== undefined || (original?.holdsPictures ?? false);
	}

	get problem(): string | undefined {
		return this.pieces.problem ?? this.stills.problem;
	}

	/** What shows now: the picture of this very time, or what is nearest to it. */
	get shown(): Still | undefined {
		const own = this.original?.exactAt(this.atSeconds);
		if (own) return own;
		if (this.pieces.isExact) return this.pieces.current;
		let nearest: Still | undefined;
		for (const one of [this.pieces.current, this.stills.still, this.original?.newest])
			if (one && (!nearest || this.offSeconds(one) < this.offSeconds(nearest))) nearest = one;
		return nearest;
	}

	/** Whether the picture of this very time shows. */
	get isExact(): boolean {
		return this.pieces.isExact || this.original?.exactAt(this.atSeconds) !== undefined;
	}

	/** How many pictures what shows is off; nothing where nothing tells what should show. */
	get picturesOff(): number | undefined {
		return this.isExact ? 0 : this.pieces.picturesOff;
	}

	/** When the piece that should show will be there, as far as is known. */
	secondsLeft({ flicks, nowMs }: Pick<Looking, 'flicks' | 'nowMs'>): number | undefined {
		return this.pieces.secondsLeft(this.secondsAt(flicks), nowMs);
	}

	/** How old what shows is, at a line-up time; nothing where nothing shows. */
	ageSeconds(flicks: number): number | undefined {
		const { shown } = this;
		return shown && this.secondsAt(flicks) - shown.seconds;
	}

	/** Nobody looks at it now: after a while it lets go of its decoders and its pictures. */
	rest(nowMs: number, afterMs: number): void {
		if (nowMs - this.wantedMs < afterMs) return;
		if (this.holdsPictures) this.letGo();
		this.pieces.close();
		// Its index takes megabytes; it is opened anew when somebody looks.
		this.originalPictures?.close();
	}

	/** Brings the picture of a time to be shown as soon as it is there. */
	advance({ flicks, nowMs, lines, isPlaying, isOnAir, every }: Looking): void {
		this.wantedMs = nowMs;
		const seconds = this.secondsAt(flicks);
		if (seconds < 0) return;
		this.atSeconds = seconds;
		const isOwn = isPlaying && this.original?.exactAt(seconds) !== undefined;
		const isInHaste = isOnAir && !this.original?.isGood(nowMs);
		const hasPiece = this.pieces.advance(seconds, { nowMs, lines, isPlaying, isInHaste, isShown: !isOwn, every });
		this.original?.advance(seconds, { isPlaying, isOnAir, nowMs, isThere: this.isExact, isBusy: areStillsComing() });
		if (this.isExact) this.stills.drop();
		else if (!hasPiece && !this.pieces.isUncertain(seconds, nowMs))
			this.stills.ask(seconds, { isPlaying, lines }, () => this.isExact);
		if (!this.pieces.isExact || isOnAir) this.originalUsedMs = nowMs;
		else if (nowMs - this.originalUsedMs > CLOSE_ORIGINAL_AFTER_MS) this.originalPictures?.close();
	}

	close(): void {
		this.letGo();
		this.pieces.close();
		this.originalPictures?.close();
	}

	private offSeconds(picture: Still): number {
		return Math.abs(this.atSeconds - picture.seconds);
	}

	private letGo(): void {
		this.original?.letGo();
		this.pieces.letGo();
		this.stills.letGo();
	}

	private secondsAt(flicks: number): number {
		return ownTimeAt(this.file.course, flicks) / FLICKS_PER_SECOND + 1e-6;
	}
}
