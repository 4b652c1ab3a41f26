import { open, rm } from 'node:fs/promises';
import { join } from 'node:path';

/** What keeps a disk from taking what is written, or from giving what was. */
export interface DiskFault {
	readonly code: 'disk-full' | 'disk-read-only' | 'disk-fault';
	/** What happened, and what to do. */
	readonly message: string;
}

/**
 * By the codes of the system and of PostgreSQL, and by the system's words, which ffmpeg passes on. "Input/output error" is none of
 * them: ffmpeg says it of damaged recordings as well.
 */
const FAULTS: readonly (DiskFault & { readonly codes: readonly string[]; readonly words?: RegExp })[] = [
	{
		code: 'disk-full',
		codes: ['ENOSPC', 'EDQUOT', '53100'],
		words: /No space left on device|Disk quota exceeded|Cannot allocate space/i,
		message: 'The disk is full. Make room on it, then try again; nothing that was there is lost.'
	},
	{
		code: 'disk-read-only',
		codes: ['EROFS'],
		words: /Read-only file system/i,
		message: 'The data folder lies on a disk that may only be read. Make it writable, then try again.'
	},
	{
		code: 'disk-fault',
		codes: ['EIO', '58030'],
		message: 'The disk does not answer as it should. Check its cable and its health, then try again.'
	}
];

/** The fault of a disk that stands behind an error, whoever has reported it; nothing for other errors. */
export function diskFault(error: unknown): DiskFault | undefined {
	for (let one = error, depth = 0; one instanceof Error && depth < 8; one = one.cause, depth++) {
		const { code } = one as NodeJS.ErrnoException;
		const { message } = one;
		const fault = FAULTS.find(
			({ codes, words }) => (code !== undefined && codes.includes(code)) || words?.test(message) === true
		);
		if (fault) return { code: fault.code, message: fault.message };
	}
	return undefined;
}

/** Whether nothing more can be written: what comes next would fail as well. */
export function isNothingWritable(error: unknown): boolean {
	const code = diskFault(error)?.code;
	return code === 'disk-full' || code === 'disk-read-only';
}

/** More than a database needs to open. */
const TRIAL_BYTES = 2 ** 20;

/** Why nothing can be written into a folder. @returns nothing when it can */
export async function whyNotWritable(folder: string): Promise<string | undefined> {
	const path = join(folder, `.trial-${process.pid}`);
	try {
		const file = await open(path, 'w');
		try {
			await file.write(Buffer.alloc(TRIAL_BYTES));
			await file.sync();
		} finally {
			await file.close();
		}
		return undefined;
	} catch (error) {
		return diskFault(error)?.message ?? 'This user may not write to it.';
	} finally {
		await rm(path, { force: true }).catch(() => undefined);
	}
}
