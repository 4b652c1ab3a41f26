import { type Bend, type Course, courseAt, ownTimeAt } from '../time/course';

/** `timelineFlicks = startFlicks + mediaFlicks * (1 + ratePpm * 1e-6)`, and later where a clock bends */
export interface Placement {
	readonly lineUpId: string;
	readonly startFlicks: number;
	/** In effect: 0 where the device's clock is not corrected. */
	readonly ratePpm: number;
	readonly measuredRatePpm: number;
	/** In media time, only where the clock bends: in effect, and as it was measured. */
	readonly bend?: Bend;
	readonly measuredBend?: Bend;
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

/** How a placed clip's media time becomes its line-up's. */
export function courseOf({ startFlicks, ratePpm, bend }: Placement): Course {
	const rateFactor = 1 + ratePpm * 1e-6;
	return bend ? { startFlicks, rateFactor, bend } : { startFlicks, rateFactor };
}

/** The same place with the clock's error left in. */
export function withoutDrift({ bend: _, ...placement }: Placement): Placement {
	return { ...placement, ratePpm: 0 };
}

/** Where a media time of a placed clip lies on its line-up. */
export function toTimeline(placement: Placement, mediaFlicks: number): number {
	return courseAt(courseOf(placement), mediaFlicks);
}

/** The media time of a placed clip that plays at a time of its line-up. */
export function toMedia(placement: Placement, timelineFlicks: number): number {
	return ownTimeAt(courseOf(placement), timelineFlicks);
}
