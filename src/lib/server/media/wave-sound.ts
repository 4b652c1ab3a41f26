import { closeSync, readSync } from 'node:fs';
import { ANALYSIS_SAMPLE_RATE, FULL_SCALE } from '../../core/features/band-features';
import type { Span } from '../../core/match/windows/listening-windows';
import { createDecimator, type Decimator } from '../../core/signal/decimate';
import type { FftProvider } from '../../core/signal/fft';
import { openOriginalSync } from './original-file';
import type { WaveLayout } from './wave-notes';

/** Ratios of rates that the fast transforms have sizes for. */
const FACTORS: readonly number[] = [2, 3, 4, 6, 12, 24];

/** Whether a wave file's sound can be read in place: plain numbers, at a fitting multiple of the engine's rate. */
export function isReadable({ format, bits, sampleRate }: WaveLayout): boolean {
	const isPlain = (format === 1 && [16, 24, 32].includes(bits)) || (format === 3 && bits === 32);
	return isPlain && FACTORS.includes(sampleRate / ANALYSIS_SAMPLE_RATE);
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
	for (let at = 0; at < out.length; at += decimator.outputSamples) {
		const firstFrame = fromSeconds * layout.sampleRate + at * factor - decimator.marginSamples;
		readMono(file, layout, firstFrame, input, bytes, channel);
		const samples = decimator.run(input);
		const count = Math.min(samples.length, out.length - at);
		for (let i = 0; i < count; i++) {
			const value = Math.round(samples[i]!);
			out[at + i] = value > FULL_SCALE - 1 ? FULL_SCALE - 1 : value < -FULL_SCALE ? -FULL_SCALE : value;
		}
	}
	return out;
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
	const size = bits / 8;
	for (let i = 0, at = size - 2; i < target.length; i++, at += 2 * size) {
		const left = ((bytes[at]! | (bytes[at + 1]! << 8)) << 16) >> 16;
		const right = ((bytes[at + size]! | (bytes[at + size + 1]! << 8)) << 16) >> 16;
		target[i] = (left + right) * 0.5;
	}
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
