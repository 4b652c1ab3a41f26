import type { ClipPart } from '../shoot/clip';
import { flicksToSeconds } from '../time/flicks';
import { ratePerSecond } from '../time/rational';
import { type Counted, type Json, range } from './otio-schema';

/** A file's picture or sound as exchange files count it: in its own frames or samples, from its own timecode on. */
export interface MediaCount {
	readonly rate: number;
	/** The first frame or sample, by the file's timecode. */
	readonly first: number;
	readonly length: number;
	/** Media time, in seconds, of the first one. */
	readonly beginsSeconds: number;
}

export function pictureCount(part: ClipPart): MediaCount | undefined {
	if (!part.picture) return undefined;
	return count(part, ratePerSecond(part.picture.rate), flicksToSeconds(part.picture.startFlicks));
}

export function soundCount(part: ClipPart): MediaCount | undefined {
	if (!part.sound) return undefined;
	return count(part, part.sound.sampleRate, flicksToSeconds(part.sound.startFlicks));
}

function count(part: ClipPart, rate: number, beginsSeconds: number): MediaCount {
	const first = Math.round(((part.clockSeconds ?? 0) + beginsSeconds) * rate);
	const length = Math.max(1, Math.round((flicksToSeconds(part.durationFlicks) - beginsSeconds) * rate));
	return { rate, first, length, beginsSeconds };
}

export function availableRange({ first, length, rate }: MediaCount): Json {
	return range({ value: first, rate }, { value: length, rate });
}

/** The frame or sample that is on at a media time, held within the media. */
export function countedAt({ rate, first, length, beginsSeconds }: MediaCount, mediaSeconds: number): number {
	// A thousandth of a frame is rounding.
	const index = Math.floor((mediaSeconds - beginsSeconds) * rate + 1e-3);
	return first + Math.max(0, Math.min(length - 1, index));
}

/**
 * A range of the media that lasts as long as an item, and lies within what there is: an item that would reach over the end
 * by a frame begins so much earlier.
 */
export function sourceRange(media: MediaCount, mediaSeconds: number, duration: Counted): Json {
	const lasts = (duration.value / duration.rate) * media.rate;
	const latest = media.first + media.length - lasts;
	const start = Math.max(media.first, Math.min(countedAt(media, mediaSeconds), Math.floor(latest + 1e-6)));
	return range({ value: start, rate: media.rate }, duration);
}
