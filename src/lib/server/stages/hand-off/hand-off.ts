import type { Shoot } from '../../../core/shoot/shoot';
import type { Runtime } from '../../runtime';

/** What is to be handed off, and how to tell of it. */
export interface HandOffRequest {
	readonly runtime: Runtime;
	readonly shoot: Shoot;
	readonly lineUpId: string;
	/** A folder for what is made on the way; it is kept over a restart, and removed at the end. */
	readonly working: string;
	readonly signal: AbortSignal;
	/** @param share 0 to 1 */
	progress(share: number, message: string): void;
}

/** Writes a hand-off whole. @returns its path, within the working folder */
export type WriteHandOff = (request: HandOffRequest) => Promise<string>;
