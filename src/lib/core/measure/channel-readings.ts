import {
	BANDS,
	BLOCKS_A_SECOND,
	ENERGIES_A_SECOND,
	FRAMES_A_SECOND,
	fromPower,
	HUM_LINES,
	POWER_OF_BYTE,
	type Reading,
	RUMBLE_BANDS,
	SPECTRUM_BINS,
	SPEECH_BANDS,
	VOICE_BANDS
} from './readings';

/** Powers of a channel in frames of the line-up, as bytes; 0 where it does not run. */
export interface Track {
	readonly voice: Uint8Array;
	readonly speech: Uint8Array;
	readonly rumble: Uint8Array;
}

/** What was read of a channel, second after second in its own time; seconds that were not heard are left out. */
export interface ChannelReadings {
	readonly seconds: number;
	/** Frame of the line-up in which each begins. */
	readonly frames: Float64Array;
	readonly levels: Uint8Array;
	readonly peaks: Uint8Array;
	readonly tops: Uint8Array;
	readonly spectra: Uint8Array;
	readonly hum: Uint8Array;
	readonly nextToHum: Uint8Array;
	readonly energies: Float32Array;
	readonly truePeaks: Float32Array;
}

/** Takes a channel's readings in. */
export interface ReadingsCollector {
	/**
	 * @param firstFrame frame of the line-up at its beginning, `endFrame` at its end: fractions of one tell what clocks differ by
	 * @param isMeasured otherwise it only goes into the track
	 */
	add(reading: Reading, firstFrame: number, endFrame: number, isMeasured?: boolean): void;
	finish(): { readonly track: Track; readonly readings: ChannelReadings };
}

/**
 * @param frames of the line-up
 * @param maxSeconds that will come at most
 */
export function createReadingsCollector(frames: number, maxSeconds: number): ReadingsCollector {
	const track: Track = {
		voice: new Uint8Array(frames),
		speech: new Uint8Array(frames),
		rumble: new Uint8Array(frames)
	};
	const all = {
		frames: new Float64Array(maxSeconds),
		levels: new Uint8Array(maxSeconds * BLOCKS_A_SECOND),
		peaks: new Uint8Array(maxSeconds * BLOCKS_A_SECOND),
		tops: new Uint8Array(maxSeconds * BLOCKS_A_SECOND),
		spectra: new Uint8Array(maxSeconds * SPECTRUM_BINS),
		hum: new Uint8Array(maxSeconds * HUM_LINES),
		nextToHum: new Uint8Array(maxSeconds * HUM_LINES),
		energies: new Float32Array(maxSeconds * ENERGIES_A_SECOND),
		truePeaks: new Float32Array(maxSeconds)
	};
	let seconds = 0;
	return {
		add(reading, firstFrame, endFrame, isMeasured = true) {
			addToTrack(track, reading, firstFrame, endFrame);
			// What lies outside of the line-up's stretch in part is not measured.
			if (!isMeasured || firstFrame < 0 || endFrame > frames || seconds >= maxSeconds) return;
			all.frames[seconds] = firstFrame;
			all.levels.set(reading.levels, seconds * BLOCKS_A_SECOND);
			all.peaks.set(reading.peaks, seconds * BLOCKS_A_SECOND);
			all.tops.set(reading.tops, seconds * BLOCKS_A_SECOND);
			all.spectra.set(reading.spectrum, seconds * SPECTRUM_BINS);
			all.hum.set(reading.hum, seconds * HUM_LINES);
			all.nextToHum.set(reading.nextToHum, seconds * HUM_LINES);
			all.energies.set(reading.energies, seconds * ENERGIES_A_SECOND);
			all.truePeaks.set(reading.truePeak, seconds);
			seconds++;
		},
		finish: () => ({
			track,
			readings: {
				seconds,
				frames: all.frames.subarray(0, seconds),
				levels: all.levels.subarray(0, seconds * BLOCKS_A_SECOND),
				peaks: all.peaks.subarray(0, seconds * BLOCKS_A_SECOND),
				tops: all.tops.subarray(0, seconds * BLOCKS_A_SECOND),
				spectra: all.spectra.subarray(0, seconds * SPECTRUM_BINS),
				hum: all.hum.subarray(0, seconds * HUM_LINES),
				nextToHum: all.nextToHum.subarray(0, seconds * HUM_LINES),
				energies: all.energies.subarray(0, seconds * ENERGIES_A_SECOND),
				truePeaks: all.truePeaks.subarray(0, seconds)
			}
		})
	};
}

function addToTrack({ voice, speech, rumble }: Track, { bands }: Reading, firstFrame: number, endFrame: number): void {
	const step = FRAMES_A_SECOND / (endFrame - firstFrame);
	const from = Math.max(0, Math.ceil(firstFrame - 0.5));
	const to = Math.min(voice.length, Math.ceil(endFrame - 0.5));
	for (let frame = from; frame < to; frame++) {
		const own = Math.max(0, Math.min(FRAMES_A_SECOND - 1, Math.floor((frame + 0.5 - firstFrame) * step)));
		voice[frame] = powerOf(bands, own, VOICE_BANDS);
		speech[frame] = powerOf(bands, own, SPEECH_BANDS);
		rumble[frame] = powerOf(bands, own, RUMBLE_BANDS);
	}
}

/** Power of bands together; never 0, which stands for a channel that does not run. */
function powerOf(bands: Uint8Array, frame: number, [from, to]: readonly [number, number]): number {
	let power = 0;
	for (let band = from; band < to; band++) power += POWER_OF_BYTE[bands[frame * BANDS + band]!]!;
	return Math.max(1, fromPower(power));
}
