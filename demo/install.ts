import { copyFile, link, mkdir, open, readdir, rename, rm, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { broadcastWaveHeader } from '../src/lib/core/exchange/broadcast-wave';
import { DEVICES, PEOPLE, SAMPLE_RATE } from './scene';
import { spawn } from '../scripts/outside-programs';

export const DEMO_SHOOT_NAME = 'An evening about the wooden ferry';
const FOLDER_NAME = 'wooden-ferry';
const HEAP_FOLDER_NAME = 'wooden-ferry in one heap';
/** The evening began at 19:30:00 by the recorder's clock. */
const EVENING_CLOCK_SECONDS = 19 * 3600 + 30 * 60;

export function shippedDemoFolder(): string {
	// Beside this file in the source; the built server knows the project's root by its working folder.
	const here = dirname(fileURLToPath(import.meta.url));
	return here.endsWith('demo') ? join(here, 'media') : join(process.cwd(), 'demo', 'media');
}

/**
 * Lays the demo shoot's media below `parent`, once: most files as they are shipped; the four-channel recorder's two
 * files are unpacked from compressed channels, for 4-channel wave files are too large to ship.
 * @returns the folder of the demo shoot; it appears whole or not at all
 */
export async function installDemoMedia(parent: string): Promise<string> {
	const target = join(parent, FOLDER_NAME);
	if (await exists(target)) return target;
	const shipped = shippedDemoFolder();
	const building = `${target}.building-${process.pid}`;
	await rm(building, { recursive: true, force: true });
	for (const folder of await readdir(shipped, { withFileTypes: true })) {
		if (!folder.isDirectory() || folder.name === 'packed') continue;
		await mkdir(join(building, folder.name), { recursive: true });
		for (const name of await readdir(join(shipped, folder.name))) {
			await copyFile(join(shipped, folder.name, name), join(building, folder.name, name));
		}
	}
	const recorder = DEVICES.find((device) => device.folder === 'recorder-1')!;
	await mkdir(join(building, recorder.folder), { recursive: true });
	for (const [index, clip] of recorder.clips.entries()) {
		const packed = [1, 2, 3, 4].map((channel) => join(shipped, 'packed', `recorder-1_${index + 1}_${channel}.opus`));
		await unpackPoly(packed, join(building, clip.path), Math.round(clip.mediaSeconds * SAMPLE_RATE), clip.startSeconds);
	}
	await rename(building, target);
	return target;
}

/**
 * The same recordings as cards are copied in a hurry: all files in one folder, beside the sorted ones.
 * @param sorted folder of the demo shoot
 */
export async function installDemoHeap(sorted: string): Promise<string> {
	const target = join(dirname(sorted), HEAP_FOLDER_NAME);
	if (await exists(target)) return target;
	const building = `${target}.building-${process.pid}`;
	await rm(building, { recursive: true, force: true });
	await mkdir(building, { recursive: true });
	for (const folder of await readdir(sorted))
		for (const name of await readdir(join(sorted, folder)))
			// Links take no room; they are files like any other to whoever reads them.
			await link(join(sorted, folder, name), join(building, name)).catch(() =>
				copyFile(join(sorted, folder, name), join(building, name))
			);
	await rename(building, target);
	return target;
}

async function exists(path: string): Promise<boolean> {
	return stat(path).then(
		() => true,
		() => false
	);
}

async function unpackPoly(
	packed: readonly string[],
	path: string,
	samples: number,
	startSeconds: number
): Promise<void> {
	const header = broadcastWaveHeader({ sampleRate: SAMPLE_RATE, channels: packed.length, bitsPerSample: 16 }, samples, {
		description: 'Scene 1 take 1: the wooden ferry',
		originator: 'Boathouse recorder',
		date: '2026-05-09',
		time: '19:30:00',
		timeReferenceSamples: Math.round((EVENING_CLOCK_SECONDS + startSeconds) * SAMPLE_RATE),
		iXml: iXmlOfRecorder()
	});
	const join4 = packed
		.map(
			(_, index) =>
				`[${index}:a]aresample=48000,aformat=sample_fmts=s16:channel_layouts=mono,apad=whole_len=${samples},atrim=end_sample=${samples}[c${index}]`
		)
		.join(';');
	const graph = `${join4};${packed.map((_, index) => `[c${index}]`).join('')}amerge=inputs=${packed.length},aformat=sample_fmts=s16[out]`;
	const file = await open(path, 'wx');
	try {
		await file.write(header);
		const child = spawn(
			'ffmpeg',
			[
				'-v',
				'error',
				'-nostdin',
				...packed.flatMap((one) => ['-i', one]),
				'-filter_complex',
				graph,
				'-map',
				'[out]',
				'-f',
				's16le',
				'pipe:1'
			],
			{ stdio: ['ignore', 'pipe', 'inherit'] }
		);
		const ended = new Promise<number | null>((resolve, reject) => child.on('error', reject).on('close', resolve));
		for await (const block of child.stdout) await file.write(block as Buffer);
		if ((await ended) !== 0) throw new Error(`The demo's recorder file ${path} could not be unpacked.`);
	} finally {
		await file.close();
	}
}

function iXmlOfRecorder(): string {
	const names = [...PEOPLE.map((person) => person.name.split(' ')[0]!), 'Room'];
	const tracks = names
		.map(
			(name, index) =>
				`<TRACK><CHANNEL_INDEX>${index + 1}</CHANNEL_INDEX><INTERLEAVE_INDEX>${index + 1}</INTERLEAVE_INDEX><NAME>${name}</NAME></TRACK>`
		)
		.join('');
	return `<?xml version="1.0" encoding="UTF-8"?><BWFXML><IXML_VERSION>1.5</IXML_VERSION><PROJECT>${DEMO_SHOOT_NAME}</PROJECT><SCENE>1</SCENE><TAKE>001</TAKE><SPEED><TIMECODE_RATE>25/1</TIMECODE_RATE><TIMECODE_FLAG>NDF</TIMECODE_FLAG><FILE_SAMPLE_RATE>48000</FILE_SAMPLE_RATE></SPEED><TRACK_LIST><TRACK_COUNT>${names.length}</TRACK_COUNT>${tracks}</TRACK_LIST></BWFXML>`;
}
