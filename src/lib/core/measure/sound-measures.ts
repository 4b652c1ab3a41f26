import { DEAD_LUFS, GUST_SHARE } from '../limits/measure';
import { shareOfBytes } from '../signal/byte-shares';
import type { ChannelReadings, Track } from './channel-readings';
import { clipping, type Clipping, type FrameRange } from './clipping';
import { dropOuts } from './drop-outs';
import { integratedLoudness } from './loudness';
import { decibelsOf } from './readings';
import { type SteadyHum, steadyHum } from './steady-hum';
import { upperEdgeHz } from './upper-edge';

/** What is measured of a channel over a stretch, whoever speaks in it. What could not be taken is left out. */
export interface SoundMeasures {
	/** Gated, of the channel alone. */
	readonly loudnessLufs?: number;
	readonly truePeakDbtp?: number;
	readonly clipping: Clipping;
	readonly dropOuts: readonly FrameRange[];
	readonly hum?: SteadyHum;
	/** 23 to 70 Hz in gusts, in dB of full scale, and where it is loudest. */
	readonly rumbleDb?: number;
	readonly loudestRumbleFrame?: number;
	/** Above it nothing is left of the sound. */
	readonly upperEdgeHz?: number;
	/** Nothing is heard in it. */
	readonly isDead: boolean;
}

/** @param range frames of the track that count; all of them where it is left out */
export function measureSound(
	track: Track,
	readings: ChannelReadings,
	range: FrameRange = { fromFrame: 0, toFrame: track.rumble.length }
): SoundMeasures {
	const loudness = integratedLoudness(readings.energies);
	const peak = readings.truePeaks.reduce((greatest, one) => Math.max(greatest, one), 0);
	const isDead = loudness === undefined || loudness < DEAD_LUFS;
	const hum = steadyHum(readings);
	const edge = isDead ? undefined : upperEdgeHz(readings);
	const rumble = track.rumble.subarray(range.fromFrame, range.toFrame);
	const gusts = shareOfBytes(rumble, GUST_SHARE);
	return {
		...(loudness === undefined ? {} : { loudnessLufs: loudness }),
		...(peak > 0 ? { truePeakDbtp: 20 * Math.log10(peak) } : {}),
		clipping: isDead ? { share: 0, passages: [] } : clipping(readings),
		dropOuts: isDead ? [] : dropOuts(readings),
		...(hum ? { hum } : {}),
		...(gusts > 0 ? { rumbleDb: decibelsOf(gusts), loudestRumbleFrame: range.fromFrame + greatestAt(rumble) } : {}),
		...(edge === undefined ? {} : { upperEdgeHz: edge }),
		isDead
	};
}

function greatestAt(bytes: Uint8Array): number {
	let at = 0;
	for (let i = 1; i < bytes.length; i++) if (bytes[i]! > bytes[at]!) at = i;
	return at;
}
