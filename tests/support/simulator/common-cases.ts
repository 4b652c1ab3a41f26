import { seededRandom } from '../../../demo/random';
import { babble, between, CLOSE, conversation, device, type SimulatedCase, whole } from './building';
import type { Scene } from './simulator';
import { songLike } from './sounds';

/** The everyday and the often hard, with sound made here. */
export const COMMON_CASES: readonly SimulatedCase[] = [
	{
		name: 'one camera, one recorder',
		about: '100 s, close recorder, camera at 4 m',
		build(seed) {
			const random = seededRandom(seed);
			const scene = conversation('talk', 100, seed, 2);
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('cam', { x: 1, y: 4 }, 'mp4', random, [whole(scene, random)], { noiseDb: -12 })
				]
			};
		}
	},
	{
		name: 'podcast',
		about: '3 minutes, 3 cameras, a close and a table recorder, MP3 and AAC, gain riding',
		build(seed) {
			const random = seededRandom(seed);
			const scene = conversation('talk', 180, seed);
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('table', { x: 0.5, y: 0.8 }, 'mp3', random, [whole(scene, random)], { noiseDb: -18 }),
					device('cam-a', { x: 1, y: 6 }, 'mp4', random, [whole(scene, random)], { noiseDb: -8, ridesGain: true }),
					device('cam-b', { x: -1, y: 3 }, 'mp4', random, [whole(scene, random)], { noiseDb: -12 }),
					device('cam-c', { x: 3, y: 3 }, 'mp4', random, [whole(scene, random)], { noiseDb: -12 })
				]
			};
		}
	},
	{
		name: 'roaming camera',
		about: '8 minutes, a recorder, a fixed camera, 10 clips of 4 to 45 s',
		build(seed) {
			const random = seededRandom(seed);
			const scene = conversation('talk', 480, seed);
			const clips = Array.from({ length: 10 }, (_, index) => ({
				scene: 'talk',
				startSeconds: 5 + index * 46 + between(random, 0, 3),
				seconds: between(random, 4, 42)
			}));
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('cam', { x: 1, y: 5 }, 'mp4', random, [whole(scene, random)], { noiseDb: -10 }),
					device('roam', { x: 4, y: 2 }, 'mp4', random, clips, { noiseDb: -8 })
				]
			};
		}
	},
	{
		name: 'scratch at 0 dB against babble',
		about: '2 minutes, camera beside talking people',
		build: (seed) => babble(conversation('talk', 120, seed), seededRandom(seed), 0)
	},
	{
		name: 'scratch at −10 dB against babble',
		about: '2 minutes, camera beside loud talking people',
		build: (seed) => babble(conversation('talk', 120, seed), seededRandom(seed), 10)
	},
	{
		name: 'another day',
		about: 'another conversation in the same room, of the same kind: must be left out',
		build(seed) {
			const random = seededRandom(seed);
			const today = conversation('today', 120, seed);
			const yesterday = conversation('yesterday', 90, seed + 5000);
			return {
				scenes: [today, yesterday],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(today, random)], { ratePpm: 0 }),
					device(
						'cam',
						{ x: 1, y: 4 },
						'mp4',
						random,
						[whole(today, random), { scene: 'yesterday', startSeconds: 5, seconds: 60 }],
						{ noiseDb: -12 }
					),
					device('memo', { x: 2, y: 3 }, 'memo', random, [whole(today, random)], { noiseDb: -8 })
				]
			};
		}
	},
	{
		name: 'two scenes, linked through a third clip',
		about: 'a pair that shares nothing but what a third clip heard; a second scene apart',
		build(seed) {
			const random = seededRandom(seed);
			const morning = conversation('morning', 240, seed);
			const evening = conversation('evening', 120, seed + 700);
			return {
				scenes: [morning, evening],
				devices: [
					device(
						'cam-a',
						{ x: 0, y: 3 },
						'mp4',
						random,
						[
							{ scene: 'morning', startSeconds: 2, seconds: 90 },
							{ scene: 'evening', startSeconds: 3, seconds: 80 }
						],
						{ noiseDb: -12 }
					),
					device('cam-b', { x: 1, y: 4 }, 'mp4', random, [{ scene: 'morning', startSeconds: 60, seconds: 110 }], {
						noiseDb: -12
					}),
					device(
						'cam-c',
						{ x: 3, y: 3 },
						'mp4',
						random,
						[
							{ scene: 'morning', startSeconds: 140, seconds: 90 },
							{ scene: 'evening', startSeconds: 30, seconds: 80 }
						],
						{ noiseDb: -12 }
					)
				]
			};
		}
	},
	{
		name: 'song with repeated choruses',
		about: '3 minutes of music, the chorus the same to the sample, clipped scratch sound',
		build(seed) {
			const random = seededRandom(seed);
			const scene: Scene = {
				id: 'song',
				seconds: 200,
				voices: [{ spot: { x: 1, y: 0 }, samples: songLike(200, seed * 13) }]
			};
			return {
				scenes: [scene],
				devices: [
					device('desk', { x: 1, y: 0.5 }, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('cam-a', { x: 0, y: 8 }, 'mp4', random, [whole(scene, random)], { noiseDb: -12, clippedDb: 14 }),
					device(
						'cam-b',
						{ x: 3, y: 5 },
						'mp4',
						random,
						[{ scene: 'song', startSeconds: between(random, 20, 60), seconds: 70 }],
						{ noiseDb: -10 }
					)
				]
			};
		}
	},
	{
		name: 'clocks to ±150 ppm',
		about: '20 minutes, three devices',
		build(seed) {
			const random = seededRandom(seed);
			const scene = conversation('talk', 1200, seed);
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('cam', { x: 1, y: 5 }, 'mp4', random, [whole(scene, random)], {
						ratePpm: between(random, 100, 150),
						noiseDb: -10
					}),
					device('memo', { x: 2, y: 2 }, 'm4a', random, [whole(scene, random)], {
						ratePpm: -between(random, 100, 150),
						noiseDb: -10
					})
				]
			};
		}
	}
];
