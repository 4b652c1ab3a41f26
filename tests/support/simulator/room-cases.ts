import { seededRandom } from '../../../demo/random';
import {
	between,
	CLOSE,
	conversation,
	device,
	recordedConversation,
	type SimulatedCase,
	sounding,
	whole
} from './building';
import { recordedSounds } from './recorded-sounds';
import type { Room } from './room';
import type { Scene } from './simulator';
import { type Random, songLike } from './sounds';

/** Live rooms, and cameras so far that the room is louder than the direct sound: 5 to 12 dB at most places. */
function hall(random: Random): Room {
	return {
		width: between(random, 14, 20),
		depth: between(random, 22, 28),
		height: between(random, 4, 6),
		reflection: between(random, 0.7, 0.88),
		reverberationSeconds: between(random, 0.7, 1.2),
		criticalMetres: between(random, 2.2, 3.2)
	};
}

function smallRoom(random: Random): Room {
	return {
		width: between(random, 7, 9),
		depth: between(random, 11, 13),
		height: between(random, 2.4, 3),
		reflection: between(random, 0.75, 0.9),
		reverberationSeconds: between(random, 0.45, 0.8),
		criticalMetres: between(random, 1, 1.5)
	};
}

const inRoom = (scene: Scene, room: Room): Scene => ({ ...scene, room });
const POOR = { noiseDb: -14, ridesGain: true } as const;

export const ROOM_CASES: readonly SimulatedCase[] = [
	{
		name: 'live room: takes to a loudspeaker',
		about:
			'a song from a loudspeaker, people who talk over it; cameras at 9.8 and 5 m that do not move, three takes each',
		build: (seed) => takes(seed, songLike(150, seed * 17))
	},
	{
		name: 'live room: takes to a recorded song',
		about: 'the same with a recorded song',
		isRecorded: true,
		async build(seed) {
			const { songs } = await recordedSounds();
			const [guitar, rest] = songs[seed % songs.length]!;
			return takes(
				seed,
				rest.map((x, i) => x + (guitar[i] ?? 0))
			);
		}
	},
	{
		name: 'live room: conference',
		about: '8 minutes in a hall; the desk’s sum, a camera at 10 m, one that roams with 8 clips of 8 to 45 s',
		isRecorded: true,
		async build(seed) {
			const random = seededRandom(seed);
			const scene = inRoom(await recordedConversation('talk', 480, seed), hall(random));
			const clips = Array.from({ length: 8 }, (_, index) => ({
				scene: 'talk',
				startSeconds: 5 + index * 57 + between(random, 0, 8),
				seconds: between(random, 8, 45)
			}));
			return {
				scenes: [scene],
				devices: [
					device('desk', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0, isPluggedIn: true }),
					device('cam', { x: 1.5, y: 10 }, 'mp4', random, [whole(scene, random)], POOR),
					device('roam', { x: -4, y: 7 }, 'mp4', random, clips, POOR)
				]
			};
		}
	},
	{
		name: 'live room: short clips under babble',
		about:
			'4 minutes in a hall; the desk’s sum, a camera at 6 m with twelve clips of 5 s beside people who talk 6 dB louder',
		isAtTheLimit: true,
		isRecorded: true,
		async build(seed) {
			const random = seededRandom(seed);
			const scene = inRoom(await recordedConversation('talk', 240, seed), hall(random));
			const clips = Array.from({ length: 12 }, (_, index) => ({
				scene: 'talk',
				startSeconds: 4 + index * 19 + between(random, 0, 12),
				seconds: 5
			}));
			return {
				scenes: [scene],
				devices: [
					device('desk', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0, isPluggedIn: true }),
					device('cam', { x: 1.5, y: 6 }, 'mp4', random, clips, { babbleDb: 6 })
				]
			};
		}
	},
	{
		name: 'live room: small, a far camera',
		about: '3 minutes; a close recorder, a camera at 6 m and one at 3.5 m',
		build(seed) {
			const random = seededRandom(seed);
			const scene = inRoom(conversation('talk', 180, seed), smallRoom(random));
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('far', { x: 2, y: 5.2 }, 'mp4', random, [whole(scene, random)], POOR),
					device('near', { x: -1, y: 2.8 }, 'mov', random, [whole(scene, random)], { noiseDb: -18 })
				]
			};
		}
	},
	{
		name: 'live room: real voices, a far camera',
		about: '4 minutes; a close recorder, a camera at 6 m with six clips from one place',
		isRecorded: true,
		async build(seed) {
			const random = seededRandom(seed);
			const scene = inRoom(await recordedConversation('talk', 240, seed), smallRoom(random));
			const clips = Array.from({ length: 6 }, (_, index) => ({
				scene: 'talk',
				startSeconds: 4 + index * 39 + between(random, 0, 6),
				seconds: between(random, 12, 32)
			}));
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('far', { x: 2, y: 5.2 }, 'mp4', random, clips, POOR)
				]
			};
		}
	},
	{
		name: 'live room: an hour, clocks far apart',
		about: '60 minutes; a recorder, and two cameras whose clocks are 180 ppm apart',
		isLong: true,
		build(seed) {
			const random = seededRandom(seed);
			const scene = inRoom(conversation('talk', 3600, seed), smallRoom(random));
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('far', { x: 2, y: 5.2 }, 'mp4', random, [whole(scene, random)], { ...POOR, ratePpm: -100 }),
					device('near', { x: -1, y: 2.8 }, 'mov', random, [whole(scene, random)], { noiseDb: -18, ratePpm: 80 })
				]
			};
		}
	}
];

function takes(seed: number, song: Float32Array) {
	const random = seededRandom(seed);
	const scene = inRoom(sounding('song', song), hall(random));
	const list = () =>
		Array.from({ length: 3 }, () => {
			const seconds = Math.min(between(random, 40, 90), scene.seconds * 0.6);
			return { scene: 'song', startSeconds: between(random, 1, Math.max(2, scene.seconds - seconds - 2)), seconds };
		});
	return {
		scenes: [scene],
		devices: [
			device('track', CLOSE, 'wav', random, [{ scene: 'song', startSeconds: 0, seconds: scene.seconds - 1 }], {
				isPluggedIn: true,
				ratePpm: 0
			}),
			device('cam-a', { x: 0.5, y: 9.8 }, 'mp4', random, list(), { isLive: true, babbleDb: -8, ...POOR }),
			device('cam-b', { x: 2, y: 5 }, 'mp4', random, list(), { isLive: true, babbleDb: -8, ...POOR })
		]
	};
}
