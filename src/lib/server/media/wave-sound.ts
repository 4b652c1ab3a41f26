import { closeSync, readSync } from 'node:fs';
import { ANALYSIS_SAMPLE_RATE, FULL_SCALE } from '../../core/features/band-features';
import type { MediaFacts } from '../../core/gather/media-facts';
import type { Span } from '../../core/match/windows/listening-windows';
import { createDecimator, type Decimator } from '../../core/signal/decimate';
import type { FftProvider } from '../../core/signal/fft';
import { openOriginalSync } from './original-file';
import { isPlain, readWaveLayout, type WaveLayout } from './wave-notes';

/** Ratios of rates that the fast transforms have sizes for. */
const FACTORS: readonly number[] = [2, 3, 4, 6, 12, 24];

/** Whether a wave file's sound can be read in place: plain numbers, at a fitting multiple of the engine's rate. */
export function isReadable(layout: WaveLayout): boolean {
	return isPlain(layout) && isReadableRate(layout.sampleRate);
}

/** How a file's sound lies in it, where it can be read in place. */
export async function layoutInPlace(path: string, facts: MediaFacts): Promise<WaveLayout | undefined> {
	if (facts.container !== 'wav' || facts.audio?.channelFiles) return undefined;
	const layout = await readWaveLayout(path);
	return layout && isReadable(layout) ? layout : undefined;
}

export function isReadableRate(sampleRate: number): boolean {
	return FACTORS.includes(sampleRate / ANALYSIS_SAMPLE_RATE);
}

/**
 * Stretches of a wave file as the engine takes them, straight from the file: several times as quick as a decoder.
 * For worker threads: it reads synchronously.
 * @param stretches whole seconds @param channel one channel instead of the mean of all
 */
export function readWaveStretches(
	path: string,
	layout: WaveLayout,
	stretches: readonly Span[],
	channel: number | undefined,
	provider: FftProvider
): readonly Int16Array[] {
	const decimator = createDecimator(layout.sampleRate / ANALYSIS_SAMPLE_RATE, provider);
	const file = openOriginalSync(path);
	try {
		return stretches.map((stretch) => readStretch(file, layout, stretch, channel, decimator));
	} finally {
		closeSync(file);
	}
}

function readStretch(
	file: number,
	layout: WaveLayout,
	{ fromSeconds, toSeconds }: Span,
	channel: number | undefined,
	decimator: Decimator
): Int16Array {
	const factor = layout.sampleRate / ANALYSIS_SAMPLE_RATE;
	const out = new Int16Array(new SharedArrayBuffer(2 * (toSeconds - fromSeconds) * ANALYSIS_SAMPLE_RATE));
	const input = new Float32Array(decimator.inputSamples);
	const bytes = new Uint8Array(input.length * layout.channels * (layout.bits / 8));
	const from = fromSeconds * ANALYSIS_SAMPLE_RATE;
	const block = decimator.outputSamples;
	// Blocks lie where they would if the file were read from its beginning: a sample is the same in every stretch.
	for (let at = Math.floor(from / block) * block; at < from + out.length; at += block) {
		readMono(file, layout, at * factor - decimator.marginSamples, input, bytes, channel);
		const samples = decimator.run(input);
		const first = Math.max(0, from - at);
		const end = Math.min(block, from + out.length - at);
		writeClipped(out, at + first - from, samples, first, end);
	}
	return out;
}

function writeClipped(out: Int16Array, at: number, samples: Float32Array, from: number, to: number): void {
	for (let i = from; i < to; i++) {
		const value = Math.max(-FULL_SCALE, Math.min(FULL_SCALE - 1, samples[i]!));
		out[at + i - from] = Math.floor(value + 0.5);
	}
}

/** Frames of a file as one channel, in 16-bit units; zero outside. */
function readMono(
	file: number,
	{ dataAt, dataBytes, channels, bits, format }: WaveLayout,
	firstFrame: number,
	target: Float32Array,
	bytes: Uint8Array,
	channel: number | undefined
): void {
	const frameBytes = channels * (bits / 8);
	const from = Math.max(0, firstFrame);
	const end = Math.max(from, Math.min(Math.floor(dataBytes / frameBytes), firstFrame + target.length));
	const read = end > from ? readSync(file, bytes, 0, (end - from) * frameBytes, dataAt + from * frameBytes) : 0;
	const first = from - firstFrame;
	const frames = Math.min(target.length - first, Math.floor(read / frameBytes));
	target.fill(0, 0, first);
	target.fill(0, first + frames);
	const own = target.subarray(first, first + frames);
	if (channel === undefined && channels === 2 && format === 1) return meanOfTwo(own, bytes, bits);
	own.fill(0);
	const [one, last] = channel === undefined ? [0, channels - 1] : [channel, channel];
	for (let k = one; k <= last; k++) addChannel(own, bytes, k, channels, bits, format);
	const share = 1 / (last - one + 1);
	if (share !== 1) for (let i = 0; i < own.length; i++) own[i] = own[i]! * share;
}

/** The common case, in one pass. */
function meanOfTwo(target: Float32Array, bytes: Uint8Array, bits: number): void {
	if (bits === 16) {
		const values = new Int16Array(bytes.buffer, 0, target.length * 2);
		for (let i = 0, at = 0; i < target.length; i++, at += 2) target[i] = (values[at]! + values[at + 1]!) * 0.5;
		return;
	}
	if (bits === 24) return meanOfTwoDeep(target, bytes);
	const size = bits / 8;
	for (let i = 0, at = size - 2; i < target.length; i++, at += 2 * size) {
		const left = ((bytes[at]! | (bytes[at + 1]! << 8)) << 16) >> 16;
		const right = ((bytes[at + size]! | (bytes[at + size + 1]! << 8)) << 16) >> 16;
		target[i] = (left + right) * 0.5;
	}
}

/** Two frames of two channels of 24 bits are three words: a third of the time that bytes take. */
function meanOfTwoDeep(target: Float32Array, bytes: Uint8Array): void {
	const words = new Int32Array(bytes.buffer, 0, bytes.length >> 2);
	const pairs = target.length >> 1;
	for (let pair = 0, at = 0; pair < pairs; pair++, at += 3) {
		const x = words[at]!;
		const y = words[at + 1]!;
		const z = words[at + 2]!;
		target[2 * pair] = (((x << 8) >> 16) + ((y << 16) >> 16)) * 0.5;
		target[2 * pair + 1] = (((((y >>> 24) | (z << 8)) << 16) >> 16) + (z >> 16)) * 0.5;
	}
	if (target.length % 2 === 0) return;
	const [last, at] = [target.length - 1, 6 * (target.length - 1)];
	const [left, right] = [bytes[at + 1]! | (bytes[at + 2]! << 8), bytes[at + 4]! | (bytes[at + 5]! << 8)];
	target[last] = (((left << 16) >> 16) + ((right << 16) >> 16)) * 0.5;
}

/** Adds a channel; what lies below 16 bits is left away but for floats. */
function addChannel(
	target: Float32Array,
	bytes: Uint8Array,
	channel: number,
	channels: number,
	bits: number,
	format: number
): void {
	const step = channels * (bits / 8);
	if (format === 3) {
		const values = new Float32Array(bytes.buffer, 0, target.length * channels);
		for (let i = 0, at = channel; i < target.length; i++, at += channels)
			target[i] = target[i]! + values[at]! * FULL_SCALE;
		return;
	}
	// The two highest bytes of a number, lowest first.
	for (let i = 0, at = channel * (bits / 8) + bits / 8 - 2; i < target.length; i++, at += step)
		target[i] = target[i]! + (((bytes[at]! | (bytes[at + 1]! << 8)) << 16) >> 16);
}
