/** What the solution of all evidence takes for enough, near, sure: thresholds with their units, and where they were measured. */

// solve/align
/** Most of the time the links take, then come loops and losses; the rest is the direct sound. */
export const LINK_SHARE = 0.7;
export const LOOP_SHARE = 0.85;
/** How well a loss is known from the lags on its two sides. */
export const LOSS_DEVIATION_SECONDS = 0.05;
/** Two parts of a clip that lie closer to where they would without a loss are one. */
export const LEAST_LOSS_SECONDS = 0.015;
/** Where one of them has no place of its own: smaller leaps are echoes. */
export const LEAST_UNPROVED_LOSS_SECONDS = 0.1;
/** A seam that sound shows to be closer than this is one to the sample. */
export const SEAM_SECONDS = 4e-3;
/** What is repeated at a seam, and what the others say of it, differ by no more than this. */
export const SAME_SEAM_SECONDS = 0.05;

// solve/clip
/** Shorter sound than this can be anywhere. */
export const SHORTEST_SOUND_SECONDS = 1.2;

// solve/direct
/** How well the direct sound tells where two clips meet (one standard deviation), where one of the two is dry. */
export const DIRECT_DEVIATION_SECONDS = 0.1e-3;
/** The same where it is more likely than not. */
export const LIKELY_DEVIATION_SECONDS = 1.5e-3;
/**
 * Talkers sit at different distances, so that three clips need not meet at one moment: then each is held against the
 * reference, whose sound the editor hears. Evidence without it counts for less.
 */
export const WITHOUT_REFERENCE = 5;
/** Votes of clips in one room on where the direct sound lies: beyond doubt, likely, hardly. */
export const SURE_VOTE = 3;
export const LIKELY_VOTE = 1;
export const POOR_VOTE = 0.2;
export const SURE_VOTE_SHARE = 0.6;
/** Votes so near each other may be for different talkers (0.9 m further away). */
export const TALKERS_APART_SECONDS = 2.5e-3;
/** How far an echo that was taken for the direct sound may lie from it (one standard deviation). */
export const ROOM_DEVIATION_SECONDS = 4e-3;
/** Pairs whose expected drift or lag has changed by more are heard again. */
export const HEARD_WELL_SECONDS = 0.15e-3;
export const HEARD_NEAR_SECONDS = 15e-3;
/** Rates that all evidence has found are off by no more. */
export const DIRECT_RATE_ERROR_PPM = 40;
/** No two clocks are known better than this from one pair: they wander (common practice). */
export const LEAST_RATE_DEVIATION_PPM = 0.05;

// solve/links/close-loops
/** So many pieces of evidence a clip should have, where it overlaps so many others. */
export const WANTED_LINKS = 3;
/** Strong evidence of one pair counts for two. */
export const STRONG = 40;
export const MIN_SHARED_SECONDS = 3;
/** The solution says where a pair must agree; drift of a clip with one short link leaves so much open. */
export const PREDICTION_ERROR_SECONDS = 0.06;

// solve/links/compare-clips
/** Candidates below this height are next to never right (false ones reach 7.5, true ones begin at about 9). */
export const MIN_PLACE_HEIGHT = 4.5;
/** Below this they are worth two looks at most, and only where all of a clip was looked for; of a short clip, all are. */
export const DOUBTFUL_HEIGHT = 6;
/** So many looks find something by chance more often than one: more is asked of them. */
export const MIN_DOUBTFUL_STRENGTH = 11;
/** Nor are those far below the best one: a true place towers over chance, and a rival of it would as well. */
export const MIN_SHARE_OF_BEST = 0.35;
/** A second place is a rival when it has this share of the best one's evidence. */
export const PLACE_RIVAL_SHARE = 0.7;
/** A lag proposed by timecode is right to a frame and what the clocks have parted since they were set. */
export const HINT_ERROR_SECONDS = 0.5;
/** Evidence at a proposed place that needs no search for rivals. */
export const CONVINCING_STRENGTH = 20;
/** Lags further apart than this are no lost samples. */
export const MAX_LOST_SECONDS = 2.6;
/** Share of a place's moments left out at both ends: a few windows lie on a line by chance. */
export const STRAY_SHARE = 0.2;
/** A lag and the same lag at the far end of an overlap differ by the clocks' drift. */
export const SAME_LAG_SECONDS = 0.05;
/** Windows next to a leap may count for the wrong side. */
export const DOUBTFUL_SECONDS = 6;

// solve/links/find-links
/** A stray is compared with no more clips than this, the best ones first. */
export const MAX_TARGETS = 60;
export const MAX_CHANNELS = 8;
/** Clocks whose difference is known to this need not be measured again with each short clip. */
export const KNOWN_RATE_PPM = 1;

// solve/links/in-order
/** A comparison knows nothing of so many before it: they may run beside it. The same on every machine, or places would differ. */
export const ORDER_WIDTH = 4;

// solve/links/groups
/** A clip that adds less to what others of its group cover is not asked. */
export const MIN_ADDED_SECONDS = 8;
export const MIN_ADDED_SHARE = 0.3;

// solve/losses/lost-samples
/** Losses found by several pairs within this are one. */
export const SAME_LOSS_SECONDS = 1;
/** More than this in one clip is no recorder that stumbled. */
export const MAX_LOSSES = 8;

// solve/losses/place-of-loss
/** What one pair and another say of the size of one loss. */
export const SAME_LEAP_SECONDS = 0.03;
/** How far about a moment a pair must agree on both sides to speak against a loss there. */
export const WITNESS_SECONDS = 60;
export const WITNESS_MOMENTS = 3;
/** Windows tell the bracket, and chance may move it by one or two of them. */
export const BRACKET_MARGIN_SECONDS = 8;

// solve/points/by-points
/** A mark is set to a frame or better (one standard deviation). */
export const POINT_DEVIATION_SECONDS = 0.01;
/** Weights of what is not to be moved by any mark. */
export const SURE = 1e12;
export const SURE_CLOCK = 1e6;
/** As for sound: crystal clocks, common practice. */
export const CLOCK_DEVIATION_PPM = 40;

// solve/system/confidence
/** No more than this is ever claimed. */
export const MAX_CONFIDENCE = 0.999;
export const KNOWN_BOND = 20;

// proof/polarity
/** Share of the first arrivals between two devices that must say the same. */
export const POLARITY_SHARE = 0.75;

// solve/system/line-ups
/** Loops must close to this; rooms and moving people stay well below, false pairs are off by seconds. */
export const MAX_RESIDUAL_SECONDS = 0.04;
/** Evidence that lies further off the solution is shown as a contradiction: talkers at different distances explain less. */
export const SHOWN_CONTRADICTION_SECONDS = 0.01;
/** Evidence so far off the solution counts for a third of its certainty: 7 m of air. */
export const CONTRADICTING_SECONDS = 0.02;
/** Two clips of one device may touch, not lie over each other. */
export const MAX_OWN_OVERLAP_SECONDS = 0.3;
/** From less sound than this a clock is not known well enough to help elsewhere. */
export const KNOWN_CLOCK_SECONDS = 120;
/** Evidence that a take was performed to a track: it agrees throughout, for long enough. */
export const TRACK_STRENGTH = 18;
export const TRACK_OVERLAP_SECONDS = 8;
export const TRACK_INLIER_SHARE = 0.7;

// solve/system/system
/** A clock keeps its rate over a day to this; it bends with the weather. */
export const KNOWN_CLOCK_DEVIATION_PPM = 3;
/**
 * Where two clips meet depends on who spoke at the time: talkers sit metres apart, and no number of windows averages
 * that out (one standard deviation; 0.7 m of air, common practice).
 */
export const GEOMETRY_SECONDS = 2e-3;
/** What is fixed may move by no more than a rounding error. */
export const FIXED_WEIGHT = 1e12;
/** So long a stretch of shared moments makes a meeting of its own: over hours geometry averages out, and clocks may bend. */
export const MEETING_SECONDS = 600;
export const MAX_MEETINGS = 12;

// solve/timecode/by-timecode
/** How sure a place by timecode alone is: it cannot be proved. */
export const CONFIDENCE_ALONE = 0.8;
/** Where sound has proved the device's clock on other clips, or those of all others with each other. */
export const CONFIDENCE_PROVED = 0.95;
export const CONFIDENCE_OTHERS_PROVED = 0.85;
/** The same for a clip that has sound of its own, which nobody else heard. */
export const CONFIDENCE_UNHEARD = 0.75;
/** So many devices that sound has shown to run on one time were set together. */
export const FAMILY_DEVICES = 2;
/** Places by sound that are less sure than this give way to a clock that is proved. */
export const DOUBTFUL_CONFIDENCE = 0.9;
export const CLASH_SECONDS = 1;

// solve/timecode/clocks
/** Clocks set together agree to a frame or two; what they part over a day stays below this. */
export const CLOCK_AGREEMENT_SECONDS = 1;
/** Clocks that were set by hand to the hour are not set to the second. */
export const HOURS_TOLERANCE_SECONDS = 2.5;
