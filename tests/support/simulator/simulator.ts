import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { seededRandom } from '../../../demo/random';
import type { FftProvider } from '../../../src/lib/core/signal/fft';
import { fftSizeFor } from '../../../src/lib/core/signal/fft';
import { rootMeanSquare, SCENE_RATE, speechLike } from './sounds';

/** A place on the floor, in metres. */
export interface Spot {
	readonly x: number;
	readonly y: number;
}

/** What sounds, and where, during one stretch of time. */
export interface Scene {
	readonly id: string;
	readonly seconds: number;
	readonly voices: readonly { readonly spot: Spot; readonly samples: Float32Array }[];
}

export type Codec = 'wav' | 'wav-stereo' | 'wav44' | 'mp3' | 'm4a' | 'mp4' | 'opus' | 'memo';

export interface SimulatedDevice {
	readonly folder: string;
	readonly spot: Spot;
	/** How much longer its second is than the scene's, in millionths. */
	readonly ratePpm: number;
	readonly codec: Codec;
	/** Level of its own noise against the scene's sound there, in dB. */
	readonly noiseDb: number;
	/** Level of people who talk right beside it and are heard nowhere else, against the scene's sound, in dB. */
	readonly babbleDb?: number;
	/** Driven this much into clipping, in dB. */
	readonly clippedDb?: number;
	/** Its level wanders, as automatic gain does. */
	readonly ridesGain?: boolean;
	readonly clips: readonly { readonly scene: string; readonly startSeconds: number; readonly seconds: number }[];
}

export interface SimulatedShoot {
	readonly scenes: readonly Scene[];
	readonly devices: readonly SimulatedDevice[];
}

/** What is true of a file. */
export interface TrueFile {
	readonly path: string;
	readonly device: string;
	readonly scene: string;
	/** Where media time 0 lies in the scene, less the mean way of its voices through the air. */
	readonly heardStartSeconds: number;
	readonly seconds: number;
	readonly ratePpm: number;
}

const SPEED_OF_SOUND = 343; // metres a second at 20 °C, handbook value
const REVERBERATION_SECONDS = 0.35;

/** Makes a shoot's files through real encoders. @returns the truth of each file */
export async function writeShoot(
	shoot: SimulatedShoot,
	folder: string,
	seed: number,
	provider: FftProvider
): Promise<readonly TrueFile[]> {
	const truth: TrueFile[] = [];
	for (const [index, device] of shoot.devices.entries()) {
		const heard = new Map<string, Float32Array>();
		for (const [number, clip] of device.clips.entries()) {
			const scene = shoot.scenes.find((one) => one.id === clip.scene)!;
			const signal = heard.get(scene.id) ?? hear(scene, device, seed * 100 + index, provider);
			heard.set(scene.id, signal);
			const path = `${device.folder}/${device.folder.toUpperCase()}_${`${number + 1}`.padStart(4, '0')}.${ending(device.codec)}`;
			await encode(record(signal, clip.startSeconds, clip.seconds, device.ratePpm), join(folder, path), device.codec);
			const ways = scene.voices.map((voice) => metres(voice.spot, device.spot) / SPEED_OF_SOUND);
			const meanWay = ways.reduce((sum, one) => sum + one, 0) / ways.length;
			truth.push({
				path,
				device: device.folder,
				scene: scene.id,
				heardStartSeconds: clip.startSeconds - meanWay,
				seconds: clip.seconds,
				ratePpm: device.ratePpm
			});
		}
	}
	return truth;
}

function metres(a: Spot, b: Spot): number {
	return Math.max(0.15, Math.hypot(a.x - b.x, a.y - b.y));
}

/** What a device's microphone hears of a scene: direct sound, one reflection, the room, its own noise. */
function hear(scene: Scene, device: SimulatedDevice, seed: number, provider: FftProvider): Float32Array {
	const length = Math.floor(scene.seconds * SCENE_RATE);
	const dry = new Float32Array(length);
	const wet = new Float32Array(length);
	for (const { spot, samples } of scene.voices) {
		const way = metres(spot, device.spot);
		addDelayed(dry, samples, way, 1 / way);
		addDelayed(
			dry,
			samples,
			metres({ x: spot.x, y: -9 - spot.y }, device.spot),
			0.5 / metres({ x: spot.x, y: -9 - spot.y }, device.spot)
		);
		addDelayed(wet, samples, way, 1);
	}
	const room = reverberated(wet, seed, provider);
	const random = seededRandom(seed + 17);
	for (let i = 0; i < length; i++) dry[i] = dry[i]! + 0.02 * room[i]!;
	const level = rootMeanSquare(dry);
	if (device.babbleDb !== undefined) addBabble(dry, level * 10 ** (device.babbleDb / 20), scene.seconds, seed);
	const noise = level * 10 ** (device.noiseDb / 20) * 2.45;
	for (let i = 0; i < length; i++) dry[i] = dry[i]! + noise * (random() + random() - 1);
	if (device.ridesGain) rideGain(dry, random);
	const peak = device.clippedDb === undefined ? undefined : 4 * level * 10 ** (-device.clippedDb / 20);
	const scale = 0.12 / Math.max(1e-9, level);
	for (let i = 0; i < length; i++)
		dry[i] = scale * (peak === undefined ? dry[i]! : Math.max(-peak, Math.min(peak, dry[i]!)));
	return dry;
}

function addDelayed(target: Float32Array, samples: Float32Array, way: number, gain: number): void {
	const delay = (way / SPEED_OF_SOUND) * SCENE_RATE;
	const whole = Math.floor(delay);
	const part = delay - whole;
	const end = Math.min(target.length, samples.length + whole);
	for (let i = whole + 1; i < end; i++)
		target[i] = target[i]! + gain * ((1 - part) * samples[i - whole]! + part * samples[i - whole - 1]!);
}

/** Sound through a room of seeded, decaying noise; block by block, so that length does not matter. */
function reverberated(samples: Float32Array, seed: number, provider: FftProvider): Float32Array {
	const random = seededRandom(seed + 3);
	const tail = Math.floor(REVERBERATION_SECONDS * SCENE_RATE);
	const size = fftSizeFor(8 * tail);
	const fft = provider(size);
	const response = new Float32Array(size);
	for (let i = 0; i < tail; i++) response[i] = (random() * 2 - 1) * Math.exp((-6.9 * i) / tail);
	fft.forward(response, response);
	const out = new Float32Array(samples.length);
	const block = new Float32Array(size);
	const step = size - tail;
	for (let from = 0; from < samples.length; from += step) {
		block.fill(0);
		block.set(samples.subarray(from, Math.min(samples.length, from + step)));
		fft.forward(block, block);
		block[0] = block[0]! * response[0]!;
		block[1] = block[1]! * response[1]!;
		for (let i = 2; i < size; i += 2) {
			const [re, im] = [block[i]!, block[i + 1]!];
			block[i] = re * response[i]! - im * response[i + 1]!;
			block[i + 1] = re * response[i + 1]! + im * response[i]!;
		}
		fft.inverse(block, block);
		for (let i = 0; i < size && from + i < out.length; i++) out[from + i] = out[from + i]! + block[i]!;
	}
	return out;
}

function addBabble(target: Float32Array, level: number, seconds: number, seed: number): void {
	const sum = new Float32Array(target.length);
	for (let talker = 0; talker < 5; talker++) {
		const voice = speechLike(seconds, seed * 31 + talker + 500, 0.85);
		for (let i = 0; i < sum.length; i++) sum[i] = sum[i]! + voice[i]!;
	}
	const scale = level / Math.max(1e-9, rootMeanSquare(sum));
	for (let i = 0; i < sum.length; i++) target[i] = target[i]! + scale * sum[i]!;
}

function rideGain(samples: Float32Array, random: () => number): void {
	let [gain, aim] = [1, 1];
	for (let i = 0; i < samples.length; i++) {
		if (i % (2 * SCENE_RATE) === 0) aim = 10 ** ((random() * 18 - 9) / 20);
		gain += (aim - gain) / (0.4 * SCENE_RATE);
		samples[i] = samples[i]! * gain;
	}
}

/** A stretch of a signal as a clock that is off writes it down. */
function record(signal: Float32Array, startSeconds: number, seconds: number, ratePpm: number): Float32Array {
	const out = new Float32Array(Math.floor(seconds * SCENE_RATE));
	const step = 1 + ratePpm * 1e-6;
	for (let i = 0; i < out.length; i++) {
		const position = startSeconds * SCENE_RATE + i * step;
		const whole = Math.floor(position);
		const t = position - whole;
		const p0 = signal[whole - 1] ?? 0;
		const p1 = signal[whole] ?? 0;
		const p2 = signal[whole + 1] ?? 0;
		const p3 = signal[whole + 2] ?? 0;
		// Four-point cubic (Catmull and Rom 1974): its error lies above what is compared.
		out[i] = p1 + 0.5 * t * (p2 - p0 + t * (2 * p0 - 5 * p1 + 4 * p2 - p3 + t * (3 * (p1 - p2) + p3 - p0)));
	}
	return out;
}

function ending(codec: Codec): string {
	return {
		wav: 'wav',
		'wav-stereo': 'wav',
		wav44: 'wav',
		mp3: 'mp3',
		m4a: 'm4a',
		mp4: 'mp4',
		opus: 'opus',
		memo: 'm4a'
	}[codec];
}

async function encode(samples: Float32Array, path: string, codec: Codec): Promise<void> {
	await mkdir(dirname(path), { recursive: true });
	const sound = ['-f', 'f32le', '-ar', `${SCENE_RATE}`, '-ac', '1', '-i', 'pipe:0'];
	const picture = [
		'-f',
		'lavfi',
		'-i',
		'color=gray:size=64x36:rate=25',
		'-map',
		'0:a',
		'-map',
		'1:v',
		'-c:v',
		'libx264',
		'-preset',
		'ultrafast',
		'-shortest'
	];
	const options: Readonly<Record<Codec, readonly string[]>> = {
		wav: ['-ar', '48000', '-c:a', 'pcm_s24le'],
		'wav-stereo': ['-ac', '2', '-ar', '48000', '-c:a', 'pcm_s24le'],
		wav44: ['-ar', '44100', '-c:a', 'pcm_s16le'],
		mp3: ['-ar', '44100', '-c:a', 'libmp3lame', '-b:a', '96k'],
		m4a: ['-ar', '48000', '-c:a', 'aac', '-b:a', '96k'],
		mp4: [...picture, '-ar', '48000', '-c:a', 'aac', '-b:a', '96k'],
		opus: ['-ar', '48000', '-c:a', 'libopus', '-b:a', '48k'],
		memo: ['-ar', '8000', '-c:a', 'aac', '-b:a', '16k']
	};
	const child = spawn('ffmpeg', ['-v', 'error', '-y', ...sound, ...options[codec], path], {
		stdio: ['pipe', 'inherit', 'inherit']
	});
	const ended = once(child, 'close') as Promise<[number]>;
	child.stdin.end(Buffer.from(samples.buffer, samples.byteOffset, samples.byteLength));
	const [code] = await ended;
	if (code !== 0) throw new Error(`ffmpeg ended with ${code} for ${path}`);
}
