import type { PassageLag } from '../match/search/passage-lag';

/** What the engine finds at one passage of two clips. Lags are positive when the clip's sound comes later than the other's. */
export interface LensView extends Omit<PassageLag, 'curve'> {
	readonly curve: readonly number[];
	/** What the clip is to be moved by to meet the other one there. */
	readonly byFlicks: number;
	/** Middle and length of what was compared: less than was asked for at a clip's ends. */
	readonly atFlicks: number;
	readonly seconds: number;
}
