import { access, mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import type { Database } from './database';

/** The database of a data folder is not what it should be; the message says how to go on. */
export class DatabaseFolderError extends Error {
	constructor(message: string, options?: ErrorOptions) {
		super(message, options);
		this.name = 'DatabaseFolderError';
	}
}

/** Kept, the newest; before a migration and once a day another one is made. */
const KEPT = 7;
export const DAY_MS = 86_400_000;
/** Written once a data folder has a database: where that is missing later, none is begun anew over what was there. */
const MARKER = 'open-choir.json';
const NAME = /^database \d{4}-\d\d-\d\d \d\d-\d\d-\d\d\.tar\.gz$/;

export const databaseFolder = (dataFolder: string) => join(dataFolder, 'database');
const backupFolder = (dataFolder: string) => join(dataFolder, 'backups');
const isThere = (path: string) =>
	access(path).then(
		() => true,
		() => false
	);
export const HOW_TO_GO_ON = 'Restore the newest backup with ./start --restore, or give another folder with --data DIR.';

/** @throws DatabaseFolderError a database was there and is gone, or something else stands in its place */
export async function checkDatabaseFolder(dataFolder: string): Promise<void> {
	const folder = databaseFolder(dataFolder);
	if (await isThere(join(folder, 'PG_VERSION'))) return;
	const names = await readdir(folder).catch(() => []);
	if (names.length > 0)
		throw new DatabaseFolderError(
			`The folder ${folder} holds no database of Open Choir, or a part of one. ${HOW_TO_GO_ON}`
		);
	if ((await isThere(join(dataFolder, MARKER))) || (await listBackups(dataFolder)).length > 0)
		throw new DatabaseFolderError(`The database of the data folder ${dataFolder} is missing. ${HOW_TO_GO_ON}`);
}

/** Notes that the folder has a database from now on. */
export async function markDataFolder(dataFolder: string): Promise<void> {
	const path = join(dataFolder, MARKER);
	if (await isThere(path)) return;
	const passing = `${path}.part`;
	await writeFile(passing, `${JSON.stringify({ format: 'open-choir.data', since: new Date().toISOString() })}\n`);
	await rename(passing, path);
}

/** Paths of the backups, the newest first. */
export async function listBackups(dataFolder: string): Promise<readonly string[]> {
	const names = await readdir(backupFolder(dataFolder)).catch(() => []);
	return names
		.filter((name) => NAME.test(name))
		.sort()
		.reverse()
		.map((name) => join(backupFolder(dataFolder), name));
}

/** Writes a backup, and removes those that are too many. @returns its path */
export async function backUp(database: Database, dataFolder: string): Promise<string> {
	await mkdir(backupFolder(dataFolder), { recursive: true });
	const stamp = new Date().toISOString().slice(0, 19).replace('T', ' ').replaceAll(':', '-');
	const path = join(backupFolder(dataFolder), `database ${stamp}.tar.gz`);
	const passing = `${path}.part`;
	try {
		await database.dump(passing);
		await rename(passing, path);
	} finally {
		await rm(passing, { force: true });
	}
	for (const old of (await listBackups(dataFolder)).slice(KEPT)) await rm(old, { force: true });
	return path;
}

/** Whether the newest backup is older than a day. */
export async function isBackUpDue(dataFolder: string, nowMs: number): Promise<boolean> {
	const [newest] = await listBackups(dataFolder);
	return newest === undefined || nowMs - (await stat(newest)).mtimeMs > DAY_MS;
}

/** A database folder that is about to be made, anew or from a backup. */
export interface FolderToMake {
	readonly backup?: Buffer;
	/** Makes it as if nothing had been begun: what was there before stands in its place again. */
	takeBack(): Promise<void>;
}

/** Whether a database must be made first; to be asked once the folder has been checked. @returns how to take it back when that fails; nothing where one is there */
export async function folderToMake(dataFolder: string): Promise<FolderToMake | undefined> {
	const folder = databaseFolder(dataFolder);
	if (await isThere(join(folder, 'PG_VERSION'))) return undefined;
	return { takeBack: () => rm(folder, { recursive: true, force: true }) };
}

/**
 * Takes what is there out of the way, so that a backup can be put in its place.
 * @param wanted a backup's path; nothing for the newest
 * @throws DatabaseFolderError there is no such backup
 */
export async function prepareRestore(dataFolder: string, wanted: string | undefined): Promise<FolderToMake> {
	const path = wanted === undefined ? (await listBackups(dataFolder))[0] : resolve(wanted);
	if (path === undefined)
		throw new DatabaseFolderError(`The data folder ${dataFolder} holds no backup that could be restored.`);
	const bytes = await readFile(path).catch((error: unknown) => {
		throw new DatabaseFolderError(`The backup ${path} cannot be read. Give another one with --restore FILE.`, {
			cause: error
		});
	});
	const folder = databaseFolder(dataFolder);
	// Nothing is thrown away: what was there may be wanted after all.
	const aside = `${folder} replaced ${Date.now()}`;
	const wasThere = await isThere(folder);
	if (wasThere) await rename(folder, aside);
	return {
		backup: bytes,
		async takeBack() {
			await rm(folder, { recursive: true, force: true });
			if (wasThere) await rename(aside, folder);
		}
	};
}
