import { open, rm, stat, writeFile } from 'node:fs/promises';
import { ANALYSIS_SAMPLE_RATE } from '../../core/features/band-features';
import type { Span } from '../../core/match/windows/listening-windows';
import { dynamicRangeOf, shownSize } from '../../core/gather/picture-facts';
import type { MediaFacts } from '../../core/gather/media-facts';
import { createPeakBuilder } from '../../core/signal/peaks';
import { decodeToFiles } from './decode-sound';
import type { MediaCache } from './media-cache';
import { toneMap, wholePictures } from './picture-filters';
import { DECODER_STALL_SECONDS, REPORTS, runTool, SEEK_STALL_SECONDS, type ToolOptions } from './run-tool';
import { localInput, originalInput, type ToolArgument } from './tool-inputs';

export interface PrepareOptions extends Pick<ToolOptions, 'signal' | 'pausing'> {
	/** Seconds that are done. */
	readonly onProgress?: (seconds: number) => void;
}

const underWay = new Map<string, Promise<number>>();

/**
 * A file's sound for the engine, the ear and the eye, made once and kept: analysis sound, listening sound, peaks.
 * Whoever asks while it is being made waits for the same work.
 * @returns samples a channel of the listening sound
 */
export async function prepareSound(
	cache: MediaCache,
	path: string,
	identity: string,
	facts: MediaFacts,
	options: PrepareOptions = {}
): Promise<number> {
	const running = underWay.get(identity);
	if (running) return running.catch(() => prepareSound(cache, path, identity, facts, options));
	const work = makeSound(cache, path, identity, facts, options);
	underWay.set(identity, work);
	try {
		return await work;
	} finally {
		underWay.delete(identity);
	}
}

async function makeSound(
	cache: MediaCache,
	path: string,
	identity: string,
	facts: MediaFacts,
	options: PrepareOptions
): Promise<number> {
	const channels = facts.audio!.channels;
	const kind = facts.audio!.isDeep ? 'listening.s32' : 'listening.s16';
	const made = await Promise.all((['peaks.s16', 'analysis.s16', kind] as const).map((one) => cache.has(identity, one)));
	if (made.every(Boolean)) return countSamples(cache, identity, kind, channels);
	await cache.put(identity, kind, (listeningPath) =>
		cache.put(identity, 'analysis.s16', (analysisPath) =>
			decodeToFiles(path, facts, { analysisPath, listeningPath }, options)
		)
	);
	const listeningSamples = await countSamples(cache, identity, kind, channels);
	await cache.put(identity, 'peaks.s16', (target) =>
		writePeaks(cache.path(identity, kind), target, listeningSamples, channels, bytesOf(kind))
	);
	return listeningSamples;
}

/** Stretches of a file's prepared analysis sound. @param stretches whole seconds */
export async function readAnalysis(
	cache: MediaCache,
	identity: string,
	stretches: readonly Span[]
): Promise<readonly Int16Array[]> {
	const file = await open(cache.path(identity, 'analysis.s16'), 'r');
	try {
		const parts: Int16Array[] = [];
		for (const { fromSeconds, toSeconds } of stretches) {
			const bytes = new Uint8Array(2 * ANALYSIS_SAMPLE_RATE * (toSeconds - fromSeconds));
			const { bytesRead } = await file.read(bytes, 0, bytes.length, 2 * ANALYSIS_SAMPLE_RATE * fromSeconds);
			parts.push(new Int16Array(bytes.buffer, 0, bytesRead >> 1));
		}
		return parts;
	} finally {
		await file.close();
	}
}

type ListeningKind = 'listening.s16' | 'listening.s32';

function bytesOf(kind: ListeningKind): number {
	return kind === 'listening.s32' ? 4 : 2;
}

async function countSamples(
	cache: MediaCache,
	identity: string,
	kind: ListeningKind,
	channels: number
): Promise<number> {
	const { size } = await stat(cache.path(identity, kind));
	return Math.floor(size / bytesOf(kind) / channels);
}

async function writePeaks(
	listeningPath: string,
	target: string,
	samples: number,
	channels: number,
	bytes: number
): Promise<void> {
	const builder = createPeakBuilder(samples, channels);
	const file = await open(listeningPath, 'r');
	try {
		// Half a megabyte a step keeps the event loop free in between.
		const block = new Uint8Array(2 ** 19);
		for (;;) {
			const { bytesRead } = await file.read(block, 0, block.length);
			if (bytesRead === 0) break;
			builder.add(
				bytes === 2
					? new Int16Array(block.buffer, 0, bytesRead >> 1)
					: Int16Array.from(new Int32Array(block.buffer, 0, bytesRead >> 2), (value) => value >> 16)
			);
		}
	} finally {
		await file.close();
	}
	await writeFile(target, new Uint8Array(builder.finish().buffer));
}

/** Lines of a proxy picture; its width keeps the picture's shape. */
export const PROXY_HEIGHT = 240;

/** Seconds of picture between which a copy that is being made can be opened. */
const FRAGMENT_SECONDS = 1;

/**
 * A small all-intra copy of the picture for the angle wall. It begins at time zero whatever the source does; each
 * picture keeps its own time, so that variable rates stay true. While it is made, it can be played as far as it goes
 * (`growing.mp4`).
 * Its progress is the seconds that can be played.
 */
export async function prepareProxy(
	cache: MediaCache,
	path: string,
	identity: string,
	facts: Pick<MediaFacts, 'durationSeconds' | 'video'>,
	{ onProgress, ...tool }: PrepareOptions = {}
): Promise<void> {
	if (await cache.has(identity, 'proxy.mp4')) return;
	const growing = cache.path(identity, 'growing.mp4');
	const options = { ...tool, stallSeconds: DECODER_STALL_SECONDS };
	try {
		await cache.put(identity, 'proxy.mp4', async (target) => {
			await runTool('ffmpeg', [...smallPicture(path, facts.video), ...GROWING_OUTPUT, '-y', `file:${growing}`], {
				...options,
				onReport: ({ seconds }) => seconds !== undefined && onProgress?.(Math.max(0, seconds - FRAGMENT_SECONDS))
			});
			// With its index in front, any picture is found at once.
			const whole = [
				...['-v', 'error', '-nostdin', ...REPORTS, ...localInput(growing)],
				...['-c', 'copy', '-video_track_timescale', '90000']
			];
			await runTool('ffmpeg', [...whole, '-movflags', '+faststart', '-f', 'mp4', '-y', `file:${target}`], {
				...options,
				// An index that is moved to the front is no progress that is told.
				stallSeconds: SEEK_STALL_SECONDS,
				onReport: () => undefined
			});
		});
	} finally {
		await rm(growing, { force: true });
	}
}

const GROWING_OUTPUT = [
	...['-movflags', '+empty_moov+default_base_moof', '-frag_duration', `${FRAGMENT_SECONDS * 1e6}`],
	...['-flush_packets', '1', '-f', 'mp4']
];

function smallPicture(path: string, video: MediaFacts['video']): readonly ToolArgument[] {
	const shown = video && shownSize(video);
	const width = shown ? Math.max(2, 2 * Math.round((PROXY_HEIGHT * shown.width) / shown.height / 2)) : -2;
	const isHigh = dynamicRangeOf(video?.colour) !== 'SDR';
	const filters = [
		'setpts=PTS-STARTPTS',
		...wholePictures(video),
		// The colour of few points is soon brought down.
		`scale=${width}:${PROXY_HEIGHT}:flags=fast_bilinear`,
		...(isHigh ? [toneMap(video!.colour!)] : []),
		'setsar=1'
	];
	return [
		...['-v', 'error', '-nostdin', ...REPORTS],
		...originalInput(path),
		...['-map', '0:v:0', '-an', '-sn', '-dn', '-map_metadata', '-1'],
		...['-vf', filters.join(','), '-pix_fmt', 'yuv420p'],
		...['-fps_mode', 'passthrough', '-enc_time_base', '1/90000', '-video_track_timescale', '90000'],
		...['-c:v', 'libx264', '-preset', 'superfast', '-profile:v', 'main', '-bf', '0'],
		...['-sc_threshold', '0', '-g', '1', '-crf', '26']
	];
}
