import pLimit from 'p-limit';
import type { OriginalPictures } from './original-pictures';
import type { Still } from './read-piece';

/** Pictures decoded ahead of the one that is shown: they are large. */
const AHEAD = 6;
/** A picture this far ahead of what is decoded is gone to at once. */
const FAR_SECONDS = 0.6;
/** One that was to be fast enough and shows nothing of the very time for so long is not. */
const TOO_LATE_MS = 2000;
/** So long the playhead must stand for a picture to be decoded for it: of what is on air, and of the others. */
const SETTLED_MS = { onAir: 100, others: 350 };
/** Decoding to a very time keeps a processor busy. */
const exactsInTurn = pLimit(1);

interface Run {
	readonly queue: Still[];
	lastSeconds: number;
	/** The file has no more. */
	isOver: boolean;
	/** When the picture of the very time was there last. */
	goodMs: number;
	/** Has it decode further. */
	wake: (() => void) | undefined;
}

/** How a time is looked at. */
export interface OriginalLooking {
	readonly isPlaying: boolean;
	readonly isOnAir: boolean;
	readonly nowMs: number;
	/** The picture of this very time is there without. */
	readonly isThere: boolean;
}

/**
 * Pictures of the very time from a recording itself: what is on air is played from it, where decoding it is fast enough; where
 * the playhead stands the one picture is decoded.
 */
export class OriginalPlayer {
	private run: Run | undefined;
	private isFast: boolean | 'unknown' | 'being tried' = 'unknown';
	private playedSeconds = -Infinity;
	private standing: { readonly seconds: number; readonly sinceMs: number; isAsked: boolean; still?: Still } | undefined;

	constructor(private readonly pictures: OriginalPictures) {}

	get holdsPictures(): boolean {
		return this.run !== undefined || this.standing?.still !== undefined;
	}

	/** Whether it plays now: then nobody need make pieces in haste. */
	get isPlaying(): boolean {
		return this.run !== undefined;
	}

	/** The picture of this very time, if it is there. */
	exactAt(seconds: number): Still | undefined {
		if (this.standing?.seconds === seconds && this.standing.still) return this.standing.still;
		const [now, next] = this.run?.queue ?? [];
		const isLast = this.run?.isOver && !next;
		return now && now.seconds <= seconds && (isLast || (next && next.seconds > seconds)) ? now : undefined;
	}

	/** What is decoded of it that is nearest to now, while it plays. */
	get newest(): Still | undefined {
		return this.run?.queue[0];
	}

	advance(seconds: number, { isPlaying, isOnAir, nowMs, isThere }: OriginalLooking): void {
		if (isPlaying) {
			this.stand(undefined);
			if (isOnAir) this.play(seconds, nowMs);
			else this.stop();
			return;
		}
		this.stop();
		if (this.standing?.seconds !== seconds) this.stand({ seconds, sinceMs: nowMs, isAsked: false });
		const settledMs = isOnAir ? SETTLED_MS.onAir : SETTLED_MS.others;
		const { standing } = this;
		// What is on air is shown in full, if it can be.
		if (!standing || standing.isAsked || (isThere && !isOnAir) || nowMs - standing.sinceMs < settledMs) return;
		standing.isAsked = true;
		void exactsInTurn(async () => {
			if (this.standing !== standing) return;
			const still = await this.pictures.exact(seconds).catch(() => undefined);
			if (this.standing === standing && still) standing.still = still;
			else still?.frame.close();
		});
	}

	/** Lets go of all pictures. */
	letGo(): void {
		this.stop();
		this.stand(undefined);
	}

	private stand(standing: OriginalPlayer['standing']): void {
		this.standing?.still?.frame.close();
		this.standing = standing;
	}

	private play(seconds: number, nowMs: number): void {
		const isJump = Math.abs(seconds - this.playedSeconds) > FAR_SECONDS;
		this.playedSeconds = seconds;
		if (this.isFast === 'unknown') {
			this.isFast = 'being tried';
			void this.pictures.isFast().then((isFast) => (this.isFast = isFast));
		}
		if (this.isFast !== true) return;
		const { run } = this;
		const first = run?.queue[0]?.seconds ?? run?.lastSeconds;
		if (!run || first === undefined || seconds < first || (!run.isOver && seconds > run.lastSeconds + FAR_SECONDS)) {
			this.start(seconds, run && !isJump ? run.goodMs : nowMs);
			return;
		}
		while (run.queue.length > 1 && run.queue[1]!.seconds <= seconds) run.queue.shift()!.frame.close();
		run.wake?.();
		if (this.exactAt(seconds)) run.goodMs = nowMs;
		if (nowMs - run.goodMs < TOO_LATE_MS) return;
		this.isFast = false;
		this.pictures.isSlowAfterAll();
		this.stop();
	}

	private start(seconds: number, goodMs: number): void {
		this.stop();
		const run: Run = { queue: [], lastSeconds: seconds, isOver: false, goodMs, wake: undefined };
		this.run = run;
		void this.fill(run, seconds).catch(() => {
			if (this.run !== run) return;
			this.isFast = false;
			this.stop();
		});
	}

	private async fill(run: Run, fromSeconds: number): Promise<void> {
		for await (const picture of this.pictures.pictures(fromSeconds)) {
			if (this.run !== run) {
				picture.frame.close();
				return;
			}
			run.queue.push(picture);
			run.lastSeconds = picture.seconds;
			while (run.queue.length >= AHEAD && this.run === run) await new Promise<void>((resolve) => (run.wake = resolve));
		}
		run.isOver = true;
	}

	private stop(): void {
		const { run } = this;
		this.run = undefined;
		for (const { frame } of run?.queue.splice(0) ?? []) frame.close();
		run?.wake?.();
	}
}
