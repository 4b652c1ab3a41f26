import { join } from 'node:path';
import { seededRandom } from '../../../demo/random';
import type { FftProvider } from '../../../src/lib/core/signal/fft';
import { type Codec, encode, endingOf } from './encode';
import { addConvolved, directMetres, type Room, roomResponse, type Spot } from './room';
import { type Random, rootMeanSquare, SCENE_RATE, speechLike } from './sounds';

export type { Spot };

/** What sounds, and where, during one stretch of time. */
export interface Scene {
	readonly id: string;
	readonly seconds: number;
	readonly voices: readonly { readonly spot: Spot; readonly samples: Float32Array }[];
	/** Where it takes place; without one, a wall behind and a little reverberation. */
	readonly room?: Room;
}

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
	/** Wired the other way round. */
	readonly isInverted?: boolean;
	/** Its rate swings so much about its mean, once in two hours, in millionths. */
	readonly bendPpm?: number;
	/** Gusts against the microphone, against the scene's sound, in dB. */
	readonly windDb?: number;
	/** Mains hum with its overtones, likewise. */
	readonly humDb?: number;
	/** Plugged into the desk: no room, no way through the air. */
	readonly isPluggedIn?: boolean;
	/** A second channel in front of it with another conversation, so much louder, in dB. */
	readonly besideDb?: number;
	/** Each clip is another performance: what is beside the scene's sound is new each time; the room stays, as the device does. */
	readonly isLive?: boolean;
	/** Timecode: clock time of the scene's zero, in seconds; written as the codec's container does it. */
	readonly clockSeconds?: number;
	readonly clips: readonly SimulatedClip[];
}

export interface SimulatedClip {
	readonly scene: string;
	readonly startSeconds: number;
	readonly seconds: number;
	/** Samples that were lost while it ran: at which time of the clip, how much. */
	readonly lost?: { readonly atSeconds: number; readonly seconds: number };
	/** The recorder begins a new file so many times. */
	readonly files?: number;
	/** Nothing is heard: the cable was out. */
	readonly isSilent?: boolean;
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
	/** How much later than at its mouth each voice is heard, less that mean. */
	readonly lateSeconds: readonly number[];
	readonly seconds: number;
	readonly ratePpm: number;
	/** Media time at which samples are missing, and how much. */
	readonly lost?: { readonly atSeconds: number; readonly seconds: number };
	/** Cannot be placed by its sound, and should not be. */
	readonly isSilent?: boolean;
}

const SPEED_OF_SOUND = 343; // metres a second at 20 °C, handbook value
const REVERBERATION_SECONDS = 0.35;

/** What a device wrote of one stretch of time, before it is encoded. */
export interface RecordedFile {
	readonly device: SimulatedDevice;
	readonly truth: TrueFile;
	/** At `SCENE_RATE`. */
	readonly channels: readonly Float32Array[];
	/** Start in the scene's time, by the device's clock. */
	readonly sceneSeconds: number;
}

/** Records a shoot file after file, in memory. */
export function* recordShoot(shoot: SimulatedShoot, seed: number, provider: FftProvider): Generator<RecordedFile> {
	for (const [index, device] of shoot.devices.entries()) {
		const heard = new Map<string, Float32Array>();
		let counter = 0;
		for (const [number, clip] of device.clips.entries()) {
			const scene = shoot.scenes.find((one) => one.id === clip.scene)!;
			const own = seed * 100 + index + (device.isLive ? 7000 * (number + 1) : 0);
			const signal = (device.isLive ? undefined : heard.get(scene.id)) ?? hear(scene, device, own, provider);
			heard.set(scene.id, signal);
			const recorded = record(signal, clip, device);
			const ways = scene.voices.map(({ spot }) =>
				device.isPluggedIn ? 0 : wayMetres(scene, spot, device.spot) / SPEED_OF_SOUND
			);
			const meanWay = ways.reduce((sum, one) => sum + one, 0) / ways.length;
			for (const file of filesOf(recorded, clip, device)) {
				const name = `${device.folder.toUpperCase()}_${`${++counter}`.padStart(4, '0')}`;
				const sceneSeconds = clip.startSeconds + file.sceneOffset;
				yield {
					device,
					channels: [...besides(file.samples, device, own), file.samples],
					sceneSeconds,
					truth: {
						path: `${device.folder}/${name}.${endingOf(device.codec)}`,
						device: device.folder,
						scene: scene.id,
						heardStartSeconds: sceneSeconds - meanWay,
						lateSeconds: ways.map((way) => way - meanWay),
						seconds: file.samples.length / SCENE_RATE,
						ratePpm: device.ratePpm,
						...(clip.lost ? { lost: clip.lost } : {}),
						...(clip.isSilent ? { isSilent: true } : {})
					}
				};
			}
		}
	}
}

/** Makes a shoot's files through real encoders. @returns the truth of each file */
export async function writeShoot(
	shoot: SimulatedShoot,
	folder: string,
	seed: number,
	provider: FftProvider
): Promise<readonly TrueFile[]> {
	const truths: TrueFile[] = [];
	for (const { device, truth, channels, sceneSeconds } of recordShoot(shoot, seed, provider)) {
		await encode(channels, join(folder, truth.path), device.codec, timecodeOptions(device, sceneSeconds));
		truths.push(truth);
	}
	return truths;
}

/** One recording as one file or several, each with its way from the recording's start in the scene's time. */
function filesOf(samples: Float32Array, clip: SimulatedClip, device: SimulatedDevice) {
	const count = clip.files ?? 1;
	// Whole milliseconds, as a size limit would not fall on: files end anywhere.
	const length = Math.ceil(samples.length / count / 16) * 16;
	return Array.from({ length: count }, (_, index) => ({
		samples: samples.subarray(index * length, Math.min(samples.length, (index + 1) * length)),
		sceneOffset: ((index * length) / SCENE_RATE) * (1 + device.ratePpm * 1e-6)
	}));
}

function besides(samples: Float32Array, device: SimulatedDevice, seed: number): readonly Float32Array[] {
	if (device.besideDb === undefined) return [];
	const other = speechLike(samples.length / SCENE_RATE + 1, seed * 3 + 11).subarray(0, samples.length);
	const scale = (rootMeanSquare(samples) / rootMeanSquare(other)) * 10 ** (device.besideDb / 20);
	return [other.map((x) => scale * x)];
}

/** Samples since midnight in a broadcast wave, a label in frames in an MP4 or MOV. */
function timecodeOptions(device: SimulatedDevice, sceneSeconds: number): readonly string[] {
	if (device.clockSeconds === undefined) return [];
	const seconds = (device.clockSeconds + sceneSeconds + 2 * 86_400) % 86_400;
	if (endingOf(device.codec) === 'wav')
		return ['-write_bext', '1', '-metadata', `time_reference=${Math.round(seconds * 48_000)}`];
	const frame = Math.floor(seconds * 25);
	const two = (value: number) => `${value}`.padStart(2, '0');
	const label = [frame / 90_000, (frame / 1500) % 60, (frame / 25) % 60, frame % 25].map((one) => two(Math.floor(one)));
	return ['-timecode', label.join(':')];
}

function wayMetres({ room }: Scene, from: Spot, to: Spot): number {
	return room ? directMetres(from, to) : metres(from, to);
}

function metres(a: Spot, b: Spot): number {
	return Math.max(0.15, Math.hypot(a.x - b.x, a.y - b.y));
}

/** What a device's microphone hears of a scene: direct sound, one reflection, the room, its own noise. */
function hear(scene: Scene, device: SimulatedDevice, seed: number, provider: FftProvider): Float32Array {
	const length = Math.floor(scene.seconds * SCENE_RATE);
	const random = seededRandom(seed + 17);
	const dry = device.isPluggedIn
		? mixed(scene, length)
		: scene.room
			? throughRoom(scene, scene.room, device, provider)
			: inTheRoom(scene, device, seed, provider);
	const level = rootMeanSquare(dry);
	const gain = (decibels: number) => level * 10 ** (decibels / 20);
	if (device.babbleDb !== undefined) addBabble(dry, gain(device.babbleDb), scene.seconds, seed);
	if (device.windDb !== undefined) addWind(dry, gain(device.windDb), random);
	if (device.humDb !== undefined) addHum(dry, gain(device.humDb));
	const noise = gain(device.noiseDb) * 2.45;
	for (let i = 0; i < length; i++) dry[i] = dry[i]! + noise * (random() + random() - 1);
	if (device.ridesGain) rideGain(dry, random);
	const peak = device.clippedDb === undefined ? undefined : 4 * level * 10 ** (-device.clippedDb / 20);
	const scale = 0.12 / Math.max(1e-9, level);
	for (let i = 0; i < length; i++)
		dry[i] = scale * (peak === undefined ? dry[i]! : Math.max(-peak, Math.min(peak, dry[i]!)));
	return dry;
}

function mixed(scene: Scene, length: number): Float32Array {
	const sum = new Float32Array(length);
	for (const { samples } of scene.voices)
		for (let i = 0; i < samples.length && i < length; i++) sum[i] = sum[i]! + samples[i]!;
	return sum;
}

/** What is heard where a device stands: as long as it does not move, its room is the same. */
function throughRoom(scene: Scene, room: Room, device: SimulatedDevice, provider: FftProvider): Float32Array {
	const heard = new Float32Array(Math.floor(scene.seconds * SCENE_RATE));
	const place = Math.round(1000 * device.spot.x) * 31 + Math.round(1000 * device.spot.y);
	for (const [voice, { spot, samples }] of scene.voices.entries())
		addConvolved(heard, samples, roomResponse(room, spot, device.spot, place * 7 + voice), provider);
	return heard;
}

/** Direct sound, one reflection, the room. */
function inTheRoom(scene: Scene, device: SimulatedDevice, seed: number, provider: FftProvider): Float32Array {
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
	for (let i = 0; i < length; i++) dry[i] = dry[i]! + 0.02 * room[i]!;
	return dry;
}

/** Low rumble in gusts of seconds: noise through a falling filter. */
function addWind(target: Float32Array, level: number, random: Random): void {
	const wind = new Float32Array(target.length);
	let [slow, gust, aim] = [0, 0, 0];
	for (let i = 0; i < wind.length; i++) {
		if (i % SCENE_RATE === 0) aim = random() ** 2;
		gust += (aim - gust) / (0.3 * SCENE_RATE);
		slow += (random() - 0.5 - slow) * 0.06;
		wind[i] = gust * slow;
	}
	const scale = level / Math.max(1e-9, rootMeanSquare(wind));
	for (let i = 0; i < wind.length; i++) target[i] = target[i]! + scale * wind[i]!;
}

function addHum(target: Float32Array, level: number): void {
	for (let i = 0; i < target.length; i++) {
		const phase = (2 * Math.PI * 50 * i) / SCENE_RATE;
		let sum = 0;
		for (const [overtone, share] of [
			[1, 0.5],
			[2, 1],
			[3, 0.6],
			[4, 0.4],
			[6, 0.3],
			[10, 0.2]
		] as const)
			sum += share * Math.sin(overtone * phase);
		target[i] = target[i]! + level * sum;
	}
}

function addDelayed(target: Float32Array, samples: Float32Array, way: number, gain: number): void {
	const delay = (way / SPEED_OF_SOUND) * SCENE_RATE;
	const whole = Math.floor(delay);
	const part = delay - whole;
	const end = Math.min(target.length, samples.length + whole);
	for (let i = whole + 1; i < end; i++)
		target[i] = target[i]! + gain * ((1 - part) * samples[i - whole]! + part * samples[i - whole - 1]!);
}

/** Sound through a room of seeded, decaying noise. */
function reverberated(samples: Float32Array, seed: number, provider: FftProvider): Float32Array {
	const random = seededRandom(seed + 3);
	const tail = Math.floor(REVERBERATION_SECONDS * SCENE_RATE);
	const response = Float32Array.from({ length: tail }, (_, i) => (random() * 2 - 1) * Math.exp((-6.9 * i) / tail));
	const out = new Float32Array(samples.length);
	addConvolved(out, samples, response, provider);
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

/** Two hours: a clock that bends with the warmth of the day does it slowly. */
const BEND_SECONDS = 7200;

/** A stretch of a signal as a clock that is off writes it down. */
function record(signal: Float32Array, clip: SimulatedClip, device: SimulatedDevice): Float32Array {
	const lostSeconds = clip.lost?.seconds ?? 0;
	const out = new Float32Array(Math.floor((clip.seconds - lostSeconds) * SCENE_RATE));
	if (clip.isSilent) return out;
	const step = 1 + device.ratePpm * 1e-6;
	const turn = (2 * Math.PI) / BEND_SECONDS;
	const swing = ((device.bendPpm ?? 0) * 1e-6) / turn;
	for (let i = 0; i < out.length; i++) {
		const isBehind = clip.lost !== undefined && i >= clip.lost.atSeconds * SCENE_RATE;
		const t0 = i + (isBehind ? lostSeconds * SCENE_RATE : 0);
		const bent = swing * (1 - Math.cos((turn * t0) / SCENE_RATE)) * SCENE_RATE;
		const position = clip.startSeconds * SCENE_RATE + t0 * step + bent;
		const whole = Math.floor(position);
		const t = position - whole;
		const p0 = signal[whole - 1] ?? 0;
		const p1 = signal[whole] ?? 0;
		const p2 = signal[whole + 1] ?? 0;
		const p3 = signal[whole + 2] ?? 0;
		// Four-point cubic (Catmull and Rom 1974): its error lies above what is compared.
		out[i] = p1 + 0.5 * t * (p2 - p0 + t * (2 * p0 - 5 * p1 + 4 * p2 - p3 + t * (3 * (p1 - p2) + p3 - p0)));
		if (device.isInverted) out[i] = -out[i]!;
	}
	return out;
}
