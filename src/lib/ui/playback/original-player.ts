import pLimit from 'p-limit';
import type { OriginalPictures } from './original-pictures';
import type { Still } from './read-piece';

/** Pictures decoded ahead of the one that is shown: they are large. */
const AHEAD = 6;
/** A picture this far ahead of what is decoded is gone to at once. */
const FAR_SECONDS = 0.6;
/** One that was to be fast enough and shows nothing of the very time for so long is not. */
const TOO_LATE_MS = 1500;
/** It serves, as long as it showed the very time within so long. */
const GOOD_WITHIN_MS = 400;
/** Whether it is fast enough is tried when the playhead has stood for so long: nothing must wait for it. */
const TRY_AFTER_MS = 1000;
/** So long the playhead must stand for a picture to be decoded for it: of what is on air, and of the others. */
const SETTLED_MS = { onAir: 100, others: 350 };
/** Decoding to a very time keeps a processor busy. */
const exactsInTurn = pLimit(1);

interface Run {
	readonly queue: Still[];
	lastSeconds: number;
	/** The file has no more. */
	isOver: boolean;
	/** When it showed the picture of the very time last, and since when it should. */
	shownMs: number;
	readonly sinceMs: number;
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
	/** What is waited for more comes first. */
	readonly isBusy: boolean;
}

/** Where the playhead stands. */
interface Standing {
	readonly seconds: number;
	readonly sinceMs: number;
	isAsked: boolean;
	still?: Still;
}

/**
 * Pictures of the very time from a recording itself: what is on air is played from it, where decoding it is fast enough; where
 * the playhead stands the one picture is decoded.
 */
export class OriginalPlayer {
	private run: Run | undefined;
	private isFast: boolean | 'unknown' | 'being tried' = 'unknown';
	private playedSeconds = -Infinity;
	private standing: Standing | undefined;

	constructor(private readonly pictures: OriginalPictures) {}

	get holdsPictures(): boolean {
		return this.run !== undefined || this.standing?.still !== undefined;
	}

	/** Whether it plays well: then nobody need make pieces in haste. */
	isGood(nowMs: number): boolean {
		return this.run !== undefined && nowMs - this.run.shownMs < GOOD_WITHIN_MS;
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

	advance(seconds: number, { isPlaying, isOnAir, nowMs, isThere, isBusy }: OriginalLooking): void {
		if (isPlaying) {
			this.stand(undefined);
			if (isOnAir) this.play(seconds, nowMs);
			else this.stop();
			return;
		}
		this.stop();
		if (this.standing?.seconds !== seconds) this.stand({ seconds, sinceMs: nowMs, isAsked: false });
		const { standing } = this;
		if (!standing || isBusy) return;
		const stoodMs = nowMs - standing.sinceMs;
		// What is on air is shown in full, if it can be.
		const isWanted = isOnAir || !isThere;
		if (!standing.isAsked && isWanted && stoodMs > (isOnAir ? SETTLED_MS.onAir : SETTLED_MS.others))
			this.decodeFor(standing);
		else if (isOnAir && isThere && stoodMs > TRY_AFTER_MS) this.tryOnce();
	}

	private decodeFor(standing: Standing): void {
		standing.isAsked = true;
		const isWanted = () => this.standing === standing;
		void exactsInTurn(async () => {
			if (!isWanted()) return;
			const still = await this.pictures.exact(standing.seconds, isWanted).catch(() => undefined);
			if (isWanted() && still) standing.still = still;
			else still?.frame.close();
		});
	}

	/** While playing nothing is tried; what was tried of another recording of its kind holds for it. */
	private lookUp(): void {
		this.isFast = 'being tried';
		void this.pictures.isKnownFast().then((isFast) => (this.isFast = isFast ?? 'unknown'));
	}

	private tryOnce(): void {
		if (this.isFast !== 'unknown' || exactsInTurn.activeCount + exactsInTurn.pendingCount > 0) return;
		this.isFast = 'being tried';
		void exactsInTurn(async () => {
			this.isFast = await this.pictures.isFast();
		});
	}

	/** Lets go of all pictures. */
	letGo(): void {
		this.stop();
		this.stand(undefined);
	}

	private stand(standing: Standing | undefined): void {
		this.standing?.still?.frame.close();
		this.standing = standing;
	}

	private play(seconds: number, nowMs: number): void {
		const isJump = Math.abs(seconds - this.playedSeconds) > FAR_SECONDS;
		this.playedSeconds = seconds;
		if (this.isFast === 'unknown') this.lookUp();
		if (this.isFast !== true) return;
		const { run } = this;
		const first = run?.queue[0]?.seconds ?? run?.lastSeconds;
		if (!run || first === undefined || seconds < first || (!run.isOver && seconds > run.lastSeconds + FAR_SECONDS)) {
			this.start(seconds, run && !isJump ? run : { sinceMs: nowMs, shownMs: -Infinity });
			return;
		}
		while (run.queue.length > 1 && run.queue[1]!.seconds <= seconds) run.queue.shift()!.frame.close();
		run.wake?.();
		if (this.exactAt(seconds)) run.shownMs = nowMs;
		if (nowMs - Math.max(run.sinceMs, run.shownMs) < TOO_LATE_MS) return;
		this.isFast = false;
		this.pictures.isSlowAfterAll();
		this.stop();
	}

	private start(seconds: number, { sinceMs, shownMs }: Pick<Run, 'sinceMs' | 'shownMs'>): void {
		this.stop();
		const run: Run = { queue: [], lastSeconds: seconds, isOver: false, sinceMs, shownMs, wake: undefined };
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
