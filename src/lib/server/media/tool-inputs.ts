import { type FileHandle, mkdtemp, readdir, rm, stat, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { handlePath, openOriginal } from './original-file';

/** An argument of a media tool; a recording is opened by us and handed on as an open file. */
export type ToolArgument = string | { readonly original: string };

/**
 * Containers that are read: those of cameras and recorders, by ffmpeg's names. Others are refused even where ffmpeg
 * could read them: it takes plain text for a picture, and playlists lead to other files.
 */
const CONTAINERS = [
	...['mov', 'mp4', 'matroska', 'webm', 'mpegts', 'mpeg', 'mpegvideo', 'avi', 'mxf', 'asf', 'dv', 'flv'],
	...['wav', 'w64', 'aiff', 'caf', 'au', 'mp3', 'aac', 'flac', 'ogg', 'ac3', 'eac3', 'dts', 'amr', 'ape', 'wv', 'tta']
].join(',');

/** Arguments that name a local file and nothing else: no network, no playlist that leads elsewhere. */
const LOCAL_ONLY = ['-protocol_whitelist', 'file,pipe', '-format_whitelist', CONTAINERS, '-i'] as const;

/** A recording, which must still lie where it was found. */
export function originalInput(path: string): readonly ToolArgument[] {
	return [...LOCAL_ONLY, { original: path }];
}

/** A file that we have made. */
export function localInput(path: string): readonly string[] {
	return [...LOCAL_ONLY, `file:${path}`];
}

/** What a tool is started with. */
export interface OpenedArguments {
	readonly args: readonly string[];
	/** Handed on as descriptors from `FIRST_DESCRIPTOR` on. */
	readonly descriptors: readonly number[];
	/** A message of the tool with the names of the files in place of ours. */
	named(message: string): string;
	close(): Promise<void>;
}

const PREFIX = 'open-choir-inputs-';
/** No tool waits so long before it opens what it reads. */
const LEFT_BEHIND_MS = 3_600_000;

/** Behind standard input, output and errors. */
const FIRST_DESCRIPTOR = 3;

/**
 * Opens the recordings among a tool's arguments. The tool gets links to its own descriptors, with the endings of the files'
 * names: they help it to tell what it reads.
 * @throws MediaError one of them leads elsewhere than when it was found; what opening throws
 */
export async function openArguments(args: readonly ToolArgument[]): Promise<OpenedArguments> {
	const handles: FileHandle[] = [];
	const names = new Map<string, string>();
	let folder: string | undefined;
	const close = async () => {
		await Promise.all(handles.map((handle) => handle.close()));
		if (folder) await rm(folder, { recursive: true, force: true });
	};
	try {
		const opened: string[] = [];
		for (const arg of args) {
			if (typeof arg === 'string') {
				opened.push(arg);
				continue;
			}
			folder ??= await mkdtemp(join(tmpdir(), PREFIX));
			const descriptor = FIRST_DESCRIPTOR + handles.length;
			handles.push(await openOriginal(arg.original));
			const link = join(folder, `${descriptor}${safeEnding(arg.original)}`);
			await symlink(handlePath(descriptor), link);
			names.set(link, basename(arg.original));
			opened.push(`file:${link}`);
		}
		return {
			args: opened,
			descriptors: handles.map((handle) => handle.fd),
			named: (message) =>
				[...names].reduce(
					(text, [link, name]) => text.replaceAll(`file:${link}`, name).replaceAll(link, name),
					message
				),
			close
		};
	} catch (error) {
		await close();
		throw error;
	}
}

function safeEnding(path: string): string {
	return /\.\w{1,8}$/.exec(path)?.[0] ?? '';
}

/** Removes what processes that were killed have left behind. */
export async function sweepInputs(): Promise<void> {
	const names = (await readdir(tmpdir()).catch(() => [])).filter((name) => name.startsWith(PREFIX));
	for (const name of names) {
		const path = join(tmpdir(), name);
		const { mtimeMs } = await stat(path).catch(() => ({ mtimeMs: Infinity }));
		// Another user's is not ours to remove.
		if (Date.now() - mtimeMs > LEFT_BEHIND_MS) await rm(path, { recursive: true, force: true }).catch(() => undefined);
	}
}
