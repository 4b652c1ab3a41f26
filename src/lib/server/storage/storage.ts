import { rm, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import type { StorageUse } from '../../contract/views';
import type { MediaFacts } from '../../core/gather/media-facts';
import { filesBelow, totalBytes } from '../media/folder-size';
import { needsCopy } from '../media/listening/listening-format';
import { soundKeyOf } from '../media/sound-inputs';
import type { Runtime } from '../runtime';
import { uploadsFolder } from '../uploads/upload-folder';

const DEFAULT_LIMIT_BYTES = 100e9;
/** What is missed least: the engine reads the one for speed only; the others are made again where somebody looks. */
const MISSED_LEAST = [/\.analysis\.s16$/, /\.piece-\d+-\d+\.mp4$/];

type StorageContext = Pick<Runtime, 'settings' | 'database'>;

function cacheFolder({ settings }: StorageContext): string {
	return join(settings.dataFolder, 'cache');
}

export async function storage(context: StorageContext): Promise<StorageUse> {
	const { dataFolder } = context.settings;
	const files = await filesBelow(cacheFolder(context));
	const isUsed = await usedFiles(context);
	const { bavail, bsize } = await statfs(dataFolder);
	return {
		cacheBytes: totalBytes(files),
		unusedBytes: totalBytes(files.filter((file) => !isUsed(file.name))),
		limitBytes: await limit(context),
		uploadBytes: totalBytes(await filesBelow(uploadsFolder(dataFolder))),
		handOffBytes: totalBytes(await filesBelow(join(dataFolder, 'hand-offs'))),
		freeBytes: bavail * bsize
	};
}

export async function setLimit({ database }: StorageContext, limitBytes: number): Promise<void> {
	await database.query(
		`insert into setting (name, value) values ('cache-limit-bytes', $1) on conflict (name) do update set value = excluded.value`,
		[JSON.stringify(limitBytes)]
	);
}

/**
 * Removes what no shoot uses, and, where the caches are still above their limit, what is missed least.
 * Nothing that an editor made is touched.
 * @returns bytes that were freed
 */
export async function cleanUp(context: StorageContext): Promise<number> {
	const files = await filesBelow(cacheFolder(context));
	const isUsed = await usedFiles(context);
	const most = await limit(context);
	let left = totalBytes(files);
	let freed = 0;
	const unused = files.filter((file) => !isUsed(file.name) && !file.name.includes('.part-'));
	const spare = MISSED_LEAST.flatMap((kind) =>
		files.filter((file) => isUsed(file.name) && kind.test(file.name)).sort((a, b) => a.modifiedMs - b.modifiedMs)
	);
	for (const [index, file] of [...unused, ...spare].entries()) {
		if (index >= unused.length && left <= most) break;
		await rm(file.path, { force: true });
		left -= file.bytes;
		freed += file.bytes;
	}
	return freed;
}

/** Keeps the caches below their limit, as far as what can be missed goes. */
export async function keepBelowLimit(context: StorageContext): Promise<void> {
	if (totalBytes(await filesBelow(cacheFolder(context))) > (await limit(context))) await cleanUp(context);
}

async function limit({ database }: StorageContext): Promise<number> {
	const [row] = await database.query<{ value: number }>(`select value from setting where name = 'cache-limit-bytes'`);
	return row?.value ?? DEFAULT_LIMIT_BYTES;
}

/** Whether a file of the caches is of any use, by its name, which begins with what it was made of. */
async function usedFiles({ database }: StorageContext): Promise<(name: string) => boolean> {
	const rows = await database.query<{ identity: string; facts: MediaFacts | null }>(
		'select distinct identity, facts from media_file where identity is not null'
	);
	const used = new Set<string>();
	const copied = new Set<string>();
	for (const { identity, facts } of rows) {
		used.add(identity);
		if (!facts) continue;
		used.add(soundKeyOf(identity, facts));
		if (needsCopy(facts)) copied.add(soundKeyOf(identity, facts));
	}
	return (name) => {
		const key = name.slice(0, 32);
		// An older version copied every sound.
		return LISTENING_COPY.test(name) ? copied.has(key) : used.has(key);
	};
}

const LISTENING_COPY = /\.listening\.s\d+$/;
