import type { MediaFacts } from '../../../core/gather/media-facts';

/** Sound for the ear in the page: all channels, interleaved, at this rate; 16 bits, or 32 of a deep sound. */
export const LISTENING_SAMPLE_RATE = 48_000;

/** Samples a channel that a sound has by what its file says of its length: more may be asked for, and is silent. */
export function reckonedSamples({ durationSeconds, audio }: MediaFacts): number {
	return Math.max(0, Math.round((durationSeconds - (audio?.startSeconds ?? 0)) * LISTENING_SAMPLE_RATE));
}

/** Interleaved samples of zero, of the depth that a sound is listened to at. */
export function silence({ audio }: MediaFacts, numbers: number): Int16Array | Int32Array {
	return audio?.isDeep ? new Int32Array(numbers) : new Int16Array(numbers);
}

/**
 * Containers whose times lead to the very sample, so that a piece from the middle is what the whole file has there
 * (measured, see the tests). Others count in milliseconds, or must be read from their beginning.
 */
const EXACT = /^(wav|w64|aiff|au|flac|mxf.*|mpegts|mpeg|ogg|mov,.*)$/;

/** Whether a sound can be listened to exactly without a copy of the whole. */
export function needsCopy({ container, audio }: MediaFacts): boolean {
	if (!audio) return false;
	const isPlainAvi = container === 'avi' && audio.codec.startsWith('pcm_');
	return !EXACT.test(container) && !isPlainAvi;
}
