import { seededRandom } from '../../../demo/random';
import type { FftProvider } from '../../../src/lib/core/signal/fft';
import { addNoise, hearTalk, makeTalk, onChest, type Talk } from './talk';
import { directMetres, type Spot } from './room';
import { type Random, SCENE_RATE } from './sounds';

/** What a made-up channel is, so that a ranking can be checked. */
export type SourceKind = 'close' | 'boom' | 'table' | 'camera' | 'memo' | 'dead' | Fault;
export type Fault = 'clipped' | 'humming' | 'dropping out' | 'dull' | 'windy';

export interface MadeSource {
	readonly name: string;
	readonly device: string;
	readonly kind: SourceKind;
	/** Of a close microphone. */
	readonly person?: number;
	/** The channel of which it is a faulty copy. */
	readonly twinOf?: number;
	/** At `SCENE_RATE`. */
	readonly samples: Float32Array;
	/** What an ear would hear of all voices here without room and noise, in step with the samples. */
	readonly clean: Float32Array;
}

const SPEED_OF_SOUND = 343; // metres a second at 20 °C, handbook value

/** How long made-up shoots are that rankings are checked on. */
export const TALK_SECONDS = 120;

/** A conversation with close microphones, a boom, a pair on the table, cameras, a memo; faulty copies of some; a dead channel. */
export async function makeSources(
	seed: number,
	people: number,
	seconds: number,
	provider: FftProvider
): Promise<{ readonly talk: Talk; readonly sources: readonly MadeSource[] }> {
	const random = seededRandom(seed * 104_729 + 5);
	const between = (least: number, most: number) => least + (most - least) * random();
	const talk = await makeTalk(seed, {
		people,
		seconds,
		apart: between(1.2, 2),
		criticalMetres: between(1.2, 2.4)
	});
	const sources: MadeSource[] = [];
	const add = (kind: SourceKind, device: string, name: string, spot: Spot, noiseDb: number, person?: number) => {
		const heard = hearTalk(talk, spot, seed * 100 + sources.length, provider);
		sources.push({
			name,
			device,
			kind,
			...(person === undefined ? {} : { person }),
			samples: addNoise(heard, noiseDb, seed * 77 + sources.length),
			clean: cleanAt(talk, spot)
		});
	};
	for (const [person, one] of talk.people.entries())
		add('close', 'recorder', `Voice ${'ABCD'[person]}`, onChest(one), between(-66, -58), person);
	add('boom', 'recorder', 'Boom', { x: 0, y: 0.6, z: 2.1 }, between(-72, -64));
	add('table', 'table', 'Left', { x: -0.15, y: 0, z: 0.8 }, between(-70, -62));
	add('table', 'table', 'Right', { x: 0.15, y: 0, z: 0.8 }, between(-70, -62));
	add('camera', 'camera-a', '', { x: between(-2, 2), y: -3.2 }, between(-62, -54));
	add('camera', 'camera-b', '', { x: between(-3, 3), y: 4 }, between(-60, -52));
	add('memo', 'memo', '', { x: between(-1.5, 1.5), y: 1.4, z: 0.8 }, between(-58, -50));
	const faults: readonly Fault[] = ['clipped', 'humming', 'dropping out', 'dull', 'windy'];
	for (const [index, fault] of faults.entries()) {
		const of = index % people;
		const clean = sources[of]!;
		const samples = withFault(clean.samples, fault, random);
		sources.push({ ...clean, name: `${clean.name} ${fault}`, device: 'faulty', kind: fault, twinOf: of, samples });
	}
	const silence = addNoise(new Float32Array(Math.floor(seconds * SCENE_RATE)), -86, seed);
	sources.push({ name: 'Spare', device: 'recorder', kind: 'dead', samples: silence, clean: sources[0]!.clean });
	return { talk, sources };
}

function cleanAt({ people, seconds }: Talk, spot: Spot): Float32Array {
	const out = new Float32Array(Math.floor(seconds * SCENE_RATE));
	for (const { spot: mouth, voice } of people) {
		const late = Math.round((directMetres(mouth, spot) / SPEED_OF_SOUND) * SCENE_RATE);
		for (let i = late; i < out.length; i++) out[i] = out[i]! + voice[i - late]!;
	}
	return out;
}

function withFault(samples: Float32Array, fault: Fault, random: Random): Float32Array {
	const sorted = samples.map(Math.abs).sort();
	const loud = sorted[Math.floor(0.999 * sorted.length)]!;
	switch (fault) {
		case 'clipped': {
			const ceiling = loud * 10 ** (-(3 + 6 * random()) / 20);
			return samples.map((x) => Math.max(-ceiling, Math.min(ceiling, x)));
		}
		case 'humming': {
			const level = loud * 10 ** (-(18 + 8 * random()) / 20);
			const mains = random() < 0.5 ? 50 : 60;
			return samples.map((x, i) => {
				const phase = (2 * Math.PI * mains * i) / SCENE_RATE;
				return (
					x +
					level * (Math.sin(phase) + 0.7 * Math.sin(2 * phase) + 0.5 * Math.sin(3 * phase) + 0.3 * Math.sin(5 * phase))
				);
			});
		}
		case 'dropping out': {
			const out = samples.slice();
			for (let count = 6 + Math.floor(8 * random()); count > 0; count--) {
				const at = Math.floor(random() * (out.length - SCENE_RATE));
				out.fill(0, at, at + Math.floor((0.02 + 0.3 * random()) * SCENE_RATE));
			}
			return out;
		}
		case 'dull':
			return dulled(samples);
		case 'windy': {
			const level = loud * (0.6 + 0.8 * random());
			let slow = 0;
			let swell = 0;
			return samples.map((x) => {
				swell = 0.99995 * swell + 0.00005 * (random() - 0.3) * 4;
				slow = 0.985 * slow + 0.015 * (random() - 0.5) * 12;
				return x + level * Math.max(0, swell) * slow;
			});
		}
	}
}

/** A telephone's: nothing above 3.6 kHz. A sinc under a Blackman window; textbook practice. */
function dulled(samples: Float32Array): Float32Array {
	const half = 80;
	const share = (2 * 3600) / SCENE_RATE;
	const taps = Float32Array.from({ length: 2 * half + 1 }, (_, i) => {
		const away = i - half;
		const sinc = away === 0 ? share : Math.sin(Math.PI * share * away) / (Math.PI * away);
		const phase = (Math.PI * i) / half;
		return sinc * (0.42 - 0.5 * Math.cos(phase) + 0.08 * Math.cos(2 * phase));
	});
	const out = new Float32Array(samples.length);
	for (let i = half; i < samples.length - half; i++) {
		let sum = 0;
		for (let tap = -half; tap <= half; tap++) sum += taps[tap + half]! * samples[i - tap]!;
		out[i] = sum;
	}
	return out;
}
