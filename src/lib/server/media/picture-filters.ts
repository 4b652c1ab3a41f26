import {
	type ColourTags,
	dynamicRangeOf,
	matrixOf,
	type PictureFacts,
	type PictureSize
} from '../../core/gather/picture-facts';

/** What must be known of a picture to bring it into a frame as it was meant. */
export type SourcePicture = PictureSize & PictureFacts;

/**
 * ffmpeg's filters that bring a picture into a frame: whole pictures of its fields, high dynamic range down to the usual one,
 * square points, the frame's size with bars where shapes differ, the frame's colour. ffmpeg has turned it upright before.
 */
export function intoFrame(
	source: SourcePicture | undefined,
	frame: PictureSize,
	colour: ColourTags,
	scaler: 'bicubic' | 'fast_bilinear'
): readonly string[] {
	const size = `${frame.width}:${frame.height}`;
	const isHigh = dynamicRangeOf(source?.colour) !== 'SDR';
	const colours = coloursInto(isHigh ? { ...frame, colour: SDR_COLOUR } : (source ?? frame), colour);
	return [
		...wholePictures(source),
		...(isHigh ? [toneMap(source!.colour!)] : []),
		// Points become square first: the fitting below goes by the points alone.
		...(source?.pixelShape ? ['scale=w=trunc(iw*sar/2)*2:h=ih', 'setsar=1'] : []),
		`scale=${size}:force_original_aspect_ratio=decrease:flags=${scaler}:${colours}`,
		`pad=${size}:(ow-iw)/2:(oh-ih)/2`,
		'setsar=1'
	];
}

/** What the scaler is told of the colours it reads and writes. @param source of the usual dynamic range */
export function coloursInto(source: SourcePicture, colour: ColourTags): string {
	const matrix = matrixOf(source.colour, source.height);
	return [
		`in_color_matrix=${scaleMatrix(matrix)}:in_range=${source.colour?.range ?? 'tv'}`,
		`out_color_matrix=${scaleMatrix(colour.matrix)}:out_range=${colour.range ?? 'tv'}`
	].join(':');
}

/** Each pair of fields becomes one picture, with its own time. */
export function wholePictures(source: SourcePicture | undefined): readonly string[] {
	if (!source?.interlaced) return [];
	return [`bwdif=mode=send_frame:parity=${source.interlaced === 'top first' ? 'tff' : 'bff'}:deint=all`];
}

const SDR_COLOUR = { matrix: 'bt709', range: 'tv' } as const;

/**
 * PQ and HLG to BT.709: linear light, the wide primaries into the narrow ones, then Hable's curve, which keeps the middle
 * and rolls the highlights off. 203 cd/m² is the white of graphics in both (ITU-R BT.2408, from memory).
 */
export function toneMap(colour: ColourTags): string {
	const source = `tin=${colour.transfer}:min=${colour.matrix ?? 'bt2020nc'}:pin=${colour.primaries ?? 'bt2020'}:rin=${colour.range === 'pc' ? 'full' : 'limited'}`;
	return [
		`zscale=${source}:t=linear:npl=203`,
		'format=gbrpf32le',
		'zscale=p=bt709',
		'tonemap=tonemap=hable:desat=0',
		'zscale=t=bt709:m=bt709:p=bt709:r=limited',
		'format=yuv420p'
	].join(',');
}

/** The names that the scaler knows. */
function scaleMatrix(matrix: string | undefined): string {
	const known: Readonly<Record<string, string>> = {
		bt709: 'bt709',
		smpte170m: 'smpte170m',
		bt470bg: 'bt470',
		smpte240m: 'smpte240m',
		bt2020nc: 'bt2020',
		bt2020c: 'bt2020',
		fcc: 'fcc'
	};
	return known[matrix ?? ''] ?? 'bt709';
}
