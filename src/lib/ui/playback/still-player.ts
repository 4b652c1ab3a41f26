import pLimit from 'p-limit';
import { stillAddress } from '../../contract/media';
import type { PieceLines } from '../../core/limits/pieces';
import type { OriginalPictures } from './original-pictures';
import { fetchStill, type Still } from './read-piece';
import type { WallFile } from './wall-messages';

/** Of all files together. */
const STILLS_AT_ONCE = 3;
/** A browser keeps six connections to a server, and sound must find one free. */
const ASKED_AT_ONCE = 2;
/** While playing, a still that the server makes is no older than this, as far as it keeps up; one of the recording itself. */
const STILL_STEP_SECONDS = 2;
const OWN_STILL_STEP_SECONDS = 1;
/** Standing still, one for every half second is made (see the server's grid). */
const STILL_GRID_SECONDS = 0.5;
const stillsInTurn = pLimit(STILLS_AT_ONCE);
const askedInTurn = pLimit(ASKED_AT_ONCE);

/** Whether any file's still is on its way: what makes pictures better waits for it. */
export function areStillsComing(): boolean {
	return stillsInTurn.activeCount + stillsInTurn.pendingCount > 0;
}

export interface StillLooking {
	readonly isPlaying: boolean;
	readonly lines: PieceLines;
}

/** Shows key pictures until there is better: of the recording itself where the browser can, else of the server. */
export class StillPlayer {
	/** The newest that has come. */
	still: Still | undefined;
	problem: string | undefined;
	private askedSeconds: number | undefined;
	private isComing = false;
	/** Whether the recording's own key pictures can be had. */
	private isOwn: boolean;
	/** Grows when all is let go of. */
	private visit = 0;

	constructor(
		private readonly file: WallFile,
		private readonly original: OriginalPictures | undefined
	) {
		this.isOwn = original !== undefined;
	}

	/** Asks for the key picture before a time. @param isUseless by the time it comes, whether there is better */
	ask(seconds: number, { isPlaying, lines }: StillLooking, isUseless: () => boolean): void {
		if (this.isComing) return;
		const whilePlaying = this.isOwn ? OWN_STILL_STEP_SECONDS : STILL_STEP_SECONDS;
		const step = isPlaying ? whilePlaying : STILL_GRID_SECONDS;
		const asked = Math.floor(seconds / step) * step;
		if (this.askedSeconds === asked) return;
		this.askedSeconds = asked;
		this.isComing = true;
		void stillsInTurn(() => this.load(asked, lines, isUseless)).finally(() => (this.isComing = false));
	}

	drop(): void {
		this.still?.frame.close();
		this.still = undefined;
	}

	letGo(): void {
		this.visit++;
		this.drop();
		this.askedSeconds = undefined;
	}

	private async load(seconds: number, lines: PieceLines, isUseless: () => boolean): Promise<void> {
		const { visit } = this;
		const { fileId, identity } = this.file;
		try {
			const own = await this.ownStill(seconds);
			const address = stillAddress({ fileId, key: identity, seconds, lines });
			const still = own ?? (await askedInTurn(() => fetchStill(address)));
			this.problem = undefined;
			// By now there may be better, or nobody who looks.
			if (visit !== this.visit || isUseless()) {
				still.frame.close();
				return;
			}
			this.drop();
			this.still = still;
		} catch (error) {
			if (visit === this.visit) this.problem = error instanceof Error ? error.message : String(error);
		}
	}

	private async ownStill(seconds: number): Promise<Still | undefined> {
		if (!this.isOwn) return undefined;
		const { visit } = this;
		const still = await this.original?.key(seconds).catch(() => undefined);
		// It was closed meanwhile, or this browser cannot.
		if (!still && visit === this.visit) this.isOwn = false;
		return still;
	}
}
