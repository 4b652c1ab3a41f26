import { ANALYSIS_SAMPLE_RATE } from '../../core/features/band-features';
import type { MediaFacts } from '../../core/devices/media-facts';
import { localInput, runTool } from './run-tool';

/** Sound for the ear in the page: 16 bits at this rate, all channels, interleaved. */
export const LISTENING_SAMPLE_RATE = 48_000;

/** The mean of all channels; ffmpeg's own downmix would drop or weigh some by their supposed place. */
function monoMix(channels: number): string {
	const share = (1 / channels).toFixed(6);
	return `pan=mono|c0=${Array.from({ length: channels }, (_, index) => `${share}*c${index}`).join('+')}`;
}

export interface DecodeOptions {
	readonly signal?: AbortSignal;
	/** Also writes the listening sound (interleaved 16-bit) to this path, in the same pass. */
	readonly listeningPath?: string;
	readonly onProgress?: (seconds: number) => void;
}

/**
 * Decodes a file's first sound stream to mono at `ANALYSIS_SAMPLE_RATE`, in shared memory so that workers need no copy.
 * The first sample is the first one presented (see MediaFacts for its media time).
 */
export async function decodeForAnalysis(
	path: string,
	facts: MediaFacts,
	options: DecodeOptions = {}
): Promise<Float32Array> {
	const channels = facts.audio!.channels;
	const blocks: Buffer[] = [];
	let bytes = 0;
	const analysis = [
		'-map',
		'0:a:0',
		'-af',
		`${monoMix(channels)},aresample=${ANALYSIS_SAMPLE_RATE}:resampler=soxr`,
		'-flush_packets',
		'0',
		'-f',
		'f32le',
		'pipe:1'
	];
	const listening = options.listeningPath
		? [
				'-map',
				'0:a:0',
				'-ar',
				`${LISTENING_SAMPLE_RATE}`,
				'-c:a',
				'pcm_s16le',
				'-f',
				's16le',
				'-y',
				`file:${options.listeningPath}`
			]
		: [];
	await runTool(
		'ffmpeg',
		['-v', 'error', '-nostdin', '-vn', '-sn', '-dn', ...localInput(path), ...analysis, ...listening],
		{
			...(options.signal ? { signal: options.signal } : {}),
			timeoutSeconds: 120 + facts.durationSeconds,
			onOutput: (block) => {
				blocks.push(block);
				bytes += block.length;
				options.onProgress?.(bytes / 4 / ANALYSIS_SAMPLE_RATE);
			}
		}
	);
	const shared = new Uint8Array(new SharedArrayBuffer(bytes - (bytes % 4)));
	let at = 0;
	for (const block of blocks) {
		const part = block.subarray(0, Math.max(0, shared.length - at));
		shared.set(part, at);
		at += part.length;
	}
	return new Float32Array(shared.buffer);
}

/** A file's sound as it is, piece by piece: interleaved 32-bit floats of all channels at a rate. */
export async function decodeChannels(
	path: string,
	sampleRate: number,
	onBlock: (samples: Float32Array) => void | Promise<void>,
	signal?: AbortSignal
): Promise<void> {
	let rest: Buffer = Buffer.alloc(0);
	await runTool(
		'ffmpeg',
		[
			'-v',
			'error',
			'-nostdin',
			'-vn',
			'-sn',
			'-dn',
			...localInput(path),
			'-map',
			'0:a:0',
			'-af',
			`aresample=${sampleRate}:resampler=soxr`,
			'-f',
			'f32le',
			'pipe:1'
		],
		{
			...(signal ? { signal } : {}),
			onOutput: async (block) => {
				const whole = rest.length > 0 ? Buffer.concat([rest, block]) : block;
				const usable = whole.length - (whole.length % 4);
				// A copy: floats must begin at a multiple of four bytes.
				await onBlock(new Float32Array(new Uint8Array(whole.subarray(0, usable)).buffer));
				rest = whole.subarray(usable);
			}
		}
	);
}
