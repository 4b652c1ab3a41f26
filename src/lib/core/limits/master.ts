/**
 * Points that a source loses of 100, and from where on: tuned on eight made-up shoots against an intelligibility measure and
 * made-up faults, checked on others (npm run bench -- sources).
 */
export const LOSSES = {
	/** For each decibel that speech stands less over the noise. */
	noise: { aDecibel: 0.8, underDb: 34, most: 30 },
	/** That the room sends back more of it. */
	room: { aDecibel: 2, overDb: -19, most: 32 },
	/** That one person stands under another. */
	uneven: { aDecibel: 0.4, overDb: 6, most: 10 },
	/** An octave that is missing. */
	dull: { anOctave: 14, underHz: 9000, most: 25 },
	clipped: { first: 8, aDoubling: 4, share: 0.001, most: 30 },
	dropOuts: { first: 4, power: 0.7, most: 30 },
	hum: { aDecibel: 0.9, overDb: -42, most: 20 },
	rumble: { aDecibel: 1.2, overDb: -12, most: 20 }
} as const;

/** A loss of so many points is told in the sentence. */
export const TOLD_LOSS = 3;
/** What is measured of nobody counts as this: between good and useless. */
export const UNKNOWN_SPEECH_TO_NOISE_DB = 20;

/** Microphones of one mix are brought together by a tenth of a second at most: sound goes 34 metres in it. */
export const MAX_SHIFT_SECONDS = 0.1;

/** How a microphone opens for who speaks, in seconds: the beginnings of words must be whole, the ends of rooms may be heard. */
export const OPENING = { aheadSeconds: 0.05, upSeconds: 0.03, downSeconds: 0.2, bridgedSeconds: 0.6 } as const;
/** While nobody speaks all are turned down by this, or by less where the closed ones are. */
export const PAUSE_DB = -10;

/** How one source goes over into another (common practice: short, of equal power, in a pause). */
export const STAND_IN = {
	crossfadeSeconds: 0.04,
	/** A gap that is shorter is none. */
	leastSeconds: 0.08,
	/** So far away a pause is looked for. */
	searchSeconds: 3,
	/** Levels of people are followed within this time. */
	followSeconds: 0.15,
	mostMatchingDb: 24
} as const;
