/** What the wall showed since it was last looked at. */
export interface Shown {
	readonly exact: number;
	readonly late: number;
}

/** After a change it takes so long until pictures come in time again. */
const SETTLE_MS = 700;
/** At most every fifth picture is shown. */
const MOST = 5;
/** Looked at so often. */
const STEP_MS = 1000;
/** Fewer pictures of their time than this, and the machine does not keep up. */
const KEEPS_UP_SHARE = 0.97;
/** So long all must go well before more pictures are tried; longer after each try that failed. */
const RECOVER_MS = 6000;
const MAX_RECOVER_MS = 60_000;
/** A try has failed where it goes wrong within so long. */
const FAILED_WITHIN_MS = 4000;

/**
 * How many pictures angles that are not on air leave out, so that those which are shown are right: a machine that does not keep
 * up shows every second one, or fewer, and slowly goes back.
 */
export class Thinning {
	/** Every so many-th picture is shown. */
	every = 1;
	private sum = { exact: 0, late: 0 };
	private lookedMs = -Infinity;
	private goodSinceMs = -Infinity;
	private triedMs = -Infinity;
	private recoverMs = RECOVER_MS;

	/** @param shown of the angles that are thinned, since the last time */
	note({ exact, late }: Shown, nowMs: number): void {
		if (nowMs < this.lookedMs) return;
		this.sum = { exact: this.sum.exact + exact, late: this.sum.late + late };
		if (nowMs - this.lookedMs < STEP_MS) return;
		const { sum } = this;
		const isLong = nowMs - this.lookedMs > 3 * STEP_MS;
		this.lookedMs = nowMs;
		this.sum = { exact: 0, late: 0 };
		const all = sum.exact + sum.late;
		// Nobody looked: nothing is known.
		if (isLong || all === 0) {
			this.goodSinceMs = nowMs;
			return;
		}
		if (sum.exact / all < KEEPS_UP_SHARE) this.thin(nowMs);
		else if (this.every > 1 && nowMs - this.goodSinceMs >= this.recoverMs) this.tryMore(nowMs);
	}

	/** Playing begins here, or goes on elsewhere: the first pictures may be late. */
	jump(nowMs: number): void {
		this.settle(nowMs);
	}

	private settle(nowMs: number): void {
		this.lookedMs = nowMs + SETTLE_MS;
		this.sum = { exact: 0, late: 0 };
		this.goodSinceMs = nowMs;
	}

	private thin(nowMs: number): void {
		this.settle(nowMs);
		if (nowMs - this.triedMs < FAILED_WITHIN_MS) this.recoverMs = Math.min(MAX_RECOVER_MS, 2 * this.recoverMs);
		this.every = Math.min(MOST, this.every + 1);
	}

	private tryMore(nowMs: number): void {
		this.settle(nowMs);
		this.triedMs = nowMs;
		this.every--;
	}
}
