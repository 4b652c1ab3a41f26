/** `timelineFlicks = startFlicks + mediaFlicks * (1 + ratePpm * 1e-6)` */
export interface Placement {
	readonly lineUpId: string;
	readonly startFlicks: number;
	/** In effect: 0 where the device's clock is not corrected. */
	readonly ratePpm: number;
	readonly measuredRatePpm: number;
	readonly method: PlacementMethod;
	readonly confidence: number;
	readonly residualSeconds: number;
	/** Set or moved by hand: a later run leaves it alone. */
	readonly byHand: boolean;
	/** Moved by nothing, not even by hand. */
	readonly isLocked: boolean;
	/** Time the sound needs from the stage to the device's microphone: its picture and its sound part by so much. */
	readonly airFlicks: number;
}

export type PlacementMethod = 'audio' | 'timecode' | 'sync point' | 'in point' | 'out point' | 'clip start' | 'hand';

/** Where a media time of a placed clip lies on its line-up. */
export function toTimeline(placement: Placement, mediaFlicks: number): number {
	return placement.startFlicks + mediaFlicks * (1 + placement.ratePpm * 1e-6);
}

/** The media time of a placed clip that plays at a time of its line-up. */
export function toMedia(placement: Placement, timelineFlicks: number): number {
	return (timelineFlicks - placement.startFlicks) / (1 + placement.ratePpm * 1e-6);
}
