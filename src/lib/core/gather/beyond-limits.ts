import {
	MAX_CHANNELS,
	MAX_CLIP_DAYS,
	MAX_CLIP_SECONDS,
	MAX_EMPTY_SECONDS,
	MAX_PICTURE_POINTS,
	MAX_PICTURE_RATE,
	MAX_PICTURE_SIDE,
	MAX_SAMPLE_RATE,
	MIN_BYTES_A_SECOND,
	MIN_PICTURE_RATE,
	MIN_SAMPLE_RATE
} from '../limits/recording';
import { ratePerSecond } from '../time/rational';
import type { MediaFacts } from './media-facts';

const SECONDS_A_DAY = 86_400;

/**
 * What a file says of itself that no recording can be.
 * @returns a sentence for the editor; nothing where all of it can be
 */
export function beyondLimits({ durationSeconds, audio, video, ...facts }: MediaFacts): string | undefined {
	if (!isWithin(durationSeconds, 0, MAX_CLIP_SECONDS))
		return `It claims to last ${inWords(durationSeconds / SECONDS_A_DAY)} days. A recording lasts ${MAX_CLIP_DAYS} at most: its index is damaged.`;
	const starts = [audio?.startSeconds, video?.startSeconds, facts.clockSeconds ?? 0];
	if (starts.some((start) => start !== undefined && !isWithin(start, -MAX_CLIP_SECONDS, MAX_CLIP_SECONDS)))
		return 'It claims to begin days before or after itself: its index is damaged.';
	if (audio && !isWithin(audio.channels, 1, MAX_CHANNELS))
		return `It claims to have ${inWords(audio.channels)} channels. At most ${MAX_CHANNELS} are read.`;
	if (audio && !isWithin(audio.sampleRate, MIN_SAMPLE_RATE, MAX_SAMPLE_RATE))
		return `It claims ${inWords(audio.sampleRate)} samples a second. Sound of ${inWords(MIN_SAMPLE_RATE)} to ${inWords(MAX_SAMPLE_RATE)} is read.`;
	if (video && !isWithin(ratePerSecond(video.rate), MIN_PICTURE_RATE, MAX_PICTURE_RATE))
		return `It claims ${inWords(ratePerSecond(video.rate))} pictures a second. Pictures at ${MIN_PICTURE_RATE} to ${MAX_PICTURE_RATE} are read.`;
	if (video && !(isWithin(video.width, 1, MAX_PICTURE_SIDE) && isWithin(video.height, 1, MAX_PICTURE_SIDE)))
		return `It claims pictures of ${inWords(video.width)} by ${inWords(video.height)} points. At most ${inWords(MAX_PICTURE_SIDE)} to a side are read.`;
	if (video && video.width * video.height > MAX_PICTURE_POINTS)
		return `It claims pictures of ${inWords(video.width)} by ${inWords(video.height)} points. At most ${inWords(MAX_PICTURE_POINTS / 1e6)} million are read.`;
	return undefined;
}

/**
 * Whether a file is too small for the length it claims. @param bytes its size
 * @returns a sentence for the editor; nothing where it can hold as much
 */
export function emptierThanClaimed({ durationSeconds }: MediaFacts, bytes: number): string | undefined {
	if (durationSeconds <= MAX_EMPTY_SECONDS || bytes >= durationSeconds * MIN_BYTES_A_SECOND) return undefined;
	return `It claims ${inWords(durationSeconds / 3600)} hours in ${inWords(bytes / 1e6)} MB: nothing was recorded in it, or its index is damaged.`;
}

function isWithin(value: number, least: number, most: number): boolean {
	return value >= least && value <= most;
}

function inWords(value: number): string {
	return value.toLocaleString('en', { maximumFractionDigits: value < 10 ? 2 : 0 });
}
