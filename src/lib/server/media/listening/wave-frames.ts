import type { MediaFacts } from '../../../core/gather/media-facts';
import { openOriginal } from '../original-file';
import { isPlain, readWaveLayout, type WaveLayout } from '../wave-notes';
import { LISTENING_SAMPLE_RATE } from './listening-format';

/** A wave file whose samples can be listened to as they lie in it. */
export interface WaveSource {
	readonly path: string;
	readonly layout: WaveLayout;
}

/** Where a sound lies that can be listened to in place: plain samples at the listening rate, in one wave file or in several. */
export async function waveSources(path: string, facts: MediaFacts): Promise<readonly WaveSource[] | undefined> {
	const { audio, container } = facts;
	if (container !== 'wav' || audio?.sampleRate !== LISTENING_SAMPLE_RATE) return undefined;
	const files = audio.channelFiles ?? [{ path, channels: audio.channels }];
	const sources: WaveSource[] = [];
	for (const file of files) {
		const layout = await readWaveLayout(file.path);
		if (!layout || !isPlain(layout) || layout.channels !== file.channels) return undefined;
		if (layout.sampleRate !== LISTENING_SAMPLE_RATE) return undefined;
		sources.push({ path: file.path, layout });
	}
	return sources;
}

/**
 * Frames `[from, to)` of some channels, straight from the files.
 * @param out interleaved, as many channels as are asked for; stays zero beyond the ends of the files
 */
export async function readWaveFrames(
	sources: readonly WaveSource[],
	from: number,
	to: number,
	channels: readonly number[],
	out: Int16Array | Int32Array
): Promise<void> {
	let firstChannel = 0;
	for (const { path, layout } of sources) {
		const wanted = channels.flatMap((channel, place) => {
			const own = channel - firstChannel;
			return own >= 0 && own < layout.channels ? [{ own, place }] : [];
		});
		firstChannel += layout.channels;
		if (wanted.length === 0) continue;
		const bytes = await readBytes(path, layout, from, to);
		for (const { own, place } of wanted) copyChannel(bytes, layout, own, out, place, channels.length);
	}
}

async function readBytes(path: string, layout: WaveLayout, from: number, to: number): Promise<Buffer> {
	const frameBytes = layout.channels * (layout.bits / 8);
	const end = Math.max(from, Math.min(to, Math.floor(layout.dataBytes / frameBytes)));
	const bytes = Buffer.alloc((end - from) * frameBytes);
	const file = await openOriginal(path);
	try {
		const { bytesRead } = await file.read(bytes, 0, bytes.length, layout.dataAt + from * frameBytes);
		return bytes.subarray(0, bytesRead - (bytesRead % frameBytes));
	} finally {
		await file.close();
	}
}

/** One channel of what was read into its place among those that are asked for; a deep sound gets 32 bits. */
function copyChannel(
	bytes: Buffer,
	{ channels, bits, format }: WaveLayout,
	channel: number,
	out: Int16Array | Int32Array,
	place: number,
	places: number
): void {
	const size = bits / 8;
	const frames = bytes.length / (channels * size);
	const up = 2 ** (8 * out.BYTES_PER_ELEMENT - bits);
	for (let frame = 0, at = channel * size, to = place; frame < frames; frame++, at += channels * size, to += places) {
		if (format === 3) out[to] = fromFloat(bytes.readFloatLE(at));
		else out[to] = bytes.readIntLE(at, size) * up;
	}
}

/** As ffmpeg does it: full scale is clipped. */
function fromFloat(value: number): number {
	return Math.max(-(2 ** 31), Math.min(2 ** 31 - 1, Math.round(value * 2 ** 31)));
}
