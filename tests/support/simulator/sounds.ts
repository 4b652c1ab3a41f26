import { seededRandom } from '../../../demo/random';

/** Scenes are made at this rate: what is compared lies below 4 kHz, and half the samples are made in half the time. */
export const SCENE_RATE = 16_000;

export type Random = () => number;

/**
 * Sound with syllables, as speech has them: noise through a wandering resonance, in bursts and pauses; a voice is told
 * by its seed. Phrases of some seconds with silence between them leave room for others.
 * @param busy share of the time in which this voice speaks
 */
export function speechLike(seconds: number, seed: number, busy = 1): Float32Array {
	const random = seededRandom(seed);
	const out = new Float32Array(Math.floor(seconds * SCENE_RATE));
	const timbre = 0.8 + 0.5 * random();
	let at = 0;
	while (at < out.length) {
		const phraseEnd = Math.min(out.length, at + (1 + 5 * random()) * SCENE_RATE);
		if (random() > busy) {
			at = Math.floor(phraseEnd);
			continue;
		}
		while (at < phraseEnd) at = addSyllable(out, at, timbre, random);
	}
	return out;
}

function addSyllable(out: Float32Array, at: number, timbre: number, random: Random): number {
	const length = Math.floor((0.06 + 0.25 * random()) * SCENE_RATE);
	const loud = random() < 0.2 ? 0 : 0.05 + 0.3 * random();
	const hertz = timbre * (250 + 3200 * random() ** 2);
	const resonance = 2 * Math.cos((2 * Math.PI * hertz) / SCENE_RATE) * 0.985;
	let [y1, y2] = [0, 0];
	for (let i = 0; i < length && at + i < out.length; i++) {
		const y = 0.15 * (random() - 0.5) + resonance * y1 - 0.97 * y2;
		y2 = y1;
		y1 = y;
		out[at + i] = out[at + i]! + loud * y * Math.sin((Math.PI * i) / length);
	}
	return at + length;
}

/** Plucked notes over chords, verse and chorus in turn; the chorus is the same each time, to the sample. */
export function songLike(seconds: number, seed: number): Float32Array {
	const verse = () => phrase(16, seededRandom((seed += 7919)));
	const chorus = phrase(16, seededRandom(seed + 1));
	const out = new Float32Array(Math.floor(seconds * SCENE_RATE));
	for (let at = 0, isChorus = false; at < out.length; isChorus = !isChorus) {
		const part = isChorus ? chorus : verse();
		out.set(part.subarray(0, Math.min(part.length, out.length - at)), at);
		at += part.length;
	}
	return out;
}

function phrase(seconds: number, random: Random): Float32Array {
	const out = new Float32Array(seconds * SCENE_RATE);
	const beat = SCENE_RATE / 2;
	for (let at = 0; at + beat <= out.length; at += beat) {
		const hertz = 220 * 2 ** ([0, 2, 4, 7, 9, 12][Math.floor(random() * 6)]! / 12);
		for (let i = 0; i < beat * 1.5 && at + i < out.length; i++) {
			const t = i / SCENE_RATE;
			const tone =
				Math.sin(2 * Math.PI * hertz * t) +
				0.5 * Math.sin(4 * Math.PI * hertz * t) +
				0.3 * Math.sin(6 * Math.PI * hertz * t);
			out[at + i] = out[at + i]! + 0.12 * Math.exp(-4 * t) * tone;
		}
	}
	return out;
}

export function rootMeanSquare(samples: Float32Array): number {
	let sum = 0;
	for (const sample of samples) sum += sample * sample;
	return Math.sqrt(sum / Math.max(1, samples.length));
}
