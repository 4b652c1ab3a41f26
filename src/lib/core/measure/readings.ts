/**
 * What is kept of a channel's sound so that all measures can be read off it without decoding it again: a record of bytes
 * for each second. A file of readings holds second after second, in each second channel after channel.
 */
export const READINGS_RATE = 48_000;

/** Band frames a second; each is 32 ms of sound about the middle of its 10 ms. */
export const FRAMES_A_SECOND = 100;
export const FRAME_SECONDS = 1 / FRAMES_A_SECOND;
/** Blocks of 5 ms a second, each with its level, its peak and the width of its top. */
export const BLOCKS_A_SECOND = 200;
/** Energies a second, each of 100 ms under the weighting of ITU-R BS.1770. */
export const ENERGIES_A_SECOND = 10;

/** Size and resolution of the transform that bands and spectra are summed from. */
export const TRANSFORM_SIZE = 2048;
export const BIN_HZ = READINGS_RATE / TRANSFORM_SIZE;
/**
 * Edges of the bands in bins: 23 Hz to 21 kHz, about a quarter of an octave where speech is. Rumble is a band of its own
 * (23 to 70 Hz); 211 to 4 008 Hz and 305 to 3 703 Hz are whole bands.
 */
const BAND_EDGES = [
	1, 3, 6, 9, 13, 17, 21, 26, 32, 39, 47, 57, 69, 83, 100, 120, 145, 158, 171, 205, 256, 307, 384, 480, 597, 725, 896
] as const;
export const BAND_EDGE_BINS: readonly number[] = BAND_EDGES;
export const BANDS = BAND_EDGES.length - 1;
/** Bands `[from, to)` of rumble, of speech with its noise, and of speech as others' microphones hear it. */
export const RUMBLE_BANDS = [0, 1] as const;
export const SPEECH_BANDS = [3, 18] as const;
export const VOICE_BANDS = [4, 17] as const;

/** The mean spectrum of a second: bins of 187.5 Hz, up to 24 kHz. */
export const SPECTRUM_BINS = 128;
export const SPECTRUM_BIN_HZ = READINGS_RATE / 2 / SPECTRUM_BINS;

/** Mains hum is looked for at the first harmonics of both mains; a window is two seconds long and stands in its last. */
export const MAINS_HZ = [50, 60] as const;
export const HARMONICS = 8;
export const HUM_LINES = MAINS_HZ.length * HARMONICS;

/** Where each part of a record begins, in bytes. */
const BANDS_AT = 0;
const LEVELS_AT = BANDS_AT + FRAMES_A_SECOND * BANDS;
const PEAKS_AT = LEVELS_AT + BLOCKS_A_SECOND;
const TOPS_AT = PEAKS_AT + BLOCKS_A_SECOND;
const SPECTRUM_AT = TOPS_AT + BLOCKS_A_SECOND;
const HUM_AT = SPECTRUM_AT + SPECTRUM_BINS;
const NEXT_TO_HUM_AT = HUM_AT + HUM_LINES;
const ENERGIES_AT = NEXT_TO_HUM_AT + HUM_LINES;
const TRUE_PEAK_AT = ENERGIES_AT + 4 * ENERGIES_A_SECOND;
/** Bytes of one second of one channel: 12.3 MB a channel-hour. */
export const RECORD_BYTES = TRUE_PEAK_AT + 4;

/** One second of one channel. */
export interface Reading {
	/** Power of each frame's bands (see `fromPower`), frame after frame. */
	readonly bands: Uint8Array;
	/** Power of each block. */
	readonly levels: Uint8Array;
	/** Greatest sample of each block (see `fromPeak`). */
	readonly peaks: Uint8Array;
	/** How many samples about it stay within 3% of it. */
	readonly tops: Uint8Array;
	/** Mean power of each bin. */
	readonly spectrum: Uint8Array;
	/** Power of each harmonic of each mains, and of as wide a stretch beside it; zeros where no window ends. */
	readonly hum: Uint8Array;
	readonly nextToHum: Uint8Array;
	/** Mean square of each 100 ms under the weighting of BS.1770. */
	readonly energies: Float32Array;
	/** Greatest magnitude at four times the rate: one number. */
	readonly truePeak: Float32Array;
}

/** The parts of a record, as views of its bytes. @param at a multiple of four */
export function readingAt(bytes: Uint8Array<ArrayBuffer>, at: number): Reading {
	const part = (from: number, length: number) => bytes.subarray(at + from, at + from + length);
	const floats = (from: number, length: number) => new Float32Array(bytes.buffer, bytes.byteOffset + at + from, length);
	return {
		bands: part(BANDS_AT, FRAMES_A_SECOND * BANDS),
		levels: part(LEVELS_AT, BLOCKS_A_SECOND),
		peaks: part(PEAKS_AT, BLOCKS_A_SECOND),
		tops: part(TOPS_AT, BLOCKS_A_SECOND),
		spectrum: part(SPECTRUM_AT, SPECTRUM_BINS),
		hum: part(HUM_AT, HUM_LINES),
		nextToHum: part(NEXT_TO_HUM_AT, HUM_LINES),
		energies: floats(ENERGIES_AT, ENERGIES_A_SECOND),
		truePeak: floats(TRUE_PEAK_AT, 1)
	};
}

/** Steps of half a decibel from -120 dB of full scale up; 0 is digital silence. */
const STEPS_A_DECIBEL = 2;
const LOWEST_DB = -120;

/** A mean square as a byte. */
export function fromPower(power: number): number {
	if (power <= 0) return 0;
	const step = Math.round(STEPS_A_DECIBEL * (10 * Math.log10(power) - LOWEST_DB));
	return step < 1 ? 1 : step > 255 ? 255 : step;
}

/** Decibels of a byte of power; digital silence counts as half a decibel under the lowest. */
export function decibelsOf(byte: number): number {
	return byte === 0 ? LOWEST_DB - 1 / STEPS_A_DECIBEL : LOWEST_DB + byte / STEPS_A_DECIBEL;
}

/** The mean square of each byte of power. */
export const POWER_OF_BYTE: Float32Array = Float32Array.from({ length: 256 }, (_, byte) =>
	byte === 0 ? 0 : 10 ** (decibelsOf(byte) / 10)
);

/** Steps of a fifth of a decibel, -42 to +9 dB: clipping is looked for near the greatest, which floats may have over full scale. */
const PEAK_STEPS_A_DECIBEL = 5;
const LOWEST_PEAK_DB = -42;

/** A magnitude as a byte. */
export function fromPeak(magnitude: number): number {
	const step = Math.round(PEAK_STEPS_A_DECIBEL * (20 * Math.log10(magnitude) - LOWEST_PEAK_DB));
	return step < 0 || magnitude <= 0 ? 0 : step > 255 ? 255 : step;
}

export function peakDecibelsOf(byte: number): number {
	return LOWEST_PEAK_DB + byte / PEAK_STEPS_A_DECIBEL;
}
