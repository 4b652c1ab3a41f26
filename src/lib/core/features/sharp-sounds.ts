import { ANALYSIS_SAMPLE_RATE, FULL_SCALE } from './band-features';

export interface SharpSound {
	/** Time of the attack from the first sample, in seconds. */
	readonly seconds: number;
	/** Rise over the half second before, in dB. */
	readonly riseDb: number;
}

const HOP = ANALYSIS_SAMPLE_RATE / 1000;
const BEFORE_HOPS = 400;
/** A sharp sound rises by this over what was before it; claps near a microphone rise by 25 dB and more. */
const MIN_RISE_DB = 18;
const APART_HOPS = 700;

/** What a stretch must be heard with, to find what is sharp in it: half a second before it, and a quarter behind. */
export const SHARP_MARGIN_SAMPLES = { before: 500 * HOP, after: 260 * HOP } as const;

/**
 * Claps, slams and the like: every place where the level jumps within a few milliseconds and falls again, many of them at one
 * sharp sound.
 * @param samples 16-bit mono at `ANALYSIS_SAMPLE_RATE`
 * @returns in order of time, from the first sample
 */
export function risesIn(samples: Int16Array): readonly SharpSound[] {
	const hops = Math.floor(samples.length / HOP);
	const power = new Float32Array(hops);
	for (let hop = 0; hop < hops; hop++) {
		let sum = 0;
		let last = hop > 0 ? samples[hop * HOP - 1]! : 0;
		for (let i = hop * HOP; i < (hop + 1) * HOP; i++) {
			// First difference: claps are bright, voices and rumble are not.
			sum += (samples[i]! - last) ** 2;
			last = samples[i]!;
		}
		power[hop] = sum / HOP / FULL_SCALE ** 2 + 1e-10;
	}
	const found: SharpSound[] = [];
	let before = 0;
	for (let hop = 0; hop < hops; hop++) {
		if (hop >= BEFORE_HOPS + 3) {
			const riseDb = 10 * Math.log10(power[hop]! / (before / BEFORE_HOPS));
			if (riseDb > MIN_RISE_DB && fallsAgain(power, hop))
				found.push({ seconds: (hop * HOP) / ANALYSIS_SAMPLE_RATE, riseDb });
			before -= power[hop - BEFORE_HOPS - 3]!;
		}
		if (hop >= 3) before += power[hop - 3]!;
	}
	return found;
}

/** A fifth of a second later a clap is over; a word is not. */
function fallsAgain(power: Float32Array, hop: number): boolean {
	let peak = 0;
	for (let k = hop; k < Math.min(power.length, hop + 8); k++) peak = Math.max(peak, power[k]!);
	let after = 0;
	const from = hop + 150;
	const to = Math.min(power.length, hop + 250);
	if (to <= from) return false;
	for (let k = from; k < to; k++) after += power[k]!;
	return peak > 30 * (after / (to - from));
}

/** Kept of one recording. */
const MOST = 24;

/** The strongest of some rises, one for each sharp sound, in order of time. */
export function strongestSharpSounds(found: readonly SharpSound[]): readonly SharpSound[] {
	const kept: SharpSound[] = [];
	for (const sound of [...found].sort((a, b) => b.riseDb - a.riseDb)) {
		if (kept.length >= MOST) break;
		if (kept.every((one) => Math.abs(one.seconds - sound.seconds) * 1000 > APART_HOPS)) kept.push(sound);
	}
	// The attack is the first loud hop of its neighbourhood, not the loudest one.
	return kept
		.map((sound) => found.find((one) => sound.seconds - one.seconds < 0.012 && one.seconds <= sound.seconds) ?? sound)
		.sort((a, b) => a.seconds - b.seconds);
}
