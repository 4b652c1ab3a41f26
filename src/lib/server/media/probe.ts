import { stat } from 'node:fs/promises';
import { z } from 'zod';
import { beyondLimits, emptierThanClaimed } from '../../core/gather/beyond-limits';
import { MAX_PICTURE_POINTS } from '../../core/limits/recording';
import type { MediaFacts } from '../../core/gather/media-facts';
import type { ColourTags, PictureFacts } from '../../core/gather/picture-facts';
import { parseRational, type Rational, ratePerSecond } from '../../core/time/rational';
import { frameOfTimecode, framesOfDay } from '../../core/time/timecode';
import { MediaError } from './media-error';
import { isFragmentedMp4 } from './mp4-boxes';
import { runTool } from './run-tool';
import { originalInput } from './tool-inputs';
import { readWaveNotes, type WaveNotes } from './wave-notes';

const Tags = z.record(z.string(), z.string()).default({});
const Stream = z.object({
	codec_type: z.string().optional(),
	codec_tag_string: z.string().optional(),
	codec_name: z.string().default('unknown'),
	width: z.number().optional(),
	height: z.number().optional(),
	avg_frame_rate: z.string().optional(),
	r_frame_rate: z.string().optional(),
	sample_rate: z.coerce.number().optional(),
	channels: z.number().optional(),
	bits_per_sample: z.number().optional(),
	bits_per_raw_sample: z.coerce.number().optional(),
	start_time: z.coerce.number().optional(),
	duration: z.coerce.number().optional(),
	sample_aspect_ratio: z.string().optional(),
	field_order: z.string().optional(),
	color_space: z.string().optional(),
	color_primaries: z.string().optional(),
	color_transfer: z.string().optional(),
	color_range: z.string().optional(),
	side_data_list: z.array(z.object({ rotation: z.coerce.number().optional() })).default([]),
	tags: Tags,
	disposition: z.record(z.string(), z.number()).default({})
});
type Stream = z.infer<typeof Stream>;
const Report = z.object({
	streams: z.array(Stream).default([]),
	format: z
		.object({
			format_name: z.string().default('unknown'),
			duration: z.coerce.number().optional(),
			start_time: z.coerce.number().optional(),
			tags: Tags
		})
		.optional()
});

const PROBE_TIMEOUT_SECONDS = 30;
/** ffprobe decodes pictures to know them: none for which there is no memory. */
const NO_LARGER_PICTURE = ['-max_pixels', `${MAX_PICTURE_POINTS}`] as const;

/**
 * What a file says about itself, by ffprobe and, for wave files, its own notes.
 * @throws MediaError with a sentence, for what is empty, unreadable or not media
 */
export async function probeFile(path: string, signal?: AbortSignal): Promise<MediaFacts> {
	const bytes = await readableBytes(path);
	let report: z.infer<typeof Report>;
	try {
		const text = await runTool(
			'ffprobe',
			['-v', 'error', '-of', 'json', '-show_format', '-show_streams', ...NO_LARGER_PICTURE, ...originalInput(path)],
			{ timeoutSeconds: PROBE_TIMEOUT_SECONDS, ...(signal ? { signal } : {}) }
		);
		report = Report.parse(JSON.parse(text));
	} catch (error) {
		if (error instanceof MediaError && error.kind === 'tool-failed')
			throw new MediaError('not-media', inPlainWords(error.message), { cause: error });
		throw error;
	}
	const video = report.streams.find(
		(stream) => stream.codec_type === 'video' && !stream.disposition['attached_pic'] && stream.width
	);
	const audio = report.streams.find((stream) => stream.codec_type === 'audio' && stream.sample_rate && stream.channels);
	const sounds = audio ? together(report.streams, audio) : [];
	if (!video && !audio) throw new MediaError('not-media', nothingToReadIn(report.streams));
	const durationSeconds = report.format?.duration ?? Math.max(video?.duration ?? 0, audio?.duration ?? 0);
	if (!(durationSeconds > 0))
		throw new MediaError('unreadable', 'It has no length: the recording was probably never finished.');
	const starts = [video?.start_time, audio?.start_time].filter((one) => one !== undefined);
	const containerStartSeconds = starts.length > 0 ? Math.min(...starts) : 0;
	const rate = parseRational(video?.avg_frame_rate) ?? parseRational(video?.r_frame_rate) ?? { num: 25, den: 1 };
	const tags = { ...report.format?.tags, ...video?.tags };
	const notes = /^(wav|w64|rf64)/.test(report.format?.format_name ?? '') ? await readWaveNotes(path) : undefined;
	const timed = report.streams.find((stream) => stream.tags['timecode']);
	const timecode = tags['timecode'] ?? timed?.tags['timecode'];
	const timecodeStream = report.streams.find((stream) => stream.codec_tag_string === 'tmcd');
	const timecodeRate = parseRational(timecodeStream?.avg_frame_rate) ?? (video ? rate : undefined);
	const clock = clockOf(report.format?.tags ?? {}, timecode, timecodeRate, audio?.sample_rate);
	const container = report.format?.format_name ?? 'unknown';
	const dropFrame = timecode === undefined ? undefined : /[;,]\d+$/.test(timecode);
	const creationTime = recordedAt(report.format?.tags ?? {}, tags);
	const facts: MediaFacts = {
		container,
		...(container.includes('mov') && (await isFragmentedMp4(path)) ? { isFragmented: true } : {}),
		durationSeconds,
		containerStartSeconds,
		...(video
			? {
					video: {
						codec: video.codec_name,
						width: video.width!,
						height: video.height ?? 0,
						rate,
						startSeconds: (video.start_time ?? containerStartSeconds) - containerStartSeconds,
						...pictureFactsOf(video)
					}
				}
			: {}),
		...(audio
			? {
					audio: {
						codec: audio.codec_name,
						sampleRate: audio.sample_rate!,
						channels: sounds.reduce((sum, one) => sum + one.channels!, 0),
						streams: report.streams.filter((stream) => stream.codec_type === 'audio').length,
						...(sounds.length > 1 ? { streamChannels: sounds.map((one) => one.channels!) } : {}),
						...(isDeep(audio) ? { isDeep: true } : {}),
						startSeconds: (audio.start_time ?? containerStartSeconds) - containerStartSeconds,
						channelNames: channelNamesOf(sounds, notes)
					}
				}
			: {}),
		...clock,
		...(timecode && timecodeRate ? { timecode, timecodeRate, dropFrame: dropFrame === true } : {}),
		...(notes?.timecodeRate ? { timecodeRate: notes.timecodeRate, dropFrame: notes.dropFrame === true } : {}),
		...(creationTime ? { creationTime } : {}),
		...(video && isVariable(video) ? { isVariableRate: true } : {}),
		...makerOf(tags),
		...(notes ? notesOf(notes) : {})
	};
	const beyond = beyondLimits(facts) ?? emptierThanClaimed(facts, bytes);
	if (beyond !== undefined) throw new MediaError('unreadable', beyond);
	return facts;
}

function nothingToReadIn(streams: readonly Stream[]): string {
	const hasPicture = streams.some((stream) => stream.codec_type === 'video' && !stream.disposition['attached_pic']);
	return hasPicture
		? `Its picture is damaged, or larger than ${Math.round(MAX_PICTURE_POINTS / 1e6)} million points.`
		: 'It has neither picture nor sound.';
}

/** Streams begin together to this: a tenth of a millisecond. */
const SAME_START_SECONDS = 1e-4;

/** Sound streams that are one recording with the first one, such as one a microphone: of its kind, and from the same moment on. */
function together(streams: readonly Stream[], first: Stream): readonly Stream[] {
	return streams.filter(
		(stream) =>
			stream.codec_type === 'audio' &&
			stream.channels &&
			stream.codec_name === first.codec_name &&
			stream.sample_rate === first.sample_rate &&
			Math.abs((stream.start_time ?? 0) - (first.start_time ?? 0)) < SAME_START_SECONDS
	);
}

/** As notes name them; else a stream's own title, where it is no handler's name and stands for one channel. */
function channelNamesOf(sounds: readonly Stream[], notes: WaveNotes | undefined): readonly string[] {
	const titles = sounds.flatMap(({ channels, tags }) =>
		Array.from({ length: channels! }, () => (channels === 1 && sounds.length > 1 ? (tags['title'] ?? '') : ''))
	);
	return titles.map((title, index) => notes?.channelNames[index] ?? title);
}

function pictureFactsOf(video: Stream): PictureFacts {
	const shape = parseRational(video.sample_aspect_ratio?.replace(':', '/'));
	const turned =
		video.side_data_list.find((one) => one.rotation !== undefined)?.rotation ?? -Number(video.tags['rotate'] ?? 0);
	const rotation = ((((-turned % 360) + 360) % 360) as 0 | 90 | 180 | 270) || undefined;
	const known = (tag: string | undefined) => (tag && !/^(unknown|reserved|unspecified)$/.test(tag) ? tag : undefined);
	const [matrix, primaries, transfer] = [video.color_space, video.color_primaries, video.color_transfer].map(known);
	const range = video.color_range === 'pc' || video.color_range === 'tv' ? video.color_range : undefined;
	const colour: ColourTags = {
		...(matrix ? { matrix } : {}),
		...(primaries ? { primaries } : {}),
		...(transfer ? { transfer } : {}),
		...(range ? { range } : {})
	};
	return {
		...(shape && shape.num !== shape.den ? { pixelShape: shape } : {}),
		...(rotation && rotation % 90 === 0 ? { rotation } : {}),
		...(/^(tt|tb)$/.test(video.field_order ?? '') ? { interlaced: 'top first' } : {}),
		...(/^(bb|bt)$/.test(video.field_order ?? '') ? { interlaced: 'bottom first' } : {}),
		...(Object.keys(colour).length > 0 ? { colour } : {})
	};
}

const LOSSLESS = /^(pcm_|flac$|alac$|wavpack$)/;

function isDeep({ codec_name: codec, bits_per_raw_sample: raw, bits_per_sample: plain }: Stream): boolean {
	return LOSSLESS.test(codec) && Math.max(raw ?? 0, plain ?? 0) > 16;
}

/** Pictures do not come evenly: the mean rate and the finest step of time say different things. */
function isVariable({ avg_frame_rate, r_frame_rate }: Stream): boolean {
	const [mean, finest] = [parseRational(avg_frame_rate), parseRational(r_frame_rate)];
	if (!mean || !finest) return false;
	return Math.abs(ratePerSecond(mean) / ratePerSecond(finest) - 1) > 0.002;
}

/** A container's own time of creation, in UTC; a broadcast wave writes date and time apart, by the recorder's own clock: without a Z. */
function recordedAt(formatTags: Record<string, string>, tags: Record<string, string>): string | undefined {
	const time = tags['creation_time'];
	if (time === undefined || time.includes('T')) return time;
	const date = formatTags['date'];
	return date && /^\d{4}.\d\d.\d\d$/.test(date) && /^\d\d.\d\d.\d\d/.test(time)
		? `${date.replace(/\D/g, '-')}T${time.slice(0, 8).replace(/\D/g, ':')}`
		: undefined;
}

/** Keys under which containers name what made them: QuickTime's, MXF's, broadcast wave's originator. */
function makerOf(tags: Record<string, string>): Pick<MediaFacts, 'make' | 'model' | 'serial'> {
	const find = (pattern: RegExp) =>
		Object.entries(tags)
			.find(([key, value]) => pattern.test(key) && value.trim())?.[1]
			.trim()
			.slice(0, 100);
	const make = find(/(^|[._-])(make|manufacturer)$|^company_name$|^encoded_by$/i);
	const model = find(/(^|[._-])model(name)?$|^product_name$/i);
	const serial = find(/serial/i);
	return { ...(make ? { make } : {}), ...(model ? { model } : {}), ...(serial ? { serial } : {}) };
}

function notesOf({ scene, take, circled, note, tape, takeId }: WaveNotes): Partial<MediaFacts> {
	return {
		...(scene ? { scene } : {}),
		...(take ? { take } : {}),
		...(circled ? { circled } : {}),
		...(note ? { note } : {}),
		...(tape ? { tape } : {}),
		...(takeId ? { takeId } : {})
	};
}

/** Clock time of media time 0: samples since midnight in a broadcast wave, or a timecode's label. */
function clockOf(
	tags: Record<string, string>,
	timecode: string | undefined,
	rate: Rational | undefined,
	sampleRate: number | undefined
): Pick<MediaFacts, 'clockSeconds' | 'clockDaySeconds' | 'clockFrameSeconds'> {
	const reference = Number(tags['time_reference']);
	if (tags['time_reference'] !== undefined && Number.isFinite(reference) && sampleRate)
		return { clockSeconds: reference / sampleRate, clockDaySeconds: 86_400, clockFrameSeconds: 1 / sampleRate };
	if (!timecode || !rate) return {};
	const frame = frameOfTimecode(timecode, rate);
	if (frame === undefined) return {};
	const isDrop = /[;,]\d+$/.test(timecode);
	return {
		clockSeconds: frame / ratePerSecond(rate),
		clockDaySeconds: framesOfDay(rate, isDrop) / ratePerSecond(rate),
		clockFrameSeconds: 1 / ratePerSecond(rate)
	};
}

async function readableBytes(path: string): Promise<number> {
	try {
		const { size } = await stat(path);
		if (size === 0) throw new MediaError('empty', 'The file is empty.');
		return size;
	} catch (error) {
		if (error instanceof MediaError) throw error;
		const code = (error as NodeJS.ErrnoException).code;
		if (code === 'ENOENT') throw new MediaError('missing', 'The file is gone.', { cause: error });
		if (code === 'EACCES' || code === 'EPERM')
			throw new MediaError('no-permission', 'The file may not be read by this user.', { cause: error });
		throw error;
	}
}

function inPlainWords(toolMessage: string): string {
	if (/not on whitelist|Invalid argument/.test(toolMessage))
		return 'It is not a recording of a kind that is read here.';
	if (/Invalid data found/.test(toolMessage)) return 'It is not a media file, or its beginning is damaged.';
	if (/moov atom not found/.test(toolMessage))
		return 'It was cut off before its index was written; the camera did not finish it.';
	if (/more memory/.test(toolMessage)) return toolMessage;
	if (/Permission denied/.test(toolMessage)) return 'The file may not be read by this user.';
	return 'It cannot be read as media.';
}
