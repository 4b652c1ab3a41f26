import { closeSync, constants, fstatSync, openSync, readlinkSync } from 'node:fs';
import { type FileHandle, open, readlink } from 'node:fs/promises';
import { MediaError } from './media-error';

/** A pipe under the name of a recording must not keep us waiting. */
const FLAGS = constants.O_RDONLY | constants.O_NONBLOCK;

/**
 * Opens a recording to be read, and checks where the handle leads: its true path was found to lie in an allowed folder, and
 * a link or a folder put in its place since then may lead anywhere.
 * @param path its true path, links resolved
 * @throws MediaError it leads elsewhere, or is no file; what opening throws
 */
export async function openOriginal(path: string): Promise<FileHandle> {
	const file = await open(path, FLAGS);
	try {
		const leadsTo = await readlink(handlePath(file.fd));
		assertOriginal(path, leadsTo, (await file.stat()).isFile());
		return file;
	} catch (error) {
		await file.close();
		throw error;
	}
}

/** As `openOriginal`, for worker threads. @returns the descriptor */
export function openOriginalSync(path: string): number {
	const file = openSync(path, FLAGS);
	try {
		assertOriginal(path, readlinkSync(handlePath(file)), fstatSync(file).isFile());
		return file;
	} catch (error) {
		closeSync(file);
		throw error;
	}
}

/** Where an open file of this process is found (Linux): it leads to the file itself, whatever its path leads to now. */
export function handlePath(descriptor: number): string {
	return `/proc/self/fd/${descriptor}`;
}

function assertOriginal(path: string, leadsTo: string, isFile: boolean): void {
	if (!isFile) throw new MediaError('unreadable', 'It is no file any more. Look again for new files.');
	if (leadsTo !== path)
		throw new MediaError(
			'unreadable',
			'A link or another folder was put in its place since it was found. Look again for new files.'
		);
}
