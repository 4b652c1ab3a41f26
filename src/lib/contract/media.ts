import { z } from 'zod';
import { PIECE_LINES, type PieceLines } from '../core/limits/pieces';
import { Id } from './fields';

const Key = z.string().regex(/^[0-9a-f]{32}$/, 'There is no such file.');

/** A waveform. */
export const PeaksRequest = z.object({ identity: Key });

export function peaksAddress(key: string): string {
	return `/media/peaks/${key}`;
}

const Seconds = z.coerce.number().min(0).max(1e7);
const Lines = z.coerce.number().pipe(z.literal(PIECE_LINES));

/** A piece of a file's small picture. */
export const PieceRequest = z.object({
	id: Id,
	key: Key,
	index: z.coerce.number().int().min(0).max(1e6),
	lines: Lines,
	/** Left out: it is made at once, and comes while it is made. Otherwise it comes if it is there, and what is ranked 0 is made first. */
	rank: z.coerce.number().int().min(0).max(9).optional()
});

/** The key picture of a file at or before a time, since its first picture. */
export const StillRequest = z.object({ id: Id, key: Key, seconds: Seconds, lines: Lines });

/** One of a strip's pictures, which wait for all others. */
export const StripRequest = z.object({ id: Id, key: Key, seconds: Seconds });

export interface PictureAsked {
	readonly fileId: string;
	readonly key: string;
	readonly lines: PieceLines;
}

export function pieceAddress({
	fileId,
	...asked
}: PictureAsked & { readonly index: number; readonly rank?: number }): string {
	return `/media/pieces/${fileId}?${query(asked)}`;
}

export function stillAddress({ fileId, ...asked }: PictureAsked & { readonly seconds: number }): string {
	return `/media/stills/${fileId}?${query(asked)}`;
}

export function stripAddress({ fileId, ...asked }: Omit<PictureAsked, 'lines'> & { readonly seconds: number }): string {
	return `/media/strips/${fileId}?${query(asked)}`;
}

function query(asked: object): string {
	return `${new URLSearchParams(Object.entries(asked).map(([name, value]) => [name, `${value}`]))}`;
}

/** A recording as it is. */
export const OriginalRequest = z.object({ id: Id, key: Key });

export function originalAddress({ fileId, key }: Pick<PictureAsked, 'fileId' | 'key'>): string {
	return `/media/originals/${fileId}?${query({ key })}`;
}

/** Said of a piece that is not there yet. */
export interface PieceAwaited {
	/** When it will be there, as far as can be told. */
	readonly secondsLeft: number;
}

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
	return `/media/sounds/${fileId}?${query({ key, from, to, channels: channels.join(',') })}`;
}
