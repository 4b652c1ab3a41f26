/** A channel that the audience hears. */
export interface MasterChannel {
	readonly deviceId: string;
	/** From 0. */
	readonly channel: number;
	readonly gainDb: number;
	/** -1 left, 0 both sides, 1 right. */
	readonly pan: number;
	readonly isInverted: boolean;
	/** What lies below is taken away; 0 for nothing. */
	readonly lowCutHz: number;
	/** By how much it is heard later than it was recorded: brings microphones of one mix together. */
	readonly shiftFlicks: number;
}

/** How the channels of a line-up become what the audience hears. */
export interface Mix {
	/** The microphone of who speaks is open, the others are turned down. */
	readonly opensBySpeech: boolean;
	/** By how much others are turned down: 0 or less. */
	readonly closedDb: number;
	/** Where the master has a gap, something else stands in. */
	readonly coversGaps: boolean;
}

/** Of a line-up of which nobody has said anything. */
export const USUAL_MIX: Mix = { opensBySpeech: false, closedDb: -15, coversGaps: true };

/** A channel as it was recorded. */
export const AS_RECORDED = { gainDb: 0, pan: 0, isInverted: false, lowCutHz: 0, shiftFlicks: 0 } as const;

export interface StoredProgram {
	readonly lineUpId: string;
	readonly inFlicks: number;
	readonly outFlicks: number;
	readonly calls: readonly StoredCall[];
}

export interface StoredCall {
	readonly id: string;
	readonly atFlicks: number;
	readonly deviceId: string;
}
