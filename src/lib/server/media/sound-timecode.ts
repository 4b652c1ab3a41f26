import { readLinearTimecode, summariseLinearTimecode } from '../../core/gather/linear-timecode';
import { framesOfDay } from '../../core/time/timecode';
import { ratePerSecond } from '../../core/time/rational';
import { decodeChannels } from './decode-sound';
import type { SoundFiles } from './sound-inputs';

/** Timecode that a recorder wrote as sound on one of its channels. */
export interface SoundTimecode {
	/** From 0. */
	readonly channel: number;
	/** Share of the frames that could be read. */
	readonly quality: number;
	/** Clock time of the first sample, length of its day and of a frame, in seconds. */
	readonly seconds: number;
	readonly daySeconds: number;
	readonly frameSeconds: number;
}

/** Its own rate tells to a hundredth of a frame. */
const SAMPLE_RATE = 48_000;
/** So much of a file is enough to find it. */
const LOOKED_AT_SECONDS = 30;
const MAX_CHANNELS = 32;
/** Less of the frames is a sound that happens to look like some. */
const MIN_QUALITY = 0.5;

/**
 * Looks for linear timecode at the beginning of a file, channel by channel. For worker threads.
 * @throws MediaError the sound cannot be decoded
 */
export async function findSoundTimecode(files: SoundFiles, channels: number): Promise<SoundTimecode | undefined> {
	const count = Math.min(MAX_CHANNELS, channels);
	const sounds = Array.from({ length: count }, () => new Float32Array(SAMPLE_RATE * LOOKED_AT_SECONDS));
	let samples = 0;
	await decodeChannels(
		files,
		SAMPLE_RATE,
		(block) => {
			// Blocks end anywhere: samples are counted, not frames.
			for (const value of block) {
				const channel = samples % channels;
				if (channel < count) sounds[channel]![Math.floor(samples / channels)] = value;
				samples++;
			}
		},
		{ seconds: LOOKED_AT_SECONDS }
	);
	const found = sounds.flatMap((sound, channel): SoundTimecode[] => {
		const own = sound.subarray(0, Math.floor(samples / channels));
		const summary = summariseLinearTimecode(readLinearTimecode(own, SAMPLE_RATE), SAMPLE_RATE);
		if (!summary || summary.quality < MIN_QUALITY) return [];
		const { rate, dropFrame, frameAtZero, quality } = summary;
		const day = framesOfDay(rate, dropFrame);
		return [
			{
				channel,
				quality,
				seconds: ((frameAtZero + day) % day) / ratePerSecond(rate),
				daySeconds: day / ratePerSecond(rate),
				frameSeconds: 1 / ratePerSecond(rate)
			}
		];
	});
	return found.sort((x, y) => y.quality - x.quality)[0];
}
