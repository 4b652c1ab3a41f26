import { ANALYSIS_SAMPLE_RATE } from '../../core/features/band-features';
import type { Span } from '../../core/match/windows/listening-windows';
import type { MediaFacts } from '../../core/gather/media-facts';
import { LISTENING_SAMPLE_RATE } from './listening/listening-format';
import { DECODER_STALL_SECONDS, runTool, type ToolOptions } from './run-tool';
import { soundFilesOf, type SoundFiles, soundInputs, stretchInputs } from './sound-inputs';
import type { ToolArgument } from './tool-inputs';

/** The mean of all channels, or one of them; ffmpeg's own downmix would drop or weigh some by their supposed place. */
function monoMix(channels: number, channel?: number): string {
	if (channel !== undefined) return `pan=mono|c0=c${channel}`;
	const share = (1 / channels).toFixed(6);
	return `pan=mono|c0=${Array.from({ length: channels }, (_, index) => `${share}*c${index}`).join('+')}`;
}

/** The engine's sound: mono at its rate. Its resampler delays by nothing. */
function analysisFilters(channels: number, channel?: number): string {
	return `${monoMix(channels, channel)},aresample=${ANALYSIS_SAMPLE_RATE}:resampler=soxr`;
}

/** 16 bits; packets are not flushed one by one. */
const ANALYSIS_OUTPUT = ['-flush_packets', '0', '-f', 's16le', 'pipe:1'] as const;

export interface DecodeOptions {
	readonly signal?: AbortSignal;
	readonly onProgress?: (seconds: number) => void;
	/** One channel instead of the mix. */
	readonly channel?: number;
}

/** A length that was estimated (from a bit rate, say) may be short by so much; what lies beyond is no part of the clip. */
const BEYOND_ITS_LENGTH = 1.1;
const BEYOND_ITS_LENGTH_SECONDS = 60;

/** Stops a decoder that goes on for ever. */
function atMost({ durationSeconds }: MediaFacts): readonly string[] {
	return ['-t', (durationSeconds * BEYOND_ITS_LENGTH + BEYOND_ITS_LENGTH_SECONDS).toFixed(3)];
}

/**
 * Decodes a file's sound to mono at `ANALYSIS_SAMPLE_RATE`, in shared memory so that workers need no copy.
 * The first sample is the first one presented (see MediaFacts for its media time).
 */
export async function decodeForAnalysis(
	path: string,
	facts: MediaFacts,
	options: DecodeOptions = {}
): Promise<Int16Array> {
	const { args, chains, label } = soundInputs(soundFilesOf(path, facts), 0, ['-vn', '-sn', '-dn']);
	const graph = `${chains}${label}${analysisFilters(facts.audio!.channels, options.channel)}[out]`;
	return collectAnalysis(
		[...args, '-filter_complex', graph, '-map', '[out]', ...atMost(facts), ...ANALYSIS_OUTPUT],
		facts.durationSeconds,
		options
	);
}

/** Where a file's decoded sound goes. */
export interface SoundTargets {
	/** As `decodeForAnalysis` gives it. */
	readonly analysisPath: string;
	/** All channels at `LISTENING_SAMPLE_RATE`, interleaved, as they come; more comes once it has resolved. */
	readonly onSound: (samples: Float32Array<ArrayBuffer>) => Promise<void>;
	/** The same as a file, of a deep sound with 32 bits; nothing where no copy is needed. */
	readonly copyPath?: string;
}

/** Decodes a file's sound for the engine, for the eye and for what is measured, and where need be for the ear, in one pass, whatever its length. */
export async function decodeSound(
	path: string,
	facts: MediaFacts,
	{ analysisPath, onSound, copyPath }: SoundTargets,
	options: Pick<DecodeOptions, 'signal' | 'onProgress'> & Pick<ToolOptions, 'pausing'> = {}
): Promise<void> {
	const { args, chains, label } = soundInputs(soundFilesOf(path, facts), 0, ['-vn', '-sn', '-dn']);
	const ways = copyPath ? '[engine][eye][ear]' : '[engine][eye]';
	const graph = [
		`${chains}${label}asplit=${copyPath ? 3 : 2}${ways}`,
		`[engine]${analysisFilters(facts.audio!.channels)}[out]`,
		`[eye]aresample=${LISTENING_SAMPLE_RATE}[seen]`
	].join(';');
	const depth = facts.audio?.isDeep ? 's32le' : 's16le';
	const engine = ['-map', '[out]', ...atMost(facts), '-f', 's16le', '-y', `file:${analysisPath}`];
	const eye = ['-map', '[seen]', ...atMost(facts), '-c:a', 'pcm_f32le', '-f', 'f32le', 'pipe:1'];
	const copied = ['-map', '[ear]', ...atMost(facts), '-ar', `${LISTENING_SAMPLE_RATE}`, '-c:a', `pcm_${depth}`];
	const ear = copyPath ? [...copied, '-f', depth, '-y', `file:${copyPath}`] : [];
	const bytesASecond = 4 * facts.audio!.channels * LISTENING_SAMPLE_RATE;
	const bytesASample = 4 * facts.audio!.channels;
	let rest: Buffer = Buffer.alloc(0);
	let bytes = 0;
	await runTool('ffmpeg', ['-v', 'error', '-nostdin', ...args, '-filter_complex', graph, ...engine, ...eye, ...ear], {
		...(options.signal ? { signal: options.signal } : {}),
		...(options.pausing ? { pausing: options.pausing } : {}),
		stallSeconds: DECODER_STALL_SECONDS,
		async onOutput(block) {
			const whole = rest.length > 0 ? Buffer.concat([rest, block]) : block;
			const usable = whole.length - (whole.length % bytesASample);
			rest = Buffer.from(whole.subarray(usable));
			// A copy: floats must begin at a multiple of four bytes, and it is given away.
			if (usable > 0) await onSound(new Float32Array(new Uint8Array(whole.subarray(0, usable)).buffer));
			bytes += block.length;
			options.onProgress?.(bytes / bytesASecond);
		}
	});
}

/** Opened at once by one ffmpeg. */
const MAX_PIECES_AT_ONCE = 12;

/** A stretch of one file's sound: whole seconds from its first sample. */
export interface Piece {
	readonly path: string;
	readonly facts: MediaFacts;
	readonly stretch: Span;
	/** One channel instead of the mix. */
	readonly channel?: number;
}

/**
 * Decodes stretches of files, to the sample where they begin with the file or `isSeekable` says so: one ffmpeg opens
 * many and strings them together, for it takes as long to start as to decode two minutes.
 * @returns each as long as was asked for, silent beyond the end of its sound
 */
export async function decodePieces(
	pieces: readonly Piece[],
	options: Pick<DecodeOptions, 'signal'> = {}
): Promise<readonly Int16Array[]> {
	const parts: Int16Array[] = [];
	for (let from = 0; from < pieces.length; from += MAX_PIECES_AT_ONCE) {
		const some = pieces.slice(from, from + MAX_PIECES_AT_ONCE);
		const lengths = some.map(({ stretch }) => stretch.toSeconds - stretch.fromSeconds);
		const seconds = lengths.reduce((sum, one) => sum + one, 0);
		const together = await collectAnalysis(pieceArguments(some), seconds, options);
		let at = 0;
		for (const length of lengths) parts.push(together.subarray(at, (at += length * ANALYSIS_SAMPLE_RATE)));
	}
	return parts;
}

function pieceArguments(pieces: readonly Piece[]): readonly ToolArgument[] {
	const inputs: ToolArgument[] = [];
	const chains: string[] = [];
	let opened = 0;
	for (const [index, { path, facts, stretch, channel }] of pieces.entries()) {
		const sound = stretchInputs(path, facts, stretch, opened);
		opened += sound.count;
		inputs.push(...sound.args);
		const count = (stretch.toSeconds - stretch.fromSeconds) * ANALYSIS_SAMPLE_RATE;
		chains.push(
			`${sound.chains}${sound.label}${analysisFilters(facts.audio!.channels, channel)},` +
				`${sound.cut(ANALYSIS_SAMPLE_RATE)},apad=whole_len=${count}[s${index}]`
		);
	}
	const all = pieces.map((_, index) => `[s${index}]`).join('');
	const graph = `${chains.join(';')};${all}concat=n=${pieces.length}:v=0:a=1[out]`;
	return [...inputs, ...['-filter_complex', graph, '-map', '[out]', ...ANALYSIS_OUTPUT]];
}

/** @param expectedSeconds what comes beyond is taken too; memory grows with what has come */
async function collectAnalysis(
	args: readonly ToolArgument[],
	expectedSeconds: number,
	options: Pick<DecodeOptions, 'signal' | 'onProgress'>
): Promise<Int16Array> {
	// Pages that nothing was written to take no room.
	let shared = new Uint8Array(new SharedArrayBuffer(2 * Math.ceil(expectedSeconds * ANALYSIS_SAMPLE_RATE) + 2));
	let bytes = 0;
	await runTool('ffmpeg', ['-v', 'error', '-nostdin', ...args], {
		...(options.signal ? { signal: options.signal } : {}),
		stallSeconds: DECODER_STALL_SECONDS,
		onOutput: (block) => {
			if (bytes + block.length > shared.length) {
				const larger = new Uint8Array(new SharedArrayBuffer(2 * (bytes + block.length)));
				larger.set(shared.subarray(0, bytes));
				shared = larger;
			}
			shared.set(block, bytes);
			bytes += block.length;
			options.onProgress?.(bytes / 2 / ANALYSIS_SAMPLE_RATE);
		}
	});
	return new Int16Array(shared.buffer, 0, bytes >> 1);
}

/**
 * Whether a stretch of a file can be decoded by itself and is then the same to the sample (measured, see the tests):
 * containers whose index counts samples.
 */
export function isSeekable(facts: MediaFacts): boolean {
	const { container, audio } = facts;
	if (/^(wav|w64|aiff|flac)$/.test(container)) return true;
	return container.includes('mov') && facts.isFragmented !== true && audio !== undefined;
}

/**
 * A file's sound as it is, piece by piece: interleaved 32-bit floats of all channels at a rate.
 * @param seconds only the first ones @param channels blocks are whole samples of so many
 */
export async function decodeChannels(
	files: SoundFiles,
	sampleRate: number,
	onBlock: (samples: Float32Array<ArrayBuffer>) => void | Promise<void>,
	{
		signal,
		seconds,
		channels = 1
	}: { readonly signal?: AbortSignal; readonly seconds?: number; readonly channels?: number } = {}
): Promise<void> {
	const { args, chains, label } = soundInputs(files, 0, ['-vn', '-sn', '-dn']);
	let rest: Buffer = Buffer.alloc(0);
	await runTool(
		'ffmpeg',
		[
			...['-v', 'error', '-nostdin', ...args],
			...['-filter_complex', `${chains}${label}aresample=${sampleRate}:resampler=soxr[out]`, '-map', '[out]'],
			...(seconds === undefined ? [] : ['-t', `${seconds}`]),
			...['-f', 'f32le', 'pipe:1']
		],
		{
			...(signal ? { signal } : {}),
			stallSeconds: DECODER_STALL_SECONDS,
			onOutput: async (block) => {
				const whole = rest.length > 0 ? Buffer.concat([rest, block]) : block;
				const usable = whole.length - (whole.length % (4 * channels));
				rest = whole.subarray(usable);
				// A copy: floats must begin at a multiple of four bytes.
				await onBlock(new Float32Array(new Uint8Array(whole.subarray(0, usable)).buffer));
			}
		}
	);
}
