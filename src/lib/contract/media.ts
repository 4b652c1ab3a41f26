import { z } from 'zod';
import { Id } from './fields';

const Key = z.string().regex(/^[0-9a-f]{32}$/, 'There is no such file.');

/** Sound that is asked for at a time: 20 s. */
const MAX_SAMPLES = 960_000;
const Sample = z.coerce
	.number()
	.int()
	.min(0)
	.max(2 ** 40);

/** Samples of a file to listen to, at the listening rate. */
export const SoundRequest = z
	.object({
		id: Id,
		/** Of its sound in the caches: should the file have changed, it is not what the page takes it for. */
		key: Key,
		from: Sample,
		to: Sample,
		/** From 0. */
		channels: z
			.string()
			.regex(/^\d{1,3}(,\d{1,3}){0,255}$/)
			.transform((text) => text.split(',').map(Number))
	})
	.refine(({ from, to }) => to > from && to - from <= MAX_SAMPLES, 'So much sound is not given at a time.');

export interface SoundAsked {
	readonly fileId: string;
	readonly key: string;
	/** `[from, to)`. */
	readonly from: number;
	readonly to: number;
	readonly channels: readonly number[];
}

/** Where samples of some channels are had, interleaved. */
export function soundAddress({ fileId, key, from, to, channels }: SoundAsked): string {
	return `/media/sounds/${fileId}?${new URLSearchParams({ key, from: `${from}`, to: `${to}`, channels: channels.join(',') })}`;
}
