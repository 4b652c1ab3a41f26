import type { FftProvider } from '../signal/fft';
import { createBandReader, FRAME_REACH } from './band-frames';
import { readBlocks } from './block-levels';
import { createHumReader, HUM_REACH } from './hum-lines';
import { createLoudnessMeter } from './loudness';
import { READINGS_RATE, readingAt, RECORD_BYTES } from './readings';
import { createTwinFinder, type Twin } from './twins';
import { TRUE_PEAK_REACH, truePeak } from './true-peak';

/** Samples before and after a second that something reads with it. */
const REACH = Math.max(FRAME_REACH, HUM_REACH, TRUE_PEAK_REACH);
const HELD_SAMPLES = REACH + READINGS_RATE + REACH;

/** Takes all channels of a sound as it comes and gives a record a channel for each second: memory does not grow with its length. */
export interface Meter {
	/** @param interleaved at `READINGS_RATE`, whole samples of all channels */
	add(interleaved: Float32Array): void;
	/** What follows the last sample counts as silence. */
	finish(): Measured;
}

export interface Measured {
	/** A channel. */
	readonly samples: number;
	/** Channels that hold the same as one before them. */
	readonly twins: readonly Twin[];
}

/** @param onSecond gets the records of all channels, one after another, until it returns */
export function createMeter(
	channels: number,
	provider: FftProvider,
	onSecond: (records: Uint8Array<ArrayBuffer>) => void
): Meter {
	const records = new Uint8Array(channels * RECORD_BYTES);
	const meters = Array.from({ length: channels }, (_, channel) => ({
		held: new Float32Array(HELD_SAMPLES),
		loudness: createLoudnessMeter(),
		hum: createHumReader(provider),
		reading: readingAt(records, channel * RECORD_BYTES)
	}));
	const bands = createBandReader(provider);
	const twins = createTwinFinder(channels);
	// Before the first sample there is silence.
	let filled = REACH;
	let samples = 0;
	let secondsRead = 0;

	const readSecond = () => {
		for (const { held, loudness, hum, reading } of meters) {
			const end = REACH + READINGS_RATE;
			bands.read(held.subarray(REACH - FRAME_REACH, end + FRAME_REACH), reading.bands, reading.spectrum);
			readBlocks(held, REACH, reading.levels, reading.peaks, reading.tops);
			loudness.add(held.subarray(REACH, end), reading.energies);
			reading.truePeak[0] = truePeak(held, REACH, end);
			if (!hum.read(held, REACH, reading.hum, reading.nextToHum)) {
				reading.hum.fill(0);
				reading.nextToHum.fill(0);
			}
			held.copyWithin(0, READINGS_RATE);
		}
		filled -= READINGS_RATE;
		secondsRead++;
		onSecond(records);
	};

	const take = (interleaved: Float32Array, from: number, count: number) => {
		for (let channel = 0; channel < channels; channel++) {
			const { held } = meters[channel]!;
			let at = from * channels + channel;
			for (let i = 0; i < count; i++, at += channels) held[filled + i] = interleaved[at]!;
		}
		filled += count;
		if (filled === HELD_SAMPLES) readSecond();
	};

	return {
		add(interleaved) {
			const count = Math.floor(interleaved.length / channels);
			twins.add(interleaved);
			samples += count;
			for (let from = 0; from < count;) {
				const some = Math.min(HELD_SAMPLES - filled, count - from);
				take(interleaved, from, some);
				from += some;
			}
		},
		finish() {
			// The last second may have begun: it is filled up with silence.
			while (secondsRead * READINGS_RATE < samples) {
				for (const { held } of meters) held.fill(0, filled);
				filled = HELD_SAMPLES;
				readSecond();
			}
			return { samples, twins: twins.found() };
		}
	};
}
