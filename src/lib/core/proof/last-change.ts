/** Where a clip lay. */
export interface PlaceBefore {
	readonly clipId: string;
	readonly startFlicks: number;
	readonly ratePpm: number;
}

/** The last change that moved clips: its words, and where those clips lay before it. */
export interface LastChange {
	readonly label: string;
	readonly places: readonly PlaceBefore[];
}
