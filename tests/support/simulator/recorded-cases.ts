import { seededRandom } from '../../../demo/random';
import { babble, between, CLOSE, device, recordedConversation, type SimulatedCase, sounding, whole } from './building';
import { recordedSounds } from './recorded-sounds';
import { SCENE_RATE } from './sounds';

/** Real voices and real music, in made rooms. */
export const RECORDED_CASES: readonly SimulatedCase[] = [
	{
		name: 'recorded voices: podcast',
		about: '4 minutes, 3 cameras, a close and a table recorder',
		isRecorded: true,
		async build(seed) {
			const random = seededRandom(seed);
			const scene = await recordedConversation('talk', 240, seed);
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('table', { x: 0.5, y: 0.8 }, 'mp3', random, [whole(scene, random)], { noiseDb: -18 }),
					device('cam-a', { x: 1, y: 6 }, 'mp4', random, [whole(scene, random)], { noiseDb: -8, ridesGain: true }),
					device('cam-b', { x: -1, y: 3 }, 'mp4', random, [whole(scene, random)], { noiseDb: -12 }),
					device('cam-c', { x: 3, y: 3 }, 'mov', random, [whole(scene, random)], { noiseDb: -12 })
				]
			};
		}
	},
	{
		name: 'recorded voices: roaming camera',
		about: '10 minutes, 12 clips of 4 to 45 s, a recorder and a fixed camera',
		isRecorded: true,
		async build(seed) {
			const random = seededRandom(seed);
			const scene = await recordedConversation('talk', 600, seed);
			const clips = Array.from({ length: 12 }, (_, index) => ({
				scene: 'talk',
				startSeconds: 5 + index * 48 + between(random, 0, 3),
				seconds: between(random, 4, 44)
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
		name: 'recorded voices: another day',
		about: 'the same people in the same room on another day: must be left out',
		isRecorded: true,
		async build(seed) {
			const random = seededRandom(seed);
			const today = await recordedConversation('today', 180, seed);
			const yesterday = await recordedConversation('yesterday', 150, seed + 5000, 1);
			return {
				scenes: [today, yesterday],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(today, random)], { ratePpm: 0 }),
					device(
						'cam',
						{ x: 1, y: 4 },
						'mp4',
						random,
						[whole(today, random), { scene: 'yesterday', startSeconds: 5, seconds: 120 }],
						{ noiseDb: -12 }
					),
					device('memo', { x: 2, y: 3 }, 'memo', random, [whole(today, random)], { noiseDb: -8 })
				]
			};
		}
	},
	{
		name: 'recorded voices: −10 dB babble',
		about: '2 minutes, camera and telephone beside loud talking people',
		isRecorded: true,
		build: async (seed) => babble(await recordedConversation('talk', 120, seed), seededRandom(seed), 10)
	},
	{
		name: 'recorded songs',
		about: 'a mix at the desk, cameras in the hall with another mix of the stems, a clip of another song',
		isRecorded: true,
		async build(seed) {
			const random = seededRandom(seed);
			const { songs } = await recordedSounds();
			const pick = (index: number, id: string) => {
				const [guitar, rest] = songs[index % songs.length]!;
				const length = Math.min(guitar.length, rest.length, 200 * SCENE_RATE);
				const gain = between(random, 0.5, 1.5);
				return sounding(
					id,
					rest.subarray(0, length).map((x, i) => x + gain * guitar[i]!)
				);
			};
			const song = pick(seed, 'song');
			const other = pick(seed + 1, 'other');
			return {
				scenes: [song, other],
				devices: [
					device('desk', CLOSE, 'wav', random, [whole(song, random)], { isPluggedIn: true, ratePpm: 0 }),
					device(
						'cam-a',
						{ x: 0, y: 12 },
						'mp4',
						random,
						[whole(song, random), { scene: 'other', startSeconds: 20, seconds: 60 }],
						{ noiseDb: -12, clippedDb: 12 }
					),
					device(
						'cam-b',
						{ x: 3, y: 8 },
						'mp4',
						random,
						[{ scene: 'song', startSeconds: between(random, 10, 60), seconds: 70 }],
						{ noiseDb: -10, ridesGain: true }
					)
				]
			};
		}
	}
];
