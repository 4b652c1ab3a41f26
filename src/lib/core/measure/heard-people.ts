import {
	GAP_FALL_DB,
	GAP_SECONDS,
	LEAST_TAIL_DB,
	MIN_GAPS,
	MIN_PAUSE_SECONDS,
	MIN_SOLO_SECONDS,
	NOISE_SHARE,
	PAUSE_EDGE_SECONDS,
	QUIETEST_SHARE
} from '../limits/measure';
import { shareOfBytes, shareOfCounts } from '../signal/byte-shares';
import { decibelsOf, FRAMES_A_SECOND, POWER_OF_BYTE } from './readings';

const STEPS_A_DECIBEL = 2;

/** Who speaks in each frame: the number of the only one, `PAUSE` well away from all, or `OTHERWISE`. */
export type SpeechMap = Int8Array;
export const PAUSE = -1;
export const OTHERWISE = -2;

/** @param stretches of each person, in frames `[from, to)` */
export function speechMap(
	stretches: readonly (readonly { readonly from: number; readonly to: number }[])[],
	frames: number
): SpeechMap {
	const speakers = new Uint8Array(frames);
	const near = new Uint8Array(frames);
	const map = new Int8Array(frames).fill(PAUSE);
	const edge = PAUSE_EDGE_SECONDS * FRAMES_A_SECOND;
	for (const [person, own] of stretches.entries())
		for (const { from, to } of own) {
			near.fill(1, Math.max(0, from - edge), Math.min(frames, to + edge));
			for (let frame = Math.max(0, from); frame < Math.min(frames, to); frame++) {
				speakers[frame]!++;
				map[frame] = person;
			}
		}
	for (let frame = 0; frame < frames; frame++)
		if (speakers[frame]! > 1 || (speakers[frame] === 0 && near[frame] !== 0)) map[frame] = OTHERWISE;
	return map;
}

/**
 * Level of a channel where nobody speaks, in dB of full scale (211 to 4 008 Hz); where somebody always does, of its quietest
 * frames. @returns nothing where it does not run
 */
export function noiseDb(speech: Uint8Array, map: SpeechMap): number | undefined {
	const counts = new Uint32Array(256);
	let frames = 0;
	for (let frame = 0; frame < speech.length; frame++) {
		if (map[frame] !== PAUSE || speech[frame] === 0) continue;
		counts[speech[frame]!]!++;
		frames++;
	}
	if (frames >= MIN_PAUSE_SECONDS * FRAMES_A_SECOND) return decibelsOf(shareOfCounts(counts, NOISE_SHARE));
	const quietest = shareOfBytes(speech, QUIETEST_SHARE);
	return quietest === 0 ? undefined : decibelsOf(quietest);
}

/** Mean level of a channel where only one person speaks, in dB of full scale. @returns nothing where he hardly does */
export function speechDb(speech: Uint8Array, map: SpeechMap, person: number): number | undefined {
	let [sum, frames] = [0, 0];
	for (let frame = 0; frame < speech.length; frame++) {
		if (map[frame] !== person || speech[frame] === 0) continue;
		sum += POWER_OF_BYTE[speech[frame]!]!;
		frames++;
	}
	return frames < MIN_SOLO_SECONDS * FRAMES_A_SECOND ? undefined : 10 * Math.log10(sum / frames);
}

/**
 * How much of a person's speech a channel's room still has where his closest microphone has fallen: its level there, less
 * its noise, over its level before. @returns dB, the median of all gaps; nothing where there are too few
 */
export function roomTailDb(
	speech: Uint8Array,
	closest: Uint8Array,
	map: SpeechMap,
	person: number,
	channelNoiseDb: number | undefined
): number | undefined {
	const noise = channelNoiseDb === undefined ? 0 : 10 ** (channelNoiseDb / 10);
	const [least, most] = GAP_SECONDS.map((seconds) => Math.round(seconds * FRAMES_A_SECOND)) as [number, number];
	const tails: number[] = [];
	for (let frame = most; frame < speech.length; frame++) {
		if (closest[frame] === 0 || speech[frame] === 0) continue;
		let before = -1;
		for (let at = frame - most; at <= frame - least; at++)
			if (map[at] === person && (before < 0 || closest[at]! > closest[before]!)) before = at;
		if (before < 0 || isSomebodyElse(map[frame]!, person)) continue;
		if (closest[before]! - closest[frame]! < GAP_FALL_DB * STEPS_A_DECIBEL) continue;
		const left = POWER_OF_BYTE[speech[frame]!]! - noise;
		const was = POWER_OF_BYTE[speech[before]!]! - noise;
		if (was > 0) tails.push(left <= 0 ? LEAST_TAIL_DB : Math.max(LEAST_TAIL_DB, 10 * Math.log10(left / was)));
		// One figure a gap.
		frame += most;
	}
	if (tails.length < MIN_GAPS) return undefined;
	tails.sort((a, b) => a - b);
	return tails[tails.length >> 1];
}

function isSomebodyElse(speaker: number, person: number): boolean {
	return speaker >= 0 && speaker !== person;
}
