import { seededRandom } from '../../../demo/random';
import { type FftProvider, fftSizeFor } from '../../../src/lib/core/signal/fft';
import { SCENE_RATE } from './sounds';

/** A place on the floor, in metres. */
export interface Spot {
	readonly x: number;
	readonly y: number;
	/** Height of a microphone over the floor; on a tripod where none is said. */
	readonly z?: number;
}

/** A box with a floor, four walls and a ceiling. */
export interface Room {
	/** In metres; spots count from its middle. */
	readonly width: number;
	readonly depth: number;
	readonly height: number;
	/** Share of the pressure that a wall sends back, 0 to 1. */
	readonly reflection: number;
	/** Time in which its sound falls by 60 dB. */
	readonly reverberationSeconds: number;
	/** Distance at which the direct sound is as strong as all that the room sends, in metres. */
	readonly criticalMetres: number;
}

const SPEED_OF_SOUND = 343; // metres a second at 20 °C, handbook value
/** Mouths of people who sit, and cameras on their tripods. */
const MOUTH_METRES = 1.2;
const MICROPHONE_METRES = 1.6;
const HIGHEST_ORDER = 3;
/** Taps of the sinc that a delay of parts of a sample is made with. */
const HALF_TAPS = 16;

/**
 * What a microphone hears of a sound in a room: the direct sound at its true delay, mirror images to the third order (Allen
 * and Berkley 1979, image method; from memory), and a tail of decaying noise that begins with the first of them.
 * @param seed of the tail: the same place hears the same
 * @returns at `SCENE_RATE`; direct sound at one metre is 1
 */
export function roomResponse(room: Room, from: Spot, to: Spot, seed: number): Float32Array {
	const response = new Float32Array(Math.ceil(room.reverberationSeconds * SCENE_RATE) + 2 * HALF_TAPS);
	const sizes = [room.width, room.depth, room.height];
	const source = [from.x + room.width / 2, from.y + room.depth / 2, MOUTH_METRES];
	const microphone = [to.x + room.width / 2, to.y + room.depth / 2, to.z ?? MICROPHONE_METRES];
	let first = Infinity;
	let early = 0;
	for (const [images, order] of imagesUpTo(HIGHEST_ORDER)) {
		const metres = Math.max(
			0.15,
			Math.hypot(...images.map((n, axis) => imageOf(n, source[axis]!, sizes[axis]!) - microphone[axis]!))
		);
		const gain = room.reflection ** order / metres;
		addDelayed(response, (metres / SPEED_OF_SOUND) * SCENE_RATE, gain);
		if (order === 0) continue;
		early += gain ** 2;
		first = Math.min(first, metres / SPEED_OF_SOUND);
	}
	addTail(response, room, first, Math.max(0.2 / room.criticalMetres ** 2, 1 / room.criticalMetres ** 2 - early), seed);
	return response;
}

/** From a mouth to a microphone. */
export function directMetres(from: Spot, to: Spot): number {
	return Math.max(0.15, Math.hypot(from.x - to.x, from.y - to.y, MOUTH_METRES - (to.z ?? MICROPHONE_METRES)));
}

/** Which mirror images there are: how often each pair of walls reflects, with their sum. */
function imagesUpTo(order: number): readonly (readonly [readonly number[], number])[] {
	const all: [number[], number][] = [];
	for (let x = -order; x <= order; x++)
		for (let y = -order; y <= order; y++)
			for (let z = -order; z <= order; z++) {
				const sum = Math.abs(x) + Math.abs(y) + Math.abs(z);
				if (sum <= order) all.push([[x, y, z], sum]);
			}
	return all;
}

/** Where the n-th image lies along one axis: mirrored at each wall in turn. */
function imageOf(n: number, at: number, size: number): number {
	return n % 2 === 0 ? n * size + at : n * size + (size - at);
}

/** A pulse between two samples: a sinc under a raised cosine. */
function addDelayed(target: Float32Array, delay: number, gain: number): void {
	const middle = Math.round(delay);
	for (let i = Math.max(0, middle - HALF_TAPS); i <= Math.min(target.length - 1, middle + HALF_TAPS); i++) {
		const x = i - delay;
		const sinc = x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
		target[i] = target[i]! + gain * sinc * (0.5 + 0.5 * Math.cos((Math.PI * x) / (HALF_TAPS + 1)));
	}
}

/** @param energy of all of it */
function addTail(target: Float32Array, room: Room, fromSeconds: number, energy: number, seed: number): void {
	const random = seededRandom(seed);
	const from = Math.round(fromSeconds * SCENE_RATE);
	const tail = new Float32Array(Math.max(0, target.length - from));
	let sum = 0;
	for (let i = 0; i < tail.length; i++) {
		// It grows dense within some milliseconds, and falls by 60 dB in its time.
		const rise = 1 - Math.exp(-i / (0.004 * SCENE_RATE));
		tail[i] =
			rise * (random() + random() + random() - 1.5) * Math.exp((-6.91 * i) / (room.reverberationSeconds * SCENE_RATE));
		sum += tail[i]! ** 2;
	}
	const gain = Math.sqrt(energy / Math.max(1e-12, sum));
	for (let i = 0; i < tail.length; i++) target[from + i] = target[from + i]! + gain * tail[i]!;
}

/** Adds a sound through a response, block by block, so that length does not matter. */
export function addConvolved(
	target: Float32Array,
	samples: Float32Array,
	response: Float32Array,
	provider: FftProvider
): void {
	const size = fftSizeFor(8 * response.length);
	const fft = provider(size);
	const spectrum = new Float32Array(size);
	spectrum.set(response);
	fft.forward(spectrum, spectrum);
	const block = new Float32Array(size);
	const step = size - response.length;
	for (let from = 0; from < samples.length; from += step) {
		block.fill(0);
		block.set(samples.subarray(from, Math.min(samples.length, from + step)));
		fft.forward(block, block);
		multiply(block, spectrum);
		fft.inverse(block, block);
		for (let i = 0; i < size && from + i < target.length; i++) target[from + i] = target[from + i]! + block[i]!;
	}
}

/** Packed spectra of real signals: the first two values are those of frequency zero and of the highest. */
function multiply(a: Float32Array, b: Float32Array): void {
	a[0] = a[0]! * b[0]!;
	a[1] = a[1]! * b[1]!;
	for (let i = 2; i < a.length; i += 2) {
		const [re, im] = [a[i]!, a[i + 1]!];
		a[i] = re * b[i]! - im * b[i + 1]!;
		a[i + 1] = re * b[i + 1]! + im * b[i]!;
	}
}
