/** What the comparison of two clips takes for enough, near, clear: thresholds with their units, and where they were measured. */

// match/direct
/** Ways of sound are looked for so far about the expected one: an echo that lies 15 m further was taken for it. */
export const DIRECT_REACH_SECONDS = 0.045;
/** Sections listened to of an overlap. */
export const MAX_SECTIONS = 24;
/** A first arrival stands so high over what comes before it, and has this share of the highest; less where one side is dry. */
export const ARRIVAL_FLOOR_HEIGHT = 8;
export const ARRIVAL_SHARE = 0.6;
export const ARRIVAL_SHARE_DRY = 0.35;
export const ARRIVAL_SHARE_NEAR = 0.55;
/** Echoes so much louder than what comes before the direct sound: one of the two is dry. */
export const DRY_RATIO = 3;
/**
 * What makes a first arrival the direct sound beyond doubt. Measured on 781 pairs of the simulator (14 cases, seeds 3 to 5):
 * so high and with that share of the highest, 1 of 511 was not; so high and one of the two so dry, 1 of 27 others.
 */
export const SURE_ARRIVAL_HEIGHT = 14;
export const SURE_ARRIVAL_SHARE = 0.7;
export const SURE_DRY_RATIO = 2.5;
/** What makes it more likely the direct sound than what single windows found. */
export const LIKELY_ARRIVAL_HEIGHT = 10;
export const LIKELY_DRY_RATIO = 1.5;
/** Sections of two sounds with nothing in common keep the root of one over their number: of many, less than this. */
export const MIN_LIKENESS = 0.4;
export const LIKENESS_SECTIONS = 12;
/** Two shapes of different rooms, or of chance, are less alike than this. */
export const MIN_ROOM_LIKENESS = 0.35;
/** A shape of one peak fits any other peak as well: then it is not the room that is recognised. */
export const ROOM_RIVAL_SHARE = 0.75;

// match/fit/clock-slope
/** Two windows with the same talker agree on their lag to about this, in rooms (one standard deviation). */
export const SLOPE_AGREEMENT_SECONDS = 0.15e-3;
/** No slope is known better than this: clocks themselves wander (common practice). */
export const MIN_DEVIATION = 0.3e-6;
export const MIN_SLOPE_WINDOWS = 6;
/** A rival has this share of the best slope's votes, and lies further off than its own foot, in kernel widths. */
export const SLOPE_RIVAL_SHARE = 0.8;
export const RIVAL_APART = 12;

// match/direct/bent-course
/** Smaller bends are talkers who sit at different distances. */
export const LEAST_BEND_SECONDS = 0.7e-3;
/** So much sharper the sum on a curve must be than on the best line. */
export const BEND_SHARPENS = 1.5;
/** How well a bend is followed. */
export const BEND_DEVIATION_SECONDS = 0.1e-3;

// match/fit/pair-evidence
export const SHORTEST_WINDOW_SECONDS = 0.75;
/** Share of the windows that must agree; of one talker's microphone few do, but then clearly. */
export const MIN_INLIER_SHARE = 0.25;
export const MIN_CLEAR_SHARE = 0.2;
/** Share of a quick look's windows that must agree: where some do not, all is looked at. */
export const QUICK_INLIER_SHARE = 0.8;
/** How far a known drift may be off, in samples at the ends. */
export const QUICK_SLOPE_REACH = 3;
/** Share of the overlap that the last pass listens to. */
export const CLEAR_COVERAGE = 0.6;
export const WEAK_COVERAGE = 1.2;
export const MIN_OVERLAP_SECONDS = 1.2;
/** From shorter overlaps a slope would be known no better than clocks are guessed. */
export const SLOPE_OVERLAP_SECONDS = 9;
/** With its reach it just fits a transform of 16 384. */
export const LONGEST_SLOPE_WINDOW_SECONDS = 1.9;

/** The same of a skimmed overlap. At both ends so many of its spans must speak for the place: nothing was lost on the way. */
export const SKIM_INLIER_SHARE = 0.7;
export const SKIM_END_SHARE = 1 / 8;
/** Windows that measure the drift of a skimmed overlap: the direct sound measures it again. */
export const SKIM_SLOPE_WINDOWS = 48;

// match/fit/window-fit
/** Peak of one window over its root mean square; noise alone stays below 4.5 in such short ranges. */
export const MIN_WINDOW_HEIGHT = 5;
/** Where all windows together leave no doubt, single ones may be weaker: they only measure. */
export const SURE_STRENGTH = 11;
export const MIN_SURE_HEIGHT = 3.8;
/** A window that fits the common shape must show a peak there too; chance gives 3 within such a radius. */
export const MIN_SHAPE_PEAK = 3.5;
export const MIN_INLIERS = 3;
/** Rates are told from overlaps of this length on: 1 ms of scatter is then 50 ppm. */
export const RATE_OVERLAP_SECONDS = 20;

// match/loss/lag-step
/** Smaller leaps are rooms and people: 30 ms are 10 m. */
export const MIN_STEP_SECONDS = 0.03;
/** Over less time one echo may be the highest on one side of a moment, another on the other: 15 m. */
export const SHORT_STEP_SECONDS = 60;
export const MIN_SHORT_STEP_SECONDS = 0.045;
/** Over so wide a search chance rises higher than in a first look. */
export const MIN_STEP_STRENGTH = 12;
/** Share of the off windows whose own peak lies at the new lag. */
export const MIN_AGREEING_SHARE = 0.5;
export const MIN_STEP_WINDOWS = 4;
/** Windows next to the leap may lie on the wrong side by chance. */
export const DOUBTFUL_WINDOWS = 2;
export const OFF_SHARE = 0.25;
export const ON_SHARE = 0.55;

// match/loss/leap-course
/**
 * Two noises are about as alike as this at the best of the shifts: in a pause nothing speaks for either lag. Without it
 * noise of a second outweighs a syllable (npm run bench -- seeds --only "lost samples", held seeds 13, 18, 23, 24).
 */
export const CHANCE_LIKENESS = 0.3;

// match/loss/seam
/** Recorders that split a take repeat no more than this. */
export const MAX_REPEATED_SECONDS = 3;
/** The same samples, resampled and perhaps encoded twice. */
export const MIN_SEAM_LIKENESS = 0.9;
/** Tones repeat within themselves: another place must be less alike by this. */
export const MIN_LEAD = 0.04;
/** Mean square below which there is nothing to compare, in 16-bit samples. */
export const SEAM_SILENT_POWER = 16;

// match/search/coarse-search
/** Peaks below this are chance. */
export const MIN_COARSE_HEIGHT = 3.5;

// match/search/find-places
/** Two clips part by no more than this: cheap crystals are within 150 ppm, either way. */
export const MAX_RATE_DIFFERENCE = 320e-6;
/** A place this high over chance, and no other half as high: further passages would say the same. */
export const CLEAR_HEIGHT = 14;
export const CLEAR_RIVAL_SHARE = 0.5;

// match/search/looks
export const MAX_WINDOWS = 40;
/** Some windows of a true place disagree: fewer than this leave too little. */
export const MIN_LOOK_WINDOWS = 9;
export const CLEAR_STRENGTH = 18;
/** With the least reach it just fits a transform of 65 536. */
export const LONGEST_WINDOW_SECONDS = 6.9;
/** A coarse lag is known to this. */
export const COARSE_ERROR_SECONDS = 0.1;
/** Lags looked at beyond what is searched: reverberation fills the near ones, chance must be told from the far. */
export const MIN_REACH_SECONDS = 0.6;
/** The first look keeps to so much time about the place, where the clocks have not parted yet. */
export const FIRST_LOOK_SECONDS = 240;
/** A line through the first look may lean so much: speakers move about in a room (ppm over its length). */
export const FIRST_LOOK_SLOPE_ERROR = 30e-6;
/** Lags looked at about the first look's line, over all of the overlap. */
export const WHOLE_REACH_SECONDS = 0.25;
/** Lags looked at in the last pass: enough of what is no peak to scale by. */
export const REFINE_REACH_SECONDS = 0.12;
/** Windows of the last pass for clear sound: with the reach they just fit a transform of 32 768. */
export const CLEAR_WINDOW_SECONDS = 3.8;
/** Stacked height below which no more is asked: 1 585 looks at false places gave 6.6 at most, and one of all
 * false clips of the simulator reached 8.7. */
export const MIN_LOOK_STRENGTH = 10;
/** Windows of a quick look, and the share of them that must agree. */
export const QUICK_WINDOWS = 8;
/** Windows may lie over each other by so much before they say the same twice. */
export const FREE_COVERAGE = 1.5;

// match/search/passage-lag
/** A part agrees where the passage's peak stands in it to this share of the part's own highest. */
export const AGREEING_SHARE = 0.7;
export const CLEAR_CONFIDENCE = 0.95;
/** Levels of speech and music change by 15 dB and more within half a second, those of a room's noise by 1 to 3 dB. */
export const STEADY_RANGE_DB = 5;

// match/windows/common-shape
/** Likeness of a window to the shape (1: the same) below which its shift says nothing. */
export const MIN_SHAPE_LIKENESS = 0.2;

// match/windows/lag-curve
/** Bends are looked for in overlaps of this length on: 10 ppm in less would stay below 2 ms. */
export const BENDING_OVERLAP_SECONDS = 1200;
export const MIN_GROUP_STRENGTH = 5;
export const MIN_GROUPS = 6;
/** A curve that leaves its line by less is no bend: people move. */
export const MIN_BEND_SECONDS = 2.5e-3;

// match/windows/listening-windows
/** Longer overlaps are listened to in spans, so that little of a long file need be decoded. */
export const SPANNED_OVERLAP_SECONDS = 900;
/** From this length on a third of an overlap, of hours a twenty-fifth, is listened to first, and no more where that is clear. */
export const SKIMMED_OVERLAP_SECONDS = 240;

// match/windows/stacking
/** A single window of heights above this would otherwise outvote all others. */
export const MAX_WINDOW_HEIGHT = 14;

// match/windows/window-correlation
/** Mean square below which a passage counts as digitally silent, in 16-bit samples: about -84 dB of full scale. */
export const WINDOW_SILENT_POWER = 4;
/** Samples over which the way between two samples is taken as one: at 320 ppm it changes by 0.02 of a sample. */
export const STEADY_SAMPLES = 64;
