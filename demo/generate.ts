/**
 * Makes the demo shoot's media from nothing but code: `npm run demo`. Needs ffmpeg and espeak-ng; takes some minutes.
 * Seeded, so that the same versions of the tools give the same files.
 */
import { createCanvas } from '@napi-rs/canvas';
import { once } from 'node:events';
import { mkdir, rm, stat, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { shippedDemoFolder } from './install';
import { eveningOf, type Evening } from './evening';
import { drawPicture } from './pictures';
import {
	type CameraView,
	type ClipPlan,
	clockRateFactor,
	DEVICES,
	type DevicePlan,
	LINES,
	REHEARSAL,
	REHEARSAL_LINES,
	SAMPLE_RATE,
	TALK_BEGINS,
	EVENING_SECONDS
} from './scene';
import { eveningSources, microphoneSignal, recordedBy, rehearsalSources, type SoundSource } from './sound';
import { speak } from './voices';
import { spawn } from '../scripts/outside-programs';

const OUT = shippedDemoFolder();
const only = process.argv[2];

async function main(): Promise<void> {
	const lines = await speak(LINES, TALK_BEGINS);
	const last = lines.at(-1)!;
	console.error(`The talk ends at ${(last.beginsSeconds + last.samples.length / SAMPLE_RATE).toFixed(1)} s.`);
	const sources = eveningSources(lines);
	const evening = eveningOf(lines, EVENING_SECONDS, true);
	await mkdir(join(OUT, 'packed'), { recursive: true });
	for (const device of DEVICES) {
		if (only && device.folder !== only) continue;
		console.error(device.folder);
		if (device.folder === 'recorder-1') await makePoly(device, sources);
		else await makeDevice(device, sources, evening);
	}
	if (!only || only === 'rehearsal') await makeRehearsal();
}

function microphoneSignals(device: DevicePlan, sources: readonly SoundSource[]): readonly Float32Array[] {
	return device.microphones.map((microphone, index) =>
		microphoneSignal(sources, microphone, 1000 + DEVICES.indexOf(device) * 10 + index)
	);
}

async function makeDevice(device: DevicePlan, sources: readonly SoundSource[], evening: Evening): Promise<void> {
	const signals = microphoneSignals(device, sources);
	for (const clip of device.clips) {
		const channels = signals.map((signal) => recordedBy(signal, clip.startSeconds, clip.mediaSeconds, device.ratePpm));
		await encode(device, clip, channels, evening, device.view);
	}
}

async function makePoly(device: DevicePlan, sources: readonly SoundSource[]): Promise<void> {
	for (const [channel, signal] of microphoneSignals(device, sources).entries()) {
		for (const [index, clip] of device.clips.entries()) {
			const samples = recordedBy(signal, clip.startSeconds, clip.mediaSeconds, device.ratePpm);
			const raw = await rawSound([samples], `${channel}-${index}`);
			await ffmpeg([
				'-f',
				'f32le',
				'-ar',
				'48000',
				'-ac',
				'1',
				'-i',
				raw,
				'-c:a',
				'libopus',
				'-b:a',
				'80k',
				join(OUT, 'packed', `recorder-1_${index + 1}_${channel + 1}.opus`)
			]);
			await rm(raw);
		}
	}
}

async function makeRehearsal(): Promise<void> {
	const lines = await speak(REHEARSAL_LINES, 1.2);
	const camera = DEVICES.find((device) => device.folder === 'camera-b')!;
	const sources = rehearsalSources(lines, REHEARSAL.mediaSeconds + 1);
	const [signal] = microphoneSignals(camera, sources);
	const evening = eveningOf(lines, REHEARSAL.mediaSeconds + 1, false);
	const clip: ClipPlan = { ...REHEARSAL, startSeconds: 0 };
	await encode(camera, clip, [recordedBy(signal!, 0, clip.mediaSeconds, camera.ratePpm)], evening, {
		...camera.view!,
		darkness: 0.2
	});
}

/** Codecs and containers as the devices of an evening have them: each another. */
function codecOf(folder: string): { readonly video: readonly string[]; readonly audio: readonly string[] } {
	switch (folder) {
		case 'camera-a':
			return {
				video: ['-c:v', 'libx264', '-preset', 'slow', '-crf', '30', '-maxrate', '92k', '-bufsize', '400k', '-g', '125'],
				audio: ['-c:a', 'aac', '-b:a', '48k']
			};
		case 'camera-b':
			return {
				video: [
					'-c:v',
					'libx265',
					'-preset',
					'medium',
					'-crf',
					'31',
					'-tag:v',
					'hvc1',
					'-x265-params',
					'log-level=error:vbv-maxrate=88:vbv-bufsize=400'
				],
				audio: ['-c:a', 'aac', '-b:a', '48k']
			};
		case 'camera-c':
			return {
				video: [
					'-c:v',
					'libx264',
					'-preset',
					'slow',
					'-crf',
					'29',
					'-maxrate',
					'88k',
					'-bufsize',
					'400k',
					'-g',
					'60',
					'-bf',
					'2'
				],
				audio: ['-c:a', 'aac', '-b:a', '48k']
			};
		case 'camera-d':
			return {
				video: ['-c:v', 'libx264', '-preset', 'medium', '-crf', '29', '-g', '30'],
				audio: ['-c:a', 'ac3', '-b:a', '96k']
			};
		case 'camera-e':
			return {
				video: ['-c:v', 'libx264', '-preset', 'slow', '-crf', '31', '-maxrate', '110k', '-bufsize', '400k', '-g', '48'],
				audio: []
			};
		case 'recorder-2':
			return { video: [], audio: ['-ar', '44100', '-c:a', 'libmp3lame', '-b:a', '112k'] };
		default:
			return { video: [], audio: ['-c:a', 'aac', '-b:a', '64k'] };
	}
}

async function encode(
	device: DevicePlan,
	clip: ClipPlan,
	channels: readonly Float32Array[],
	evening: Evening,
	view: CameraView | undefined
): Promise<void> {
	const path = join(OUT, clip.path);
	await mkdir(dirname(path), { recursive: true });
	const { video, audio } = codecOf(device.folder);
	const raw = channels.length > 0 ? await rawSound(channels, device.folder) : undefined;
	const args = ['-y'];
	if (view) {
		const { width, height } = device.size!;
		args.push(
			'-f',
			'rawvideo',
			'-pix_fmt',
			'rgba',
			'-s',
			`${width}x${height}`,
			'-r',
			`${device.pictureRate!.num}/${device.pictureRate!.den}`,
			'-i',
			'pipe:0'
		);
	}
	if (raw) args.push('-f', 'f32le', '-ar', '48000', '-ac', `${channels.length}`, '-i', raw);
	if (view) args.push('-map', '0:v', ...video, '-pix_fmt', 'yuv420p');
	if (raw) args.push('-map', view ? '1:a' : '0:a', ...audio);
	args.push('-metadata', 'creation_time=2026-05-09T19:30:00Z', path);
	await ffmpeg(args, view ? pictures(device, clip, evening, view) : undefined);
	if (raw) await rm(raw);
	console.error(`  ${clip.path} ${((await stat(path)).size / 2 ** 20).toFixed(2)} MiB`);
}

function* pictures(device: DevicePlan, clip: ClipPlan, evening: Evening, view: CameraView): Generator<Buffer> {
	const { width, height } = device.size!;
	const { num, den } = device.pictureRate!;
	const canvas = createCanvas(width, height);
	const context = canvas.getContext('2d');
	const count = Math.floor((clip.mediaSeconds * num) / den);
	for (let picture = 0; picture < count; picture++) {
		const seconds = clip.startSeconds + ((picture * den) / num) * clockRateFactor(device);
		const moved = device.folder === 'camera-d' ? roaming(view, clip.edgeFile, seconds) : view;
		drawPicture(context, width, height, moved, seconds, evening, { file: clip.edgeFile, picture });
		yield canvas.data();
	}
}

/** A hand-held camera: another place for each clip, and never quite still. */
function roaming(view: CameraView, clip: number, seconds: number): CameraView {
	const places = [
		{ x: -3.2, y: 1.6, z: -1.6 },
		{ x: 3.1, y: 1.5, z: -1.2 },
		{ x: -2.6, y: 1.2, z: -0.6 },
		{ x: 0.9, y: 1.7, z: -2.4 },
		{ x: -3.4, y: 2, z: 0.6 },
		{ x: 2.9, y: 1.8, z: -2.6 }
	];
	const place = places[clip % places.length]!;
	return {
		...view,
		place: { x: place.x + 0.05 * Math.sin(seconds * 0.9), y: place.y + 0.02 * Math.sin(seconds * 2.1), z: place.z },
		aim: {
			x: view.aim.x + 0.25 * Math.sin(seconds * 0.21),
			y: view.aim.y + 0.03 * Math.sin(seconds * 1.3),
			z: view.aim.z
		}
	};
}

async function rawSound(channels: readonly Float32Array[], name: string): Promise<string> {
	const path = join(OUT, `.${name}.f32`);
	const out = new Float32Array(channels[0]!.length * channels.length);
	for (let i = 0; i < channels[0]!.length; i++)
		for (let c = 0; c < channels.length; c++) out[i * channels.length + c] = channels[c]![i]!;
	await writeFile(path, new Uint8Array(out.buffer));
	return path;
}

async function ffmpeg(args: readonly string[], input?: Iterable<Buffer>): Promise<void> {
	const child = spawn(
		'ffmpeg',
		['-v', 'error', ...(input ? [] : ['-nostdin']), '-y', '-flags:v', '+bitexact', '-fflags', '+bitexact', ...args],
		{ stdio: [input ? 'pipe' : 'ignore', 'inherit', 'inherit'] }
	);
	const ended = once(child, 'close') as Promise<[number]>;
	if (input) {
		for (const block of input) if (!child.stdin!.write(block)) await once(child.stdin!, 'drain');
		child.stdin!.end();
	}
	const [code] = await ended;
	if (code !== 0) throw new Error(`ffmpeg ended with ${code}: ${args.join(' ')}`);
}

await main();
