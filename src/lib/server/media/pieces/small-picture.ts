import { PIECE_EDGE_SECONDS, PIECE_LINES, PIECE_SECONDS, type PieceLines } from '../../../core/limits/pieces';
import { dynamicRangeOf, shownSize } from '../../../core/gather/picture-facts';
import { coloursInto, toneMap, wholePictures } from '../picture-filters';
import { originalInput, type ToolArgument } from '../tool-inputs';
import type { PictureFile } from './picture-file';

/** So much is decoded before a piece: fields of the picture before it. */
const RUN_UP_SECONDS = 0.5;
/** Streams without an index are searched by when data come, and one lands between key pictures: tried in turn. */
const STREAM_RUN_UPS_SECONDS = [2, 12, Infinity];

/** Whether a place in a file is found by an index, and with it the key picture before it. */
export function isIndexed({ facts: { container } }: PictureFile): boolean {
	return !/^mpeg/.test(container);
}

/** How much is decoded before a piece: more and more, until its first picture comes out. */
export function runUps(file: PictureFile): readonly number[] {
	return isIndexed(file) ? [RUN_UP_SECONDS] : STREAM_RUN_UPS_SECONDS;
}

/** Size of a small picture: so many lines, as wide as it is meant to be. */
function smallSize({ facts: { video } }: PictureFile, lines: PieceLines): string {
	const shown = shownSize(video);
	return `${Math.max(2, 2 * Math.round((lines * shown.width) / shown.height / 2))}:${lines}`;
}

/** Makes a picture small and square-pointed. The colour of few points is soon brought down. */
function small(file: PictureFile, lines: PieceLines): string {
	const { colour } = file.facts.video;
	const isHigh = dynamicRangeOf(colour) !== 'SDR';
	return [
		`scale=${smallSize(file, lines)}:flags=fast_bilinear${isHigh ? '' : `:${coloursInto(file.facts.video, SMALL_COLOUR)}`}`,
		...(isHigh ? [toneMap(colour!)] : []),
		'setsar=1',
		'format=yuv420p'
	].join(',');
}

/** What browsers take untagged pictures for differs: ours are all of one kind, and say so. */
const SMALL_COLOUR = { matrix: 'bt709', range: 'tv' } as const;
const TAGGED = [...['-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709', '-color_range', 'tv']];

/** Time of the first picture, as ffmpeg counts without shifting. */
function firstSeconds({ facts }: PictureFile): number {
	return facts.containerStartSeconds + facts.video.startSeconds;
}

/** What times of pictures are counted in. */
export const TICKS_A_SECOND = 90_000;

/** Each picture whole in itself, with its own time, since the file's first picture; written as soon as it is coded. */
const CODED = [
	...['-fps_mode', 'passthrough', '-enc_time_base', `1/${TICKS_A_SECOND}`],
	...['-video_track_timescale', `${TICKS_A_SECOND}`],
	...['-c:v', 'libx264', '-preset', 'superfast', '-bf', '0', '-sc_threshold', '0', '-g', '1', '-crf', '26'],
	...TAGGED
];
/** Many small ones at once must cost little. */
const PROFILES: Readonly<Record<PieceLines, readonly string[]>> = {
	360: ['-profile:v', 'main'],
	160: ['-profile:v', 'baseline', '-x264-params', 'no-deblock=1:cabac=0']
};
const GROWING = [
	...['-avoid_negative_ts', 'disabled', '-flush_packets', '1'],
	...['-movflags', '+empty_moov+default_base_moof+frag_keyframe+frag_discont', '-f', 'mp4']
];

/** Where a piece of one size is written. */
export interface PieceTarget {
	readonly index: number;
	readonly lines: PieceLines;
	readonly path: string;
}

/**
 * What ffmpeg is told to make pieces that follow each other, in all sizes in one pass: going to a place in a file costs as much
 * as what lies between key pictures.
 * @param targets of pieces without a gap @param runUpSeconds see `runUps`
 */
export function pieceArguments(
	file: PictureFile,
	targets: readonly PieceTarget[],
	runUpSeconds: number
): readonly ToolArgument[] {
	const first = firstSeconds(file);
	const indexes = [...new Set(targets.map(({ index }) => index))];
	const [from, to] = [Math.min(...indexes) * PIECE_SECONDS, (Math.max(...indexes) + 1) * PIECE_SECONDS];
	const seek = from - runUpSeconds;
	const trim = (fromSeconds: number, toSeconds: number) =>
		`trim=start=${(fromSeconds - PIECE_EDGE_SECONDS).toFixed(6)}:end=${(toSeconds - PIECE_EDGE_SECONDS).toFixed(6)}`;
	const stretch = [
		...wholePictures(file.facts.video),
		trim(first + from, first + to),
		`setpts=PTS-(${first.toFixed(6)})/TB`
	].join(',');
	const split = (label: string) => `split=${indexes.length}${indexes.map((index) => `[${label}p${index}]`).join('')}`;
	const sizes = PIECE_LINES.map((lines) => `[all${lines}]${small(file, lines)},${split(`s${lines}`)}`);
	const trims = targets.map(
		({ index, lines }) =>
			`[s${lines}p${index}]${trim(index * PIECE_SECONDS, (index + 1) * PIECE_SECONDS)}[${lines}p${index}]`
	);
	const all = `[0:v:0]${stretch},split=${PIECE_LINES.length}${PIECE_LINES.map((lines) => `[all${lines}]`).join('')}`;
	return [
		...['-v', 'error', '-nostdin', '-copyts'],
		...(seek > 0 ? ['-ss', (seek + file.facts.video.startSeconds).toFixed(6)] : []),
		...originalInput(file.path),
		...['-filter_complex', [all, ...sizes, ...trims].join(';')],
		...targets.flatMap(({ index, lines, path }) => [
			...['-map', `[${lines}p${index}]`, '-map_metadata', '-1'],
			...CODED,
			...PROFILES[lines],
			...GROWING,
			...['-y', `file:${path}`]
		])
	];
}

/** Without an index one lands behind the key picture: most cameras write one each second, some far fewer. */
const STREAM_STILL_RUN_UPS_SECONDS = [1, 6, 12];

/** How much earlier a key picture is looked for: more and more, until it is no later than it should be. */
export function stillRunUps(file: PictureFile): readonly number[] {
	return isIndexed(file) ? [0] : STREAM_STILL_RUN_UPS_SECONDS;
}

/** Where a still is looked for. */
export interface StillPlace {
	/** Since the file's first picture. */
	readonly atSeconds: number;
	readonly lines: PieceLines;
	/** See `stillRunUps`. */
	readonly earlierSeconds: number;
	/** Whether the decoder is to leave all but key pictures out: some files have none that it takes for one. */
	readonly skipping: boolean;
}

/** What ffmpeg is told to make a small picture of the key picture at or before a time; it is found without decoding others. */
export function stillArguments(
	file: PictureFile,
	{ atSeconds, lines, earlierSeconds, skipping }: StillPlace
): readonly ToolArgument[] {
	const seek = Math.max(0, atSeconds + file.facts.video.startSeconds - earlierSeconds);
	return [
		...['-v', 'error', '-nostdin', '-copyts', '-threads', '1'],
		...(skipping ? ['-skip_frame', 'nokey'] : []),
		...['-noaccurate_seek', '-ss', seek.toFixed(6)],
		...originalInput(file.path),
		...['-map', '0:v:0', '-an', '-sn', '-dn', '-map_metadata', '-1', '-frames:v', '1'],
		...['-vf', `setpts=PTS-(${firstSeconds(file).toFixed(6)})/TB,${small(file, lines)}`],
		...CODED,
		...PROFILES[lines],
		...GROWING,
		'pipe:1'
	];
}
