import { existsSync } from 'node:fs';
import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { seededRandom } from '../../../demo/random';
import { SCENE_RATE } from './sounds';
import { installedPath, runProgram as run } from '../../../scripts/outside-programs';

/**
 * Real recorded sound from Debian's packages, never part of this project: acted Czech speech of two voices
 * (fillets-ng-data-cs, GPL-2), an English studio voice (asterisk-core-sounds-en-g722, CC-BY-SA-3.0), songs
 * (fretsonfire-songs-sectoid, MIT-style). The test script installs them.
 */
const SPEECH_FOLDER = installedPath('/usr/share/games/fillets-ng/sound');
const PROMPT_FOLDER = installedPath('/usr/share/asterisk/sounds/en_US_f_Allison');
const SONG_FOLDER = installedPath('/usr/share/games/fretsonfire/data/songs/sectoid');

/** Whether the packages are there. */
export const hasRecordedSounds = [SPEECH_FOLDER, PROMPT_FOLDER, SONG_FOLDER].every((folder) => existsSync(folder));

/** Long recordings of one voice each, at `SCENE_RATE`. */
export interface RecordedSounds {
	readonly voices: readonly Float32Array[];
	/** Two stems of a song each: mixed in different ratios they stand for different microphones. */
	readonly songs: readonly (readonly [Float32Array, Float32Array])[];
}

let loading: Promise<RecordedSounds> | undefined;

export function recordedSounds(): Promise<RecordedSounds> {
	return (loading ??= load());
}

async function load(): Promise<RecordedSounds> {
	const folder = await mkdtemp(join(tmpdir(), 'open-choir-voices-'));
	try {
		const speech = await filesBelow(SPEECH_FOLDER, /\/cs\/.*\.ogg$/);
		const prompts = await filesBelow(PROMPT_FOLDER, /\.g722$/);
		const joinedPrompts = join(folder, 'prompts.g722');
		await writeFile(joinedPrompts, Buffer.concat(await Promise.all(prompts.map((path) => readFile(path)))));
		const voices = [
			await decodeList(
				speech.filter((path) => path.includes('-m-')),
				join(folder, 'm.txt')
			),
			await decodeList(
				speech.filter((path) => path.includes('-v-')),
				join(folder, 'v.txt')
			),
			await decode(['-f', 'g722', '-i', joinedPrompts])
		];
		const songs: [Float32Array, Float32Array][] = [];
		for (const name of (await readdir(SONG_FOLDER, { withFileTypes: true })).filter((one) => one.isDirectory())) {
			const stem = (file: string) => decode(['-i', join(SONG_FOLDER, name.name, file)]);
			songs.push([await stem('guitar.ogg'), await stem('song.ogg')]);
		}
		return { voices, songs };
	} finally {
		await rm(folder, { recursive: true });
	}
}

async function filesBelow(folder: string, pattern: RegExp): Promise<string[]> {
	const all = await readdir(folder, { recursive: true });
	return all
		.map((path) => join(folder, path))
		.filter((path) => pattern.test(path))
		.sort();
}

async function decodeList(paths: readonly string[], list: string): Promise<Float32Array> {
	await writeFile(list, paths.map((path) => `file '${path}'\n`).join(''));
	return decode(['-f', 'concat', '-safe', '0', '-i', list]);
}

async function decode(input: readonly string[]): Promise<Float32Array> {
	const { stdout } = await run(
		'ffmpeg',
		['-v', 'quiet', ...input, '-ac', '1', '-ar', `${SCENE_RATE}`, '-f', 'f32le', 'pipe:1'],
		{ encoding: 'buffer', maxBuffer: 2 ** 30 }
	);
	return new Float32Array(new Uint8Array(stdout).buffer);
}

/**
 * A voice that speaks in phrases, on and on through its recording, with pauses; nothing is said twice.
 * @param busy share of the time in which it speaks @param from where in its recording it begins, 0 to 1
 */
export function speaking(voice: Float32Array, seconds: number, seed: number, busy: number, from: number): Float32Array {
	const random = seededRandom(seed);
	const out = new Float32Array(Math.floor(seconds * SCENE_RATE));
	let next = Math.floor(from * voice.length);
	for (let at = 0; at < out.length;) {
		const length = Math.min(out.length - at, Math.floor((2 + 6 * random()) * SCENE_RATE));
		if (random() < busy) {
			if (next + length > voice.length) next = 0;
			out.set(voice.subarray(next, next + length), at);
			next += length;
		}
		at += length;
	}
	return out;
}
