/** Thresholds of what is measured of a channel; those without a source were found on made-up faults (npm run bench -- sources). */

/** Peaks are told in fifths of a decibel. The ceiling is looked for so far under the greatest: coding lets peaks stand over it. */
export const CEILING_STEPS = 40;
/** What stands so near it, either way, is piled up there: */
export const PILE_STEPS = 2;
/** so many peaks at least, and so many times those of a like stretch of the levels beneath (2 dB of them). */
export const MIN_PILE = 12;
export const MIN_PILE_TIMES = 1.8;
export const BENEATH_STEPS = 10;
/** Their tops, within 3% of each greatest sample at 48 kHz, are so wide, and so much wider than those of usual peaks (9 dB of them). */
export const FLAT_TOP_SAMPLES = 4;
export const FLAT_TOP_TIMES = 1.3;
export const USUAL_STEPS = 45;
/** What is clipped within so long is one passage. */
export const PASSAGE_SECONDS = 1;

/** A drop-out is so far under a channel's own quiet: that share of its blocks is no louder. */
export const DROP_OUT_DB = 20;
export const QUIET_SHARE = 0.02;
/** It is this short: what lasts longer was switched off. */
export const LONGEST_DROP_OUT_SECONDS = 2;
/** A channel with more of them is switched by a gate, and has none. */
export const MAX_DROP_OUTS_A_MINUTE = 20;

/** Hum is what is there all the time: this share of windows has less. */
export const STEADY_SHARE = 0.2;
/** A line stands out by so much. */
export const LINE_DB = 9;

/** Wind: this share of the time has less rumble. */
export const GUST_SHARE = 0.95;

/** Sound ends where the spectrum falls by so much within so many bins on each side, a microphone's never does. */
export const EDGE_FALL_DB = 20;
export const EDGE_BINS = 4;
/** No edge is looked for below, where voices have their own. */
export const LOWEST_EDGE_HZ = 2500;

/** Noise is what pauses have: this share of their frames lies under it; speech nearby is kept away from. */
export const NOISE_SHARE = 0.4;
export const PAUSE_EDGE_SECONDS = 0.25;
/** Without pauses: this share of all frames lies under it. */
export const QUIETEST_SHARE = 0.02;
/** Seconds of his own that a person, and of pauses that noise needs. */
export const MIN_SOLO_SECONDS = 1;
export const MIN_PAUSE_SECONDS = 1;

/** A gap in speech: the close microphone falls by so much within so long. */
export const GAP_FALL_DB = 18;
export const GAP_SECONDS = [0.05, 0.15] as const;
export const MIN_GAPS = 10;
/** What is left of a tail under the noise. */
export const LEAST_TAIL_DB = -40;

/** Under this nothing is heard: a channel is dead. */
export const DEAD_LUFS = -66;

/** How much later one microphone hears a person than another: looked for within this, in whitened sound between these. */
export const MICROPHONE_LAG = {
	mostSeconds: 0.05,
	bandHz: [200, 6000],
	/** The peak over the root mean square of all lags: under it nothing is said. 4.5 is what chance reaches. */
	leastHeight: 7,
	/** So much of a person alone is listened to at a time, so many times. */
	listenedSeconds: 2.5,
	times: 6,
	/** Places that agree lie within this of each other; so many must. */
	agreesSeconds: 0.0005,
	leastAgreeing: 3,
	agreeingShare: 0.6
} as const;
/** Polarity: by the sign of correlation between these, near the lag; where both signs are as strong nothing is said. */
export const POLARITY = { bandHz: [100, 1000], nearSeconds: 0.002, leastDifference: 0.1, share: 0.75 } as const;
