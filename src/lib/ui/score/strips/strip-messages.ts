import type { OriginalFile } from '../../playback/original-pictures';

/** A picture for a strip. */
export interface StripAsked {
	readonly name: string;
	readonly file: OriginalFile;
	/** Since the file's first picture. */
	readonly seconds: number;
}

export interface StripAnswer {
	readonly name: string;
	/** Nothing where none can be had. */
	readonly picture?: ImageBitmap;
}

/** Lines of a strip's pictures. */
export const STRIP_LINES = 72;
