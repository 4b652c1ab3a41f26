import type { MasterChannel, Mix } from './decisions';
import type { SpeechCorrection } from './person';

/** One shared timeline of a shoot. Its master, its program and its signatures are its own. */
export interface ShootLineUp {
	readonly id: string;
	readonly referenceDeviceId: string;
	/** What the audience hears. */
	readonly master: readonly MasterChannel[];
	/** What stands in where the master has a gap, in the order that an editor has chosen; empty where nobody has. */
	readonly standIns: readonly (readonly MasterChannel[])[];
	readonly mix: Mix;
	/** What an editor says of who speaks when, the later one counts. */
	readonly corrections: readonly SpeechCorrection[];
	/** What speaks for its places, as the last line-up found it. */
	readonly evidence: readonly PairNote[];
	readonly clocks: readonly { readonly deviceId: string; readonly words: string }[];
}

/** One pair of clips that heard the same. */
export interface PairNote {
	readonly a: string;
	readonly b: string;
	/** Start of b less start of a. */
	readonly lagSeconds: number;
	readonly overlapSeconds: number;
	readonly residualSeconds: number;
	readonly windows: number;
	/** Windows that agree on one line. */
	readonly agreeing: number;
	readonly strength: number;
	/** How far the places lie from what this pair says; nothing where that is not known, as of line-ups of older versions. */
	readonly offSeconds?: number;
	/** Whether one of the two has the other polarity, where that is known. */
	readonly isInverted?: boolean;
}

/** A named moment of a line-up. */
export interface Marker {
	readonly id: string;
	readonly lineUpId: string;
	readonly atFlicks: number;
	readonly name: string;
}

/** Somebody found a line-up in sync. */
export interface Signature {
	readonly id: string;
	readonly lineUpId: string;
	readonly signedBy: string;
	/** yyyy-mm-dd */
	readonly signedOn: string;
	readonly remark: string;
	/** Of all that was placed then: another one today means that something was changed. */
	readonly digest: string;
}
