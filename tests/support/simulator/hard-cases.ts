import { seededRandom } from '../../../demo/random';
import {
	babble,
	between,
	CLOSE,
	conversation,
	device,
	type SimulatedCase,
	sounding,
	spokenMoment,
	whole
} from './building';
import type { Codec } from './encode';
import { songLike, speechLike } from './sounds';

/** What breaks line-ups, with sound made here. */
export const HARD_CASES: readonly SimulatedCase[] = [
	{
		name: 'conference',
		about: '30 minutes; the recorder’s take in 4 files, a fixed camera, a roaming one with 16 clips of 4 to 45 s',
		isLong: true,
		build(seed) {
			const random = seededRandom(seed);
			const scene = conversation('talk', 1800, seed);
			const clips = Array.from({ length: 16 }, (_, index) => ({
				scene: 'talk',
				startSeconds: 8 + index * 108 + between(random, 0, 60),
				seconds: between(random, 4, 45)
			}));
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [{ ...whole(scene, random), files: 4 }], { ratePpm: 0 }),
					device('cam', { x: 1, y: 6 }, 'mp4', random, [whole(scene, random)], { noiseDb: -10 }),
					device('roam', { x: 4, y: 2 }, 'mp4', random, clips, { noiseDb: -8, ridesGain: true })
				]
			};
		}
	},
	{
		name: 'scratch at −5 dB against babble',
		about: '2 minutes, camera beside talking people',
		build: (seed) => babble(conversation('talk', 120, seed), seededRandom(seed), 5)
	},
	{
		name: 'close microphone against distant camera',
		about: 'the recorder hears one of three people, the camera all, from 9 m',
		build(seed) {
			const random = seededRandom(seed);
			const scene = conversation('talk', 150, seed);
			// At one mouth, the others 4 m away.
			const apart = {
				...scene,
				voices: scene.voices.map((voice, index) => ({ ...voice, spot: { x: 4 * index, y: 0 } }))
			};
			return {
				scenes: [apart],
				devices: [
					device('lav', { x: 0.05, y: 0.15 }, 'wav', random, [whole(apart, random)], { ratePpm: 0 }),
					device('cam', { x: 4, y: 9 }, 'mp4', random, [whole(apart, random)], { noiseDb: -6 })
				]
			};
		}
	},
	{
		name: 'wind, hum, gain, memos, all codecs',
		about: '2 minutes, 12 devices of as many kinds and rates',
		build(seed) {
			const random = seededRandom(seed);
			const scene = conversation('talk', 120, seed);
			const kinds: readonly Codec[] = [
				'wav44',
				'wav96',
				'wav-float',
				'aiff',
				'flac',
				'mp3-variable',
				'vorbis',
				'opus',
				'memo',
				'mov',
				'mkv',
				'webm'
			];
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					...kinds.map((codec, index) =>
						device(`kind-${codec}`, { x: index * 0.7 - 3, y: 2 + (index % 4) }, codec, random, [whole(scene, random)], {
							noiseDb: -10,
							...(index % 3 === 0 ? { windDb: 3 } : {}),
							...(index % 3 === 1 ? { humDb: 0 } : {}),
							...(index % 2 === 0 ? { ridesGain: true } : {})
						})
					)
				]
			};
		}
	},
	{
		name: 'one source through many codecs',
		about: 'the desk’s sum into six recorders and cameras: no air between',
		build(seed) {
			const random = seededRandom(seed);
			const scene = sounding('desk', speechLike(200, seed * 7));
			const plugged = { isPluggedIn: true, noiseDb: -40 };
			const kinds: readonly Codec[] = ['wav44', 'mp4', 'mp3', 'flac', 'opus'];
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ...plugged, ratePpm: 0 }),
					...kinds.map((codec) => device(`into-${codec}`, CLOSE, codec, random, [whole(scene, random)], plugged))
				]
			};
		}
	},
	{
		name: 'lost samples',
		about: 'a recorder loses 0.4 s in the middle of 5 minutes',
		build(seed) {
			const random = seededRandom(seed);
			const scene = conversation('talk', 300, seed, 2);
			const take = whole(scene, random);
			// While somebody speaks: in a pause nobody can tell to the moment what is missing.
			const lost = { atSeconds: spokenMoment(scene, take.startSeconds, between(random, 90, 200)), seconds: 0.4 };
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('cam', { x: 1, y: 4 }, 'mp4', random, [whole(scene, random)], { noiseDb: -12 }),
					device('holed', { x: 0.5, y: 1 }, 'wav', random, [{ ...take, lost }], { noiseDb: -18 })
				]
			};
		}
	},
	{
		name: 'a clock that bends',
		about: '2 hours, by 10 ppm to both sides',
		isLong: true,
		build(seed) {
			const random = seededRandom(seed);
			const scene = conversation('talk', 7200, seed, 2);
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('warm', { x: 1, y: 4 }, 'm4a', random, [whole(scene, random)], { noiseDb: -12, bendPpm: 10 })
				]
			};
		}
	},
	{
		name: 'takes to a playback track',
		about: 'five takes of two cameras to one song, each live over it',
		build(seed) {
			const random = seededRandom(seed);
			const scene = sounding('song', songLike(150, seed * 17));
			const takes = () =>
				Array.from({ length: 3 }, () => ({
					scene: 'song',
					startSeconds: between(random, 1, 40),
					seconds: between(random, 50, 100)
				}));
			return {
				scenes: [scene],
				devices: [
					device('track', CLOSE, 'wav', random, [{ scene: 'song', startSeconds: 0, seconds: 149 }], {
						isPluggedIn: true,
						ratePpm: 0
					}),
					device('cam-a', { x: 0, y: 3 }, 'mp4', random, takes(), { isLive: true, babbleDb: -6 }),
					device('cam-b', { x: 2, y: 4 }, 'mp4', random, takes().slice(1), { isLive: true, babbleDb: -6 })
				]
			};
		}
	},
	{
		name: 'two channels, the louder one elsewhere',
		about: 'the camera’s first channel carries another conversation, 20 dB louder',
		build(seed) {
			const random = seededRandom(seed);
			const scene = conversation('talk', 120, seed);
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('cam', { x: 1, y: 4 }, 'mp4', random, [whole(scene, random)], { noiseDb: -12, besideDb: 20 })
				]
			};
		}
	},
	{
		name: 'silence and clips of 1.5 s',
		about: 'they are left out, or right',
		build(seed) {
			const random = seededRandom(seed);
			const scene = conversation('talk', 240, seed);
			const short = () => ({ scene: 'talk', startSeconds: between(random, 20, 200), seconds: 1.5 });
			const clips = [short(), short(), short()].sort((a, b) => a.startSeconds - b.startSeconds);
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					device('cam', { x: 1, y: 4 }, 'mp4', random, [whole(scene, random)], { noiseDb: -12 }),
					device('short', { x: 2, y: 3 }, 'mp4', random, clips, { noiseDb: -12 }),
					device('mute', { x: 2, y: 3 }, 'mp4', random, [{ ...whole(scene, random), isSilent: true }])
				]
			};
		}
	},
	{
		name: 'clips near the limit',
		about: 'short clips under noise up to 18 dB louder than what is said; some of another day',
		isAtTheLimit: true,
		build(seed) {
			const random = seededRandom(seed);
			const [scene, other] = [conversation('talk', 300, seed), conversation('other', 120, seed + 5000)];
			const clips = (within: number, count: number, id: string) =>
				Array.from({ length: count }, (_, index) => ({
					scene: id,
					startSeconds: 2 + ((within - 30) * index) / count + between(random, 0, 5),
					seconds: between(random, 2, 25)
				}));
			return {
				scenes: [scene, other],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0 }),
					...[0, 6, 12, 18].map((noiseDb, index) =>
						device(`cam-${index}`, { x: index - 1, y: 3 }, 'mp4', random, clips(300, 7, 'talk'), { noiseDb })
					),
					device('elsewhere', { x: 1, y: 3 }, 'mp4', random, clips(120, 4, 'other'), { noiseDb: 0 })
				]
			};
		}
	},
	{
		name: 'timecode, one clock an hour off',
		needsFiles: true,
		about: 'three jam-synced devices, one with a silent clip; one an hour ahead; over midnight',
		build(seed) {
			const random = seededRandom(seed);
			const scene = conversation('talk', 300, seed);
			const clockSeconds = 86_400 - between(random, 20, 250);
			const clips = [
				{ scene: 'talk', startSeconds: 10, seconds: 80 },
				{ scene: 'talk', startSeconds: 110, seconds: 60, isSilent: true },
				{ scene: 'talk', startSeconds: 200, seconds: 90 }
			];
			return {
				scenes: [scene],
				devices: [
					device('rec', CLOSE, 'wav', random, [whole(scene, random)], { ratePpm: 0, clockSeconds }),
					device('cam-a', { x: 1, y: 4 }, 'mov', random, clips, { noiseDb: -12, clockSeconds }),
					device('cam-b', { x: 2, y: 4 }, 'mov', random, [whole(scene, random)], {
						noiseDb: -12,
						clockSeconds: clockSeconds + 3600
					}),
					device('rec-2', { x: 0, y: 1 }, 'wav', random, [whole(scene, random)], { noiseDb: -15, clockSeconds })
				]
			};
		}
	}
];
