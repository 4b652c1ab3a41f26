import type { PictureInterval } from '../../core/program/compile';
import { type Course, straightBetween } from '../../core/time/course';
import { flicksToSeconds, videoFrameToFlicks } from '../../core/time/flicks';
import type { ColourTags } from '../../core/gather/picture-facts';
import type { Rational } from '../../core/time/rational';
import { intoFrame, type SourcePicture } from './picture-filters';
import { REPORTS, runTool, SEEK_STALL_SECONDS } from './run-tool';
import { originalInput, type ToolArgument } from './tool-inputs';

/** How the movie's picture is made. */
export interface PictureFormat {
	readonly rate: Rational;
	readonly width: number;
	readonly height: number;
	/** What every piece is brought to, and the movie is tagged with. */
	readonly colour: ColourTags;
}

/** What must be known of the file a piece comes from. */
export interface PictureFile {
	readonly path: string;
	/** Time the container gives its media time 0. */
	readonly containerStartSeconds: number;
	/** How its picture is meant; nothing for square points, upright, progressive, of the usual colour. */
	readonly picture?: SourcePicture;
}

/** Decoding begins this much before the piece, so that the first picture's predecessor is there. */
const LEAD_SECONDS = 2;
/** Times are rounded to the container's ticks; a picture that begins with the frame must not come late by that. */
const TICK_TOLERANCE_SECONDS = 2e-4;

/** Encoder settings: no reordered pictures, so that pieces join without a gap. */
const ENCODER = [
	'-c:v',
	'libx264',
	'-preset',
	'veryfast',
	'-crf',
	'19',
	'-bf',
	'0',
	'-pix_fmt',
	'yuv420p',
	'-video_track_timescale',
	'90000'
];

/** What is rendered of an interval. */
export type RenderedFrames = Pick<PictureInterval, 'fromFrame' | 'toFrame' | 'shown'>;

/**
 * Renders one piece to a file of exactly its number of frames. Each frame shows the picture that was on at its time:
 * the last one that had begun, with the device's clock corrected.
 */
export async function renderPiece(
	piece: RenderedFrames,
	file: PictureFile | undefined,
	format: PictureFormat,
	target: string,
	signal: AbortSignal,
	onFrame: (frames: number) => void
): Promise<void> {
	const frames = piece.toFrame - piece.fromFrame;
	const rate = `${format.rate.num}/${format.rate.den}`;
	const fit = intoFrame(file?.picture, format, format.colour, 'bicubic').join(',');
	const input = pieceInput(piece, file, format, rate, fit);
	await runTool(
		'ffmpeg',
		[
			'-v',
			'error',
			'-nostdin',
			...REPORTS,
			...input.args,
			'-map',
			'0:v:0',
			'-an',
			'-sn',
			'-dn',
			'-map_metadata',
			'-1',
			'-vf',
			`${input.filter},tpad=stop=-1:stop_mode=clone`,
			'-frames:v',
			`${frames}`,
			'-r',
			rate,
			...ENCODER,
			...colourTags(format.colour),
			'-f',
			'mp4',
			'-y',
			`file:${target}`
		],
		{
			signal,
			stallSeconds: SEEK_STALL_SECONDS,
			onReport: ({ frames: done }) => done !== undefined && onFrame(done)
		}
	);
}

function colourTags({ matrix, primaries, transfer, range }: ColourTags): readonly string[] {
	return [
		...(matrix ? ['-colorspace', matrix] : []),
		...(primaries ? ['-color_primaries', primaries] : []),
		...(transfer ? ['-color_trc', transfer] : []),
		...['-color_range', range ?? 'tv']
	];
}

interface PieceInput {
	readonly args: readonly ToolArgument[];
	readonly filter: string;
}

function pieceInput(
	piece: RenderedFrames,
	file: PictureFile | undefined,
	format: PictureFormat,
	rate: string,
	fit: string
): PieceInput {
	const { shown } = piece;
	if (shown.kind === 'black' || !file) {
		const black = `color=black:size=${format.width}x${format.height}:rate=${rate}`;
		return { args: ['-f', 'lavfi', '-i', black], filter: fit };
	}
	const [fromFrame, toFrame] =
		shown.kind === 'held' ? [shown.heldFrame, shown.heldFrame + 1] : [piece.fromFrame, piece.toFrame];
	const [from, to] = [videoFrameToFlicks(fromFrame, format.rate), videoFrameToFlicks(toFrame, format.rate)];
	const { args, filter } = sourceInput(from, straightBetween(shown.source, from, to), file, rate);
	if (shown.kind !== 'held') return { args, filter: `${filter},${fit}` };
	// The one picture that was on at the held frame, again and again.
	return { args, filter: `${filter},trim=end_frame=1,${fit},loop=loop=-1:size=1,setpts=N/(${rate})/TB` };
}

function sourceInput(fromFlicks: number, source: Course, file: PictureFile, rate: string): PieceInput {
	const pieceStart = flicksToSeconds(fromFlicks);
	const start = flicksToSeconds(source.startFlicks);
	const mediaAtStart = (pieceStart - start) / source.rateFactor;
	const seek = Math.max(0, mediaAtStart - LEAD_SECONDS);
	// Presentation time to time within the piece: first the container's own start off, then the clock, then the place.
	const shift = start - pieceStart - TICK_TOLERANCE_SECONDS;
	const setTimes = `setpts=((PTS*TB-(${file.containerStartSeconds.toFixed(9)}))*${source.rateFactor.toFixed(12)}+(${shift.toFixed(9)}))/TB`;
	return {
		args: ['-copyts', '-ss', seek.toFixed(6), ...originalInput(file.path)],
		filter: `${setTimes},fps=fps=${rate}:start_time=0:round=up`
	};
}

/** What a movie says of itself. */
export interface MovieNotes {
	readonly title: string;
	/** What the audience hears: devices with their channels. */
	readonly sound: string;
	readonly people: readonly string[];
}

/** Puts rendered pieces and the mixed sound together; pictures are copied, not encoded again. */
export async function joinMovie(
	listPath: string,
	soundPath: string,
	sampleRate: number,
	{ title, sound, people }: MovieNotes,
	target: string,
	signal: AbortSignal
): Promise<void> {
	await runTool(
		'ffmpeg',
		[
			...[
				'-v',
				'error',
				'-nostdin',
				'-f',
				'concat',
				'-safe',
				'0',
				'-protocol_whitelist',
				'file,pipe',
				'-i',
				`file:${listPath}`
			],
			...[
				'-f',
				'f32le',
				'-ar',
				`${sampleRate}`,
				'-ac',
				'2',
				'-protocol_whitelist',
				'file,pipe',
				'-i',
				`file:${soundPath}`
			],
			...[
				'-map',
				'0:v:0',
				'-map',
				'1:a:0',
				'-c:v',
				'copy',
				'-c:a',
				'aac',
				'-b:a',
				'192k',
				'-metadata',
				`title=${title}`,
				'-metadata',
				`comment=${[`Sound: ${sound}`, ...(people.length > 0 ? [`People: ${people.join(', ')}`] : [])].join('. ')}`,
				'-metadata:s:a:0',
				`handler_name=${sound}`,
				'-movflags',
				'+faststart',
				'-f',
				'mp4',
				'-y',
				`file:${target}`
			]
		],
		{ signal }
	);
}
