import { seededRandom } from '../../../demo/random';
import type { Codec } from './encode';
import { recordedSounds, speaking } from './recorded-sounds';
import type { Scene, SimulatedClip, SimulatedDevice, SimulatedShoot, Spot } from './simulator';
import { type Random, SCENE_RATE, speechLike } from './sounds';

/** A kind of shoot; each seed gives another one of its kind. */
export interface SimulatedCase {
	readonly name: string;
	readonly about: string;
	/** Needs recorded sound from Debian's packages. */
	readonly isRecorded?: boolean;
	/** Takes minutes to make: left out of quick runs. */
	readonly isLong?: boolean;
	/** Asks for what can only be met in part: shown, but not counted with the others. */
	readonly isAtTheLimit?: boolean;
	/** Its answer lies in what the files say, not in their sound. */
	readonly needsFiles?: boolean;
	readonly build: (seed: number) => SimulatedShoot | Promise<SimulatedShoot>;
}

export function between(random: Random, least: number, most: number): number {
	return least + (most - least) * random();
}

export function conversation(id: string, seconds: number, seed: number, voices = 3): Scene {
	return {
		id,
		seconds,
		voices: Array.from({ length: voices }, (_, voice) => ({
			spot: { x: 1.1 * voice, y: 0 },
			samples: speechLike(seconds, seed * 10 + voice, 1.2 / voices)
		}))
	};
}

/** Close to the middle voice: a lav or a table microphone. */
export const CLOSE: Spot = { x: 1.1, y: 0.4 };

export function device(
	folder: string,
	spot: Spot,
	codec: Codec,
	random: Random,
	clips: readonly SimulatedClip[],
	more: Partial<SimulatedDevice> = {}
): SimulatedDevice {
	return { folder, spot, codec, ratePpm: between(random, -60, 60), noiseDb: -25, clips, ...more };
}

/** A clip that covers a scene but for a little at both ends. */
export function whole(scene: Scene, random: Random) {
	const startSeconds = between(random, 0.5, 8);
	return { scene: scene.id, startSeconds, seconds: scene.seconds - startSeconds - between(random, 0.5, 6) };
}

/** A conversation of real voices. @param day nothing that is said on one day is said on another */
export async function recordedConversation(id: string, seconds: number, seed: number, day = 0): Promise<Scene> {
	const { voices } = await recordedSounds();
	const from = (seededRandom(seed)() * 0.4 + 0.5 * day) % 1;
	return {
		id,
		seconds,
		voices: voices.map((voice, index) => ({
			spot: { x: 1.1 * index, y: 0 },
			samples: speaking(voice, seconds, seed * 10 + index, 0.4, from)
		}))
	};
}

/** Sound that stands at one place. */
export function sounding(id: string, samples: Float32Array): Scene {
	return { id, seconds: samples.length / SCENE_RATE, voices: [{ spot: { x: 1, y: 0 }, samples }] };
}

export function babble(scene: Scene, random: Random, babbleDb: number): SimulatedShoot {
	return {
		scenes: [scene],
		devices: [
			device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
			device('cam', { x: 1, y: 5 }, 'mp4', random, [whole(scene, random)], { babbleDb }),
			device('memo', { x: 3, y: 4 }, 'opus', random, [whole(scene, random)], { babbleDb })
		]
	};
}

/** The loudest tenth of a second among the next twenty seconds of a recording: all may be silent for six and more. */
export function spokenMoment({ voices }: Scene, startSeconds: number, fromSeconds: number): number {
	const power = (at: number) => {
		const [from, to] = [at, at + 0.1].map((seconds) => Math.floor((startSeconds + seconds) * SCENE_RATE));
		return voices.reduce((sum, { samples }) => sum + samples.subarray(from, to).reduce((own, x) => own + x * x, 0), 0);
	};
	const places = Array.from({ length: 200 }, (_, index) => fromSeconds + index / 10);
	return places.reduce((best, at) => (power(at) > power(best) ? at : best)) + 0.05;
}
