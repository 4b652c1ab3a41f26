import { digestOf } from '../media/file-digest';
import { link, mkdir, rm, stat, utimes } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { numbered } from './safe-path';
import { type UploadContext, uploadFolder } from './upload-folder';

export interface ArrivedFile {
	readonly shootId: string;
	/** Safe, with forward slashes. */
	readonly relativePath: string;
	/** Where it lies whole, on the same disk. */
	readonly part: string;
	readonly lastModified?: number;
}

/** Puts a file that has arrived in its place and has it read. A file that is there already, byte by byte, is not kept twice. */
export async function landFile(runtime: UploadContext, file: ArrivedFile): Promise<void> {
	const folder = uploadFolder(runtime.settings.dataFolder, file.shootId);
	await mkdir(folder, { recursive: true });
	const { lastModified, part } = file;
	// Its own date may be all that tells when it was recorded.
	if (lastModified !== undefined) await utimes(part, lastModified / 1000, lastModified / 1000);
	await putInPlace(part, folder, file.relativePath);
	await rm(part, { force: true });
	await readSoon(runtime, file.shootId);
}

/**
 * Gives a whole file its place below a folder, beside what has its name already.
 * @param relativePath safe, with forward slashes
 * @returns where it lies now; the file that is there already, where that is equal
 */
export async function putInPlace(part: string, folder: string, relativePath: string): Promise<string> {
	let below = folder;
	const digest = once(() => digestOf(part));
	for (let count = 1; ; count++) {
		const target = join(below, count === 1 ? relativePath : numbered(relativePath, count));
		try {
			await mkdir(dirname(target), { recursive: true });
			// A link fails where the name is taken, however close another upload is; the file appears whole.
			await link(part, target);
			return target;
		} catch (error) {
			const { code } = error as NodeJS.ErrnoException;
			// A file lies where its folder would have to be.
			if (code === 'ENOTDIR' || (code === 'EEXIST' && !(await isFolder(dirname(target))))) {
				below = join(folder, `beside ${count}`);
				continue;
			}
			if (code !== 'EEXIST') throw error;
		}
		if (await isEqual(target, part, digest)) return target;
	}
}

async function isFolder(path: string): Promise<boolean> {
	return stat(path).then(
		(entry) => entry.isDirectory(),
		() => false
	);
}

/** @param digest of the part; asked for only where both are of one size */
async function isEqual(there: string, part: string, digest: () => Promise<string>): Promise<boolean> {
	const [one, other] = await Promise.all([stat(there), stat(part)]);
	return one.isFile() && one.size === other.size && (await digestOf(there)) === (await digest());
}

function once<Result>(work: () => Promise<Result>): () => Promise<Result> {
	let result: Promise<Result> | undefined;
	return () => (result ??= work());
}

/** Has the shoot's files read, unless that is about to be done. */
export async function readSoon(runtime: UploadContext, shootId: string): Promise<void> {
	const folder = uploadFolder(runtime.settings.dataFolder, shootId);
	await runtime.database.query(
		`insert into source (shoot_id, path, kind, position) values ($1, $2, 'upload', (select count(*)::int from source where shoot_id = $1)) on conflict do nothing`,
		[shootId, folder]
	);
	const jobs = await runtime.queue.list(shootId);
	if (jobs.some((job) => job.kind === 'gather' && job.state === 'waiting')) return;
	await runtime.queue.add(shootId, 'gather', {});
}
