/** Thresholds of who speaks when; measured on conversations of recorded voices in made rooms (npm run bench -- people). */

/** A frame counts for learning where its level stands so far above a channel's quiet. */
export const LEARN_OVER_FLOOR_DB = 10;
/** What a channel has in its quiet: this share of its frames lies under it. */
export const FLOOR_SHARE = 0.1;
/** Between these shares lie the level differences of two channels. */
export const DIFFERENCE_SHARES = [0.01, 0.99] as const;
/** A person needs this share of the frames that count to be heard as one. */
export const MIN_CORNER_SHARE = 0.004;
/** Rounds of taking apart what each channel hears. */
export const PART_ROUNDS = 25;
/** A person speaks where his part stands so far above his channel's quiet, and no further below his usual level. */
export const OVER_FLOOR_DB = 6;
export const USUAL_SHARE = 0.8;
export const UNDER_USUAL_DB = 24;
/** And above what the others leave on his channel. */
export const OVER_BLEED_DB = 7;
/** Decibels that are worth one step of evidence, for either; it is cut off, and weighs so much in a frame. */
export const FLOOR_STEP_DB = 4;
export const BLEED_STEP_DB = 4;
export const MAX_EVIDENCE = 3;
export const EVIDENCE_WEIGHT = 0.3;
/** How long people speak, and do not, before that changes. */
export const SPEAKING_SECONDS = 0.8;
export const SILENT_SECONDS = 1.5;
/** Pauses within what one says, and sounds that are no speech. */
export const BRIDGED_SECONDS = 0.25;
export const SHORTEST_SECONDS = 0.08;

/** Channels without names are people's where none hears another's person louder than this, */
export const MAX_CLOSE_BLEED_DB = -5;
/** where each is the one that is heard for such a share of the time, */
export const FAMILIAR_CORNER_SHARE = 0.03;
/** and is no softer then, at that share of its levels, than it ever is, but for so much. */
export const LOUD_CORNER_SHARE = 0.9;
export const MAX_CORNER_BELOW_DB = 6;

/** A room channel is taken as nobody's where everybody is so much softer on it than on his own. */
export const HALL_DISTINCT_DB = 10;
/**
 * How sure a stretch is: a logistic of its mean evidence, fitted on 2 172 stretches of the 27 conversations that thresholds were
 * tuned on (a stretch is right where its person speaks in half of it; 2 084 were).
 */
export const CONFIDENCE_AT_NONE = -2.45;
export const CONFIDENCE_A_STEP = 2.74;
