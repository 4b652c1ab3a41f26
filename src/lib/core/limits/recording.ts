/**
 * What a recording and a line-up can be at most. No device comes near (common practice); what claims more is damaged, or
 * means harm, and would be stored as times that cannot be computed with.
 */
export const MAX_CLIP_DAYS = 7;
export const MAX_LINE_UP_DAYS = 14;
export const MAX_CLIP_SECONDS = MAX_CLIP_DAYS * 86_400;
export const MAX_LINE_UP_SECONDS = MAX_LINE_UP_DAYS * 86_400;
/** Pictures a second. */
export const MIN_PICTURE_RATE = 1;
export const MAX_PICTURE_RATE = 240;
/** Points to a side. */
export const MAX_PICTURE_SIDE = 16_384;
export const MAX_CHANNELS = 64;
/** Points of a picture: 16 384 by 8 192, above the largest cameras (12 288 by 6 480). */
export const MAX_PICTURE_POINTS = 2 ** 27;
/** Samples a second. */
export const MIN_SAMPLE_RATE = 4000;
export const MAX_SAMPLE_RATE = 768_000;
/**
 * A recording holds so much at least, or is no longer than this: the sparest codecs of speech take 594 bytes a second (AMR
 * at 4.75 kbit/s, from memory); silence without loss takes 185. What claims more in less would only fill disk and memory.
 */
export const MIN_BYTES_A_SECOND = 400;
export const MAX_EMPTY_SECONDS = 3600;

/** Moments by which a clock's bend is told: the engine finds 26 at most. */
export const MAX_BEND_MOMENTS = 100;
