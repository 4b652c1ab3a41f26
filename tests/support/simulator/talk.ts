import { seededRandom } from '../../../demo/random';
import type { FftProvider } from '../../../src/lib/core/signal/fft';
import { addConvolved, type Room, roomResponse, type Spot } from './room';
import { recordedSounds } from './recorded-sounds';
import { type Random, rootMeanSquare, SCENE_RATE } from './sounds';

/** A stretch in which somebody speaks, in seconds. */
export interface Spoken {
	readonly from: number;
	readonly to: number;
}

/** People who talk in a room, of recorded voices. */
export interface Talk {
	readonly seconds: number;
	readonly room: Room;
	readonly people: readonly TalkingPerson[];
}

export interface TalkingPerson {
	readonly spot: Spot;
	/** At his mouth, at `SCENE_RATE`. */
	readonly voice: Float32Array;
	readonly spoken: readonly Spoken[];
}

/** How far people sit from each other decides how much their microphones hear of the others. */
export interface TalkShape {
	readonly people: number;
	readonly seconds: number;
	/** Between neighbours, in metres. */
	readonly apart: number;
	/** Of the room, in metres. */
	readonly criticalMetres: number;
}

const MOUTH_LEVEL = 0.05;
/** What is spoken: frames so far under the voice's loud ones are pauses; the same bridging as the trade's (common practice). */
const PAUSE_DB = -30;
const FRAME_SECONDS = 0.01;
const BRIDGED_SECONDS = 0.25;

/** A conversation: one speaks after another, at times two at once, at times somebody says a word into what another says. */
export async function makeTalk(seed: number, { people, seconds, apart, criticalMetres }: TalkShape): Promise<Talk> {
	const random = seededRandom(seed * 7919 + 13);
	const sources = (await recordedSounds()).voices;
	const length = Math.floor(seconds * SCENE_RATE);
	const voices = Array.from({ length: people }, () => new Float32Array(length));
	const takers = voices.map((_, person) => phraseTaker(sources[person % sources.length]!, person, random));
	let at = 0.5;
	let last = -1;
	while (at < seconds - 1) {
		let person = Math.floor(random() * people);
		if (person === last && people > 1) person = (person + 1) % people;
		last = person;
		const phrase = takers[person]!(1 + 7 * random());
		put(voices[person]!, phrase, at);
		const long = phrase.length / SCENE_RATE;
		if (people > 1 && long > 2.5 && random() < 0.25) {
			const other = (person + 1 + Math.floor(random() * (people - 1))) % people;
			put(voices[other]!, takers[other]!(0.4 + 0.4 * random()), at + long * (0.2 + 0.6 * random()));
		}
		at += long + (random() < 0.15 ? -0.6 * random() : 0.1 + 0.9 * random() ** 2);
	}
	return {
		seconds,
		room: {
			width: 8,
			depth: 10,
			height: 3,
			reflection: 0.7 + 0.15 * random(),
			reverberationSeconds: 0.35 + 0.35 * random(),
			criticalMetres
		},
		people: voices.map((voice, person) => ({
			spot: { x: (person - (people - 1) / 2) * apart, y: person % 2 === 0 ? -0.5 : 0.5 },
			voice,
			spoken: spokenIn(voice)
		}))
	};
}

/** What a microphone hears of a talk, without noise of its own. @param spot of it, for a person's own about 0.2 m from his mouth */
export function hearTalk(
	{ room, people, seconds }: Talk,
	spot: Spot,
	seed: number,
	provider: FftProvider
): Float32Array {
	const out = new Float32Array(Math.floor(seconds * SCENE_RATE));
	for (const [index, { spot: mouth, voice }] of people.entries())
		addConvolved(out, voice, roomResponse(room, mouth, spot, seed * 31 + index), provider);
	return out;
}

/** On the chest of a person. */
export function onChest({ spot }: TalkingPerson): Spot {
	return { x: spot.x, y: spot.y + 0.08, z: 1.0 };
}

/** Noise of a microphone and its room, pink-like. @param levelDb of full scale */
export function addNoise(samples: Float32Array, levelDb: number, seed: number): Float32Array {
	const random = seededRandom(seed);
	let slow = 0;
	const noise = samples.map(() => {
		const white = random() + random() + random() - 1.5;
		slow = 0.97 * slow + 0.15 * white;
		return slow + 0.3 * white;
	});
	const gain = 10 ** (levelDb / 20) / rootMeanSquare(noise);
	return samples.map((x, i) => x + gain * noise[i]!);
}

/** Takes one phrase after another from a recording; each voice at one level, and its own height where a recording is used twice. */
function phraseTaker(source: Float32Array, person: number, random: Random): (seconds: number) => Float32Array {
	const rate = 1 + 0.09 * Math.floor(person / 3);
	let next = Math.floor(random() * source.length * 0.7);
	return (seconds) => {
		const count = Math.floor(seconds * SCENE_RATE);
		// What is said begins at once: recordings have pauses between sentences.
		for (let tries = 0; tries < 200 && levelOf(source, next, 1600) < 0.01; tries++) {
			next += 1600;
			if (next + count * rate + 1600 > source.length) next = 0;
		}
		const phrase = Float32Array.from({ length: count }, (_, i) => source[Math.floor(next + i * rate)] ?? 0);
		next += Math.ceil(count * rate);
		const level = Math.max(1e-4, rootMeanSquare(phrase.filter((x) => Math.abs(x) > 0.003)));
		const fade = Math.min(160, count >> 2);
		return phrase.map((x, i) => (x * MOUTH_LEVEL * Math.min(1, i / fade, (count - i) / fade)) / level);
	};
}

function levelOf(samples: Float32Array, from: number, count: number): number {
	return rootMeanSquare(samples.subarray(from, Math.min(samples.length, from + count)));
}

function put(target: Float32Array, samples: Float32Array, atSeconds: number): void {
	const at = Math.floor(atSeconds * SCENE_RATE);
	for (let i = 0; i < samples.length && at + i < target.length; i++) target[at + i] = target[at + i]! + samples[i]!;
}

function spokenIn(voice: Float32Array): readonly Spoken[] {
	const hop = FRAME_SECONDS * SCENE_RATE;
	const levels = Array.from(
		{ length: Math.floor(voice.length / hop) },
		(_, frame) => 10 * Math.log10(1e-12 + levelOf(voice, frame * hop - hop, 3 * hop) ** 2)
	);
	const loud = [...levels].filter((level) => level > -90).sort((a, b) => a - b);
	const least = (loud[Math.floor(0.9 * loud.length)] ?? 0) + PAUSE_DB;
	const out: { from: number; to: number }[] = [];
	for (const [frame, level] of levels.entries()) {
		if (level < least) continue;
		const from = frame * FRAME_SECONDS;
		const last = out.at(-1);
		if (last && from - last.to <= BRIDGED_SECONDS) last.to = from + FRAME_SECONDS;
		else out.push({ from, to: from + FRAME_SECONDS });
	}
	return out.filter(({ from, to }) => to - from > 0.03);
}
