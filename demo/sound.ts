import { createPlainFft } from '../src/lib/core/signal/fft';
import { seededRandom } from './random';
import {
	APPLAUSE,
	CLAPPER,
	CLAP_TIMES,
	type DevicePlan,
	EVENING_SECONDS,
	LAUGHTER_AFTER_LINE,
	MOUTH_HEIGHT,
	MUSICIAN,
	MUSIC,
	PEOPLE,
	type Place,
	SAMPLE_RATE
} from './scene';
import type { SpokenLine } from './voices';

/** A dry sound and where it comes from. */
export interface SoundSource {
	readonly place: Place;
	readonly samples: Float32Array;
}

const SPEED_OF_SOUND = 343; // metres a second at 20 °C, handbook value
const LENGTH = EVENING_SECONDS * SAMPLE_RATE;

export function distance(a: Place, b: Place): number {
	return Math.hypot(a.x - b.x, a.y - b.y, a.z - b.z);
}

/** Everything that sounds during the evening, before the room and the microphones. */
export function eveningSources(lines: readonly SpokenLine[]): readonly SoundSource[] {
	const voices = PEOPLE.map((person) => {
		const samples = new Float32Array(LENGTH);
		for (const line of lines) if (line.who === person.key) addAt(samples, line.samples, line.beginsSeconds, 1);
		return { place: { x: person.seat.x, y: MOUTH_HEIGHT, z: person.seat.z }, samples };
	});
	const claps = new Float32Array(LENGTH);
	const random = seededRandom(11);
	for (const time of CLAP_TIMES) addAt(claps, clap(random), time, 0.9);
	const music = new Float32Array(LENGTH);
	addAt(music, waltz(MUSIC.ends - MUSIC.begins), MUSIC.begins, 0.3);
	return [...voices, { place: CLAPPER, samples: claps }, { place: MUSICIAN, samples: music }, ...audience(lines)];
}

/** The rehearsal of the day before: the voices only. */
export function rehearsalSources(lines: readonly SpokenLine[], seconds: number): readonly SoundSource[] {
	return PEOPLE.map((person) => {
		const samples = new Float32Array(seconds * SAMPLE_RATE);
		for (const line of lines) if (line.who === person.key) addAt(samples, line.samples, line.beginsSeconds, 1);
		return { place: { x: person.seat.x, y: MOUTH_HEIGHT, z: person.seat.z }, samples };
	});
}

function addAt(target: Float32Array, samples: Float32Array, atSeconds: number, gain: number): void {
	const at = Math.round(atSeconds * SAMPLE_RATE);
	const end = Math.min(samples.length, target.length - at);
	for (let i = Math.max(0, -at); i < end; i++) target[at + i] = target[at + i]! + gain * samples[i]!;
}

function clap(random: () => number): Float32Array {
	const samples = new Float32Array(0.09 * SAMPLE_RATE);
	for (let i = 0; i < samples.length; i++) {
		const t = i / SAMPLE_RATE;
		const attack = Math.min(1, t / 0.0006);
		samples[i] =
			attack * Math.exp(-t / 0.007) * (random() * 2 - 1) +
			0.4 * attack * Math.exp(-t / 0.012) * Math.sin(2 * Math.PI * 1150 * t);
	}
	return samples;
}

/** A small waltz on plucked strings over a bass. Plucking: Karplus and Strong 1983. */
function waltz(seconds: number): Float32Array {
	const samples = new Float32Array(seconds * SAMPLE_RATE);
	const random = seededRandom(23);
	const beat = 0.42;
	const chords = [
		[50, 65, 69],
		[43, 62, 70],
		[48, 64, 67],
		[41, 65, 69],
		[46, 62, 65],
		[43, 62, 67],
		[45, 61, 67],
		[50, 62, 69]
	];
	const melody = [74, 77, 81, 79, 77, 74, 76, 79, 76, 77, 72, 69, 70, 74, 77, 74, 70, 67, 69, 73, 76, 74, 69, 62];
	for (let bar = 0; bar * 3 * beat < seconds - 1.5; bar++) {
		const chord = chords[bar % chords.length]!;
		addAt(samples, pluck(chord[0]!, 1.6, random), bar * 3 * beat, 0.55);
		for (const tone of chord.slice(1)) {
			addAt(samples, pluck(tone, 0.7, random), (bar * 3 + 1) * beat, 0.25);
			addAt(samples, pluck(tone, 0.7, random), (bar * 3 + 2) * beat, 0.22);
		}
		for (let step = 0; step < 3; step++) {
			const tone = melody[(bar * 3 + step + (bar >= 8 ? 5 : 0)) % melody.length]!;
			addAt(samples, pluck(tone, 1.1, random), (bar * 3 + step) * beat + (random() - 0.5) * 0.02, 0.5);
		}
	}
	const fade = 2 * SAMPLE_RATE;
	for (let i = 0; i < fade; i++) samples[samples.length - 1 - i] = samples[samples.length - 1 - i]! * (i / fade);
	return samples;
}

function pluck(midi: number, seconds: number, random: () => number): Float32Array {
	const period = Math.round(SAMPLE_RATE / (440 * 2 ** ((midi - 69) / 12)));
	const ring = Float32Array.from({ length: period }, () => random() * 2 - 1);
	const samples = new Float32Array(seconds * SAMPLE_RATE);
	let previous = 0;
	for (let i = 0; i < samples.length; i++) {
		const value = ring[i % period]!;
		samples[i] = value * Math.min(1, (samples.length - i) / 2000);
		ring[i % period] = 0.4985 * (value + previous);
		previous = value;
	}
	return samples;
}

/** Murmur before and after, laughter, applause: from three places among the seats. */
function audience(lines: readonly SpokenLine[]): readonly SoundSource[] {
	const places: readonly Place[] = [
		{ x: -2.4, y: 1.1, z: -2.6 },
		{ x: 0.4, y: 1.1, z: -3.6 },
		{ x: 2.6, y: 1.1, z: -2.2 }
	];
	return places.map((place, seat) => {
		const random = seededRandom(100 + seat);
		const samples = new Float32Array(LENGTH);
		murmur(samples, lines, random);
		for (const index of LAUGHTER_AFTER_LINE) {
			const line = lines[index]!;
			const ends = line.beginsSeconds + line.samples.length / SAMPLE_RATE;
			for (let voice = 0; voice < 5; voice++)
				laugh(
					samples,
					ends - 0.1 + random() * 0.3,
					0.9 + random() * 0.8,
					0.03 + random() * 0.03,
					140 + random() * 160,
					random
				);
		}
		applaud(samples, random);
		return { place, samples };
	});
}

/** Scraps of speech turned backwards: a crowd one cannot understand. */
function murmur(target: Float32Array, lines: readonly SpokenLine[], random: () => number): void {
	for (let i = 0; i < 260; i++) {
		const line = lines[Math.floor(random() * lines.length)]!.samples;
		const length = Math.floor((0.5 + random()) * SAMPLE_RATE);
		const from = Math.floor(random() * Math.max(1, line.length - length));
		const piece = line.slice(from, from + length).reverse();
		for (let k = 0; k < piece.length; k++) piece[k] = piece[k]! * Math.sin((Math.PI * k) / piece.length);
		const crowd = i % 4;
		const at = crowd === 0 ? random() * 8 : crowd === 1 ? 228 + random() * 7 : 8 + random() * 220;
		addAt(target, piece, at, crowd <= 1 ? 0.16 : 0.012);
	}
}

function laugh(
	target: Float32Array,
	at: number,
	seconds: number,
	gain: number,
	pitchHz: number,
	random: () => number
): void {
	const samples = new Float32Array(seconds * SAMPLE_RATE);
	let phase = 0;
	let low = 0;
	for (let i = 0; i < samples.length; i++) {
		const t = i / SAMPLE_RATE;
		phase += (pitchHz * (1 - 0.25 * (t / seconds))) / SAMPLE_RATE;
		const burst = Math.max(0, Math.sin(2 * Math.PI * 4.6 * t)) ** 2;
		low += 0.25 * ((phase % 1) * 2 - 1 + (random() - 0.5) - low);
		samples[i] = gain * 4 * low * burst * Math.min(1, t / 0.08) * Math.max(0, 1 - t / seconds);
	}
	addAt(target, samples, at, 1);
}

function applaud(target: Float32Array, random: () => number): void {
	const seconds = APPLAUSE.ends - APPLAUSE.begins;
	for (let person = 0; person < 16; person++) {
		const interval = 0.2 + random() * 0.12;
		for (let t = random() * 0.6; t < seconds - random() * 2; t += interval * (0.92 + random() * 0.16)) {
			const swell = Math.min(1, t / 0.8) * Math.min(1, (seconds - t) / 3);
			addAt(target, clap(random), APPLAUSE.begins + t, (0.03 + 0.03 * random()) * swell);
		}
	}
}

/**
 * What one microphone picks up: each source late and weaker by its distance, two early reflections, a reverberant
 * tail, and the noise of the microphone itself.
 */
export function microphoneSignal(
	sources: readonly SoundSource[],
	microphone: DevicePlan['microphones'][number],
	seed: number
): Float32Array {
	const length = sources[0]!.samples.length;
	const dry = new Float32Array(length);
	const wet = new Float32Array(length);
	const floorMirror = { ...microphone, y: -microphone.y };
	const wallMirror = { ...microphone, x: 9 - microphone.x };
	// Each voice has reflections of its own; what is left shares one set.
	const voices = sources.slice(0, PEOPLE.length).map((source) => [source]);
	for (const [index, group] of [...voices, sources.slice(PEOPLE.length)].entries()) {
		const sent = new Float32Array(length);
		for (const source of group) addDelayed(sent, source.samples, Math.max(0.2, distance(source.place, microphone)), 1);
		const tail = reverberated(sent, seed * 7 + index);
		for (let i = 0; i < length; i++) wet[i] = wet[i]! + tail[i]!;
	}
	for (const source of sources) {
		const metres = Math.max(0.2, distance(source.place, microphone));
		addDelayed(dry, source.samples, metres, 1 / metres);
		addDelayed(dry, source.samples, distance(source.place, floorMirror), 0.4 / distance(source.place, floorMirror));
		addDelayed(dry, source.samples, distance(source.place, wallMirror), 0.35 / distance(source.place, wallMirror));
	}
	const random = seededRandom(seed * 31 + 5);
	const noise = 10 ** (microphone.noiseDb / 20);
	const gain = 10 ** (microphone.gainDb / 20);
	let pink = 0;
	for (let i = 0; i < length; i++) {
		const white = random() + random() + random() - 1.5;
		pink = 0.96 * pink + 0.04 * white;
		const value = gain * (0.8 * dry[i]! + 0.012 * wet[i]!) + noise * (white * 0.5 + pink * 3);
		dry[i] = Math.tanh(value * 1.4) / 1.4;
	}
	return dry;
}

function addDelayed(target: Float32Array, samples: Float32Array, metres: number, gain: number): void {
	const delay = (metres / SPEED_OF_SOUND) * SAMPLE_RATE;
	const whole = Math.floor(delay);
	const part = delay - whole;
	for (let i = whole + 1; i < target.length; i++) {
		target[i] = target[i]! + gain * ((1 - part) * samples[i - whole]! + part * samples[i - whole - 1]!);
	}
}

/** Convolution with a tail of decaying noise (0.5 s to -60 dB), dull at the end as wood is; overlap and add. */
function reverberated(samples: Float32Array, seed: number): Float32Array {
	const random = seededRandom(seed);
	const tail = new Float32Array(Math.floor(0.7 * SAMPLE_RATE));
	let low = 0;
	for (let i = 0; i < tail.length; i++) {
		const t = i / SAMPLE_RATE;
		const brightness = 0.7 * Math.exp(-t / 0.15) + 0.08;
		low += brightness * (random() * 2 - 1 - low);
		tail[i] = i < 0.006 * SAMPLE_RATE ? 0 : low * Math.exp((-6.9 * t) / 0.5);
	}
	const size = 131072;
	const fft = createPlainFft(size);
	const spectrum = new Float32Array(size);
	spectrum.set(tail);
	fft.forward(spectrum, spectrum);
	const step = size - tail.length;
	const out = new Float32Array(samples.length);
	const block = new Float32Array(size);
	for (let at = 0; at < samples.length; at += step) {
		block.fill(0);
		block.set(samples.subarray(at, Math.min(samples.length, at + step)));
		fft.forward(block, block);
		multiplySpectra(block, spectrum);
		fft.inverse(block, block);
		const end = Math.min(size, samples.length - at);
		for (let i = 0; i < end; i++) out[at + i] = out[at + i]! + block[i]!;
	}
	return out;
}

function multiplySpectra(a: Float32Array, b: Float32Array): void {
	a[0] = a[0]! * b[0]!;
	a[1] = a[1]! * b[1]!;
	for (let i = 2; i < a.length; i += 2) {
		const re = a[i]! * b[i]! - a[i + 1]! * b[i + 1]!;
		a[i + 1] = a[i]! * b[i + 1]! + a[i + 1]! * b[i]!;
		a[i] = re;
	}
}

/**
 * A device's own recording: the evening's sound sampled by a clock that is off by `ratePpm`.
 * Windowed-sinc interpolation of 32 points.
 */
export function recordedBy(
	samples: Float32Array,
	startSeconds: number,
	mediaSeconds: number,
	ratePpm: number
): Float32Array {
	const count = Math.round(mediaSeconds * SAMPLE_RATE);
	const out = new Float32Array(count);
	const step = 1 + ratePpm * 1e-6;
	for (let i = 0; i < count; i++) {
		const position = startSeconds * SAMPLE_RATE + i * step;
		const whole = Math.floor(position);
		const part = position - whole;
		let sum = 0;
		for (let k = -15; k <= 16; k++) {
			const index = whole + k;
			if (index < 0 || index >= samples.length) continue;
			const x = k - part;
			const sinc = Math.abs(x) < 1e-9 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
			sum += samples[index]! * sinc * (0.5 + 0.5 * Math.cos((Math.PI * x) / 17));
		}
		out[i] = sum;
	}
	return out;
}
