import { LRUCache } from 'lru-cache';
import type { OriginalFile } from '../../playback/original-pictures';
import type { StripAnswer, StripAsked } from './strip-messages';

/** A small picture has about 37 KB. */
const MAX_PICTURES = 1500;
/** So many are fetched at a time: what is looked at itself must find the way free, and half of the machine. */
const MAX_UNDER_WAY = 1;
/** What could not be had is asked for again no sooner. */
const TRY_AGAIN_MS = 30_000;
/** Pictures are had at multiples of this. */
export const STRIP_GRID_SECONDS = 0.5;
/** In place of one that has not come yet, one so many steps coarser may stand. */
const MAX_COARSER = 12;

/** A picture in a strip: that of the time, or an earlier one until it has come. */
export interface StripPicture {
	readonly picture: ImageBitmap;
	readonly isDue: boolean;
}

/** What one drawing wants. Its next drawing wants anew. */
export interface StripDrawing {
	begin(): void;
	/** @param at in the grid, a multiple of `step` @param step in the grid, a power of 2 */
	picture(file: OriginalFile, at: number, step: number): StripPicture | undefined;
	end(): void;
}

/**
 * The page's pictures for strips. What is not there is asked for, so that the whole is soon told in few, then in more; what no
 * drawing wants any more is not.
 */
export class StripStore {
	private readonly pictures = new LRUCache<string, ImageBitmap>({
		max: MAX_PICTURES,
		dispose: (picture) => picture.close()
	});
	private readonly failed = new LRUCache<string, true>({ max: MAX_PICTURES, ttl: TRY_AGAIN_MS });
	private readonly drawings = new Set<Map<string, Wanted>>();
	private readonly underWay = new Set<string>();
	private worker: Worker | undefined;
	private isHeld = false;

	/** @param makeWorker of `strip.worker` @param onArrival it is worth drawing again */
	constructor(
		private readonly makeWorker: () => Worker,
		private readonly onArrival: () => void
	) {}

	/** Nothing more is fetched while what is looked at itself is on its way. */
	setHeld(isHeld: boolean): void {
		this.isHeld = isHeld;
		if (!isHeld) this.fetchNext();
	}

	/** How many pictures have not come yet. */
	get waiting(): number {
		let count = this.underWay.size;
		for (const wanted of this.drawings) count += wanted.size;
		return count;
	}

	drawing(): StripDrawing & { close(): void } {
		const wanted = new Map<string, Wanted>();
		this.drawings.add(wanted);
		return {
			begin: () => wanted.clear(),
			picture: (file, at, step) => this.look(wanted, file, at, step),
			end: () => this.fetchNext(),
			close: () => this.drawings.delete(wanted)
		};
	}

	close(): void {
		this.worker?.terminate();
		this.worker = undefined;
		this.drawings.clear();
		this.pictures.clear();
	}

	private look(wanted: Map<string, Wanted>, file: OriginalFile, at: number, step: number): StripPicture | undefined {
		const nameOf = (place: number) => `${file.identity} ${place}`;
		const due = this.pictures.get(nameOf(at));
		if (due) return { picture: due, isDue: true };
		const name = nameOf(at);
		if (!this.failed.has(name) && !this.underWay.has(name)) wanted.set(name, { name, file, at });
		for (let coarser = 2 * step, level = 0; level < MAX_COARSER; coarser *= 2, level++) {
			const picture = this.pictures.get(nameOf(Math.floor(at / coarser) * coarser));
			if (picture) return { picture, isDue: false };
		}
		return undefined;
	}

	private fetchNext(): void {
		while (!this.isHeld && this.underWay.size < MAX_UNDER_WAY) {
			const next = this.coarsest();
			if (!next) return;
			const { name, file, at } = next;
			for (const wanted of this.drawings) wanted.delete(name);
			this.underWay.add(name);
			this.worker ??= this.startWorker();
			this.worker.postMessage({ name, file, seconds: at * STRIP_GRID_SECONDS } satisfies StripAsked);
		}
	}

	/** Of all that is wanted, what stands for the longest stretch. */
	private coarsest(): Wanted | undefined {
		let best: Wanted | undefined;
		for (const wanted of this.drawings)
			for (const one of wanted.values()) if (!best || coarseness(one.at) > coarseness(best.at)) best = one;
		return best;
	}

	private startWorker(): Worker {
		const worker = this.makeWorker();
		worker.onmessage = ({ data: { name, picture } }: MessageEvent<StripAnswer>) => {
			this.underWay.delete(name);
			if (picture) this.pictures.set(name, picture);
			else this.failed.set(name, true);
			this.fetchNext();
			this.onArrival();
		};
		return worker;
	}
}

interface Wanted {
	readonly name: string;
	readonly file: OriginalFile;
	readonly at: number;
}

/** The greatest power of 2 that a place is a multiple of. */
function coarseness(at: number): number {
	return at === 0 ? Infinity : at & -at;
}
