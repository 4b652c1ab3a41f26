/** Somebody who speaks in a shoot. */
export interface Person {
	readonly id: string;
	readonly name: string;
	/** Which of the marks is his, from 0. */
	readonly mark: number;
	/** Where he is heard, closest first. */
	readonly channels: readonly PersonChannel[];
}

export interface PersonChannel {
	readonly deviceId: string;
	/** From 0. */
	readonly channel: number;
}

/** What an editor says of when somebody speaks, laid over what was found. */
export interface SpeechCorrection {
	readonly personId: string;
	readonly inFlicks: number;
	readonly outFlicks: number;
	readonly speaks: boolean;
}

/** A stretch in which somebody speaks. */
export interface Speech {
	readonly personId: string;
	readonly inFlicks: number;
	readonly outFlicks: number;
	/** That it is his, 0 to 1; 1 where an editor says so. */
	readonly confidence: number;
	/** An editor has put it right, at one end at least. */
	readonly isByHand: boolean;
}

/** How many marks there are: hues that can be told apart with any kind of colour vision, each with a shape. */
export const MARKS = 8;
