import { once } from 'node:events';
import { mkdir } from 'node:fs/promises';
import { dirname } from 'node:path';
import { SCENE_RATE } from './sounds';
import { spawn } from '../../../scripts/outside-programs';

const GRAY = ['-f', 'lavfi', '-i', 'color=gray:size=64x36:rate=25'];
const WITH_GRAY = ['-map', '0:a', '-map', '1:v', '-c:v', 'libx264', '-preset', 'ultrafast', '-shortest'];

interface Recipe {
	readonly ending: string;
	/** Between the sound's input and the path. */
	readonly options: readonly string[];
}

function camera(ending: string, ...options: readonly string[]): Recipe {
	return { ending, options: [...GRAY, ...WITH_GRAY, ...options] };
}

/** What recorders, cameras and telephones write, by real encoders. */
const RECIPES = {
	wav: { ending: 'wav', options: ['-ar', '48000', '-c:a', 'pcm_s24le'] },
	'wav-stereo': { ending: 'wav', options: ['-ac', '2', '-ar', '48000', '-c:a', 'pcm_s24le'] },
	wav44: { ending: 'wav', options: ['-ar', '44100', '-c:a', 'pcm_s16le'] },
	wav96: { ending: 'wav', options: ['-ar', '96000', '-c:a', 'pcm_s24le'] },
	'wav-float': { ending: 'wav', options: ['-ar', '48000', '-c:a', 'pcm_f32le'] },
	aiff: { ending: 'aif', options: ['-ar', '48000', '-c:a', 'pcm_s16be'] },
	flac: { ending: 'flac', options: ['-ar', '48000', '-c:a', 'flac'] },
	mp3: { ending: 'mp3', options: ['-ar', '44100', '-c:a', 'libmp3lame', '-b:a', '96k'] },
	'mp3-variable': { ending: 'mp3', options: ['-ar', '48000', '-c:a', 'libmp3lame', '-q:a', '4'] },
	m4a: { ending: 'm4a', options: ['-ar', '48000', '-c:a', 'aac', '-b:a', '96k'] },
	vorbis: { ending: 'ogg', options: ['-ar', '44100', '-c:a', 'libvorbis'] },
	opus: { ending: 'opus', options: ['-ar', '48000', '-c:a', 'libopus', '-b:a', '48k'] },
	memo: { ending: 'm4a', options: ['-ar', '8000', '-c:a', 'aac', '-b:a', '16k'] },
	mp4: camera('mp4', '-ar', '48000', '-c:a', 'aac', '-b:a', '96k'),
	mov: camera('mov', '-ar', '48000', '-c:a', 'pcm_s16le'),
	mkv: camera('mkv', '-ar', '48000', '-c:a', 'libopus', '-b:a', '64k'),
	webm: {
		ending: 'webm',
		options: [
			...GRAY,
			'-map',
			'0:a',
			'-map',
			'1:v',
			'-c:v',
			'libvpx',
			'-cpu-used',
			'8',
			'-deadline',
			'realtime',
			'-shortest',
			'-ar',
			'48000',
			'-c:a',
			'libopus'
		]
	}
} as const satisfies Readonly<Record<string, Recipe>>;

export type Codec = keyof typeof RECIPES;

export function endingOf(codec: Codec): string {
	return RECIPES[codec].ending;
}

/** Encodes channels of equal length at `SCENE_RATE`. @param more options such as metadata */
export async function encode(
	channels: readonly Float32Array[],
	path: string,
	codec: Codec,
	more: readonly string[] = []
): Promise<void> {
	await mkdir(dirname(path), { recursive: true });
	const input = ['-f', 'f32le', '-ar', `${SCENE_RATE}`, '-ac', `${channels.length}`, '-i', 'pipe:0'];
	const child = spawn('ffmpeg', ['-v', 'error', '-y', ...input, ...RECIPES[codec].options, ...more, path], {
		stdio: ['pipe', 'inherit', 'inherit']
	});
	const ended = once(child, 'close') as Promise<[number]>;
	const samples = interleaved(channels);
	child.stdin.end(Buffer.from(samples.buffer, samples.byteOffset, samples.byteLength));
	const [code] = await ended;
	if (code !== 0) throw new Error(`ffmpeg ended with ${code} for ${path}`);
}

function interleaved(channels: readonly Float32Array[]): Float32Array {
	const [only] = channels;
	if (channels.length === 1 && only) return only;
	const out = new Float32Array(only!.length * channels.length);
	for (const [channel, samples] of channels.entries())
		for (let i = 0; i < samples.length; i++) out[i * channels.length + channel] = samples[i]!;
	return out;
}
