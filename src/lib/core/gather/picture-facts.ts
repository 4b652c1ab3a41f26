import type { Rational } from '../time/rational';

/** How a file's picture is meant to be seen, beyond its points and its rate. What a file does not tell is left out. */
export interface PictureFacts {
	/** Width over height of a point of the picture; left out where points are square. */
	readonly pixelShape?: Rational;
	/** Clockwise, in degrees, until it stands upright; left out for none. */
	readonly rotation?: 90 | 180 | 270;
	/** Two fields a picture, one after the other; which comes first. */
	readonly interlaced?: 'top first' | 'bottom first';
	readonly colour?: ColourTags;
}

/** Colour as files tag it, in the names of ITU-T H.273 as ffmpeg writes them. */
export interface ColourTags {
	readonly matrix?: string;
	readonly primaries?: string;
	readonly transfer?: string;
	readonly range?: 'tv' | 'pc';
}

export interface PictureSize {
	readonly width: number;
	readonly height: number;
}

/** The picture upright, in square points: its height (after turning) stays, its width follows. Both even. */
export function shownSize({ width, height, pixelShape, rotation }: PictureSize & PictureFacts): PictureSize {
	const wide = pixelShape ? (width * pixelShape.num) / pixelShape.den : width;
	const [across, down] = rotation === 90 || rotation === 270 ? [height, wide] : [wide, height];
	const even = (points: number) => Math.max(2, 2 * Math.round(points / 2));
	return { width: even(across), height: even(down) };
}

export type DynamicRange = 'SDR' | 'PQ' | 'HLG';

/** Source: ITU-R BT.2100 names the two; ITU-T H.273 numbers them 16 and 18, ffmpeg calls them so. */
export function dynamicRangeOf(colour: ColourTags | undefined): DynamicRange {
	if (colour?.transfer === 'smpte2084') return 'PQ';
	return colour?.transfer === 'arib-std-b67' ? 'HLG' : 'SDR';
}

/** The matrix a picture is in: as tagged, else by its height, which is common practice (BT.601 below 720 lines). */
export function matrixOf(colour: ColourTags | undefined, height: number): string {
	return colour?.matrix ?? (height < 720 ? 'smpte170m' : 'bt709');
}
