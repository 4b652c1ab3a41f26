import pMap from 'p-map';
import { mkdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { seededRandom } from '../../demo/random';
import { fastFftProvider } from '../../src/lib/server/engine/fast-fft';
import { between, CLOSE, conversation, device } from '../support/simulator/building';
import { type TrueFile, writeShoot } from '../support/simulator/simulator';
import { runProgram as run } from '../../scripts/outside-programs';

/**
 * Seven devices that run all the time: three cameras and four recorders.
 * @param picture what the cameras write: full size where decoding is measured, small where only the page is
 */
export async function writeLongShoot(
	folder: string,
	secondsEach: number,
	seed: number,
	picture: { readonly size: string; readonly bitRate: string } = { size: '1920x1080', bitRate: '8M' }
): Promise<readonly TrueFile[]> {
	const random = seededRandom(seed);
	const scene = conversation('talk', secondsEach + 40, seed);
	const covering = () => [
		{ scene: 'talk', startSeconds: between(random, 1, 20), seconds: secondsEach - between(random, 0, 20) }
	];
	const truth = await writeShoot(
		{
			scenes: [scene],
			devices: [
				device('recorder-1', CLOSE, 'wav-stereo', random, covering(), { ratePpm: 0 }),
				device('recorder-2', { x: 0.2, y: 0.6 }, 'wav-stereo', random, covering()),
				device('recorder-3', { x: 2, y: 2 }, 'wav-stereo', random, covering(), { noiseDb: -15 }),
				device('recorder-4', { x: -2, y: 4 }, 'wav-stereo', random, covering(), { noiseDb: -10 }),
				device('camera-a', { x: 1, y: 5 }, 'mp4', random, covering(), { noiseDb: -12 }),
				device('camera-b', { x: -1, y: 3 }, 'mp4', random, covering(), { noiseDb: -12 }),
				device('camera-c', { x: 4, y: 3 }, 'mp4', random, covering(), { noiseDb: -8, ridesGain: true })
			]
		},
		folder,
		seed,
		await fastFftProvider()
	);
	const passing = join(folder, '.picture');
	await mkdir(passing, { recursive: true });
	const minute = join(passing, 'minute.mp4');
	// Noise over a moving pattern: about as many bits a second as a camera writes.
	await run('ffmpeg', [
		...['-v', 'error', '-f', 'lavfi', '-i', `testsrc2=size=${picture.size}:rate=25:duration=60,noise=alls=12:allf=t`],
		...['-c:v', 'libx264', '-preset', 'ultrafast', '-b:v', picture.bitRate, '-maxrate', picture.bitRate],
		...['-bufsize', picture.bitRate, '-g', '50', minute]
	]);
	await pMap(
		truth.filter(({ path }) => path.endsWith('.mp4')),
		async ({ path, seconds }) => {
			const sound = join(folder, path);
			const whole = join(passing, path.replaceAll('/', '-'));
			await run('ffmpeg', [
				...['-v', 'error', '-i', sound, '-stream_loop', '-1', '-i', minute, '-map', '0:a', '-map', '1:v', '-c', 'copy'],
				...['-t', `${seconds}`, whole]
			]);
			await rename(whole, sound);
		},
		{ concurrency: 2 }
	);
	await rm(passing, { recursive: true });
	return truth;
}

/** One recorder that runs all the time, nineteen devices with many clips each. */
export async function writeManyClips(folder: string, seed: number): Promise<readonly TrueFile[]> {
	const random = seededRandom(seed);
	const seconds = 2400;
	const scene = conversation('talk', seconds, seed);
	const clips = () => {
		const out: { scene: string; startSeconds: number; seconds: number }[] = [];
		for (let at = between(random, 2, 60); at < seconds - 60 && out.length < 16;) {
			const length = between(random, 20, 140);
			out.push({ scene: 'talk', startSeconds: at, seconds: Math.min(length, seconds - at - 2) });
			at += length + between(random, 5, 60);
		}
		return out;
	};
	const devices = Array.from({ length: 19 }, (_, index) =>
		device(
			`device-${index + 1}`,
			{ x: (index % 5) - 2, y: 1 + Math.floor(index / 5) },
			index % 3 === 0 ? 'wav' : 'mp4',
			random,
			clips(),
			{
				noiseDb: -10 - (index % 4) * 3
			}
		)
	);
	const recorder = device(
		'recorder',
		CLOSE,
		'wav',
		random,
		[{ scene: 'talk', startSeconds: 1, seconds: seconds - 5 }],
		{
			ratePpm: 0
		}
	);
	return writeShoot({ scenes: [scene], devices: [recorder, ...devices] }, folder, seed, await fastFftProvider());
}
