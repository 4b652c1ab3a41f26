import { readdir, realpath } from 'node:fs/promises';
import { isAbsolute, join, resolve, sep } from 'node:path';
import { comparePaths } from '../../core/gather/compare-paths';

/** A path that may not be reached, or is not there. */
export class AccessError extends Error {
	constructor(
		readonly kind: 'outside' | 'missing',
		message: string
	) {
		super(message);
		this.name = 'AccessError';
	}
}

/** The folders that may be read, and nothing outside them. */
export interface AllowedFolders {
	/** Folders to begin with: those that are there now. */
	offered(): Promise<readonly string[]>;
	/**
	 * The true path (links resolved) of something below an allowed folder.
	 * @throws AccessError it lies outside, or is not there
	 */
	resolve(path: string): Promise<string>;
	/** Folders directly below an allowed one. */
	foldersIn(path: string): Promise<readonly string[]>;
}

export interface FoldersToAllow {
	/** They must exist; links among them are resolved once. */
	readonly folders: readonly string[];
	/** May be read but are not offered; they must exist. */
	readonly further?: readonly string[];
	/** May be read where they exist. */
	readonly usual?: readonly string[];
	/** What appears in these may be read: cards and drives, as they are plugged in. */
	readonly mounts?: readonly string[];
}

/** @throws AccessError a folder that must exist is not there */
export async function allowFolders({
	folders,
	further = [],
	usual = [],
	mounts = []
}: FoldersToAllow): Promise<AllowedFolders> {
	const given = await Promise.all(folders.map(mustExist));
	const known = (await Promise.all(usual.map((folder) => realpath(folder).catch(() => undefined)))).filter(
		(folder): folder is string => folder !== undefined
	);
	const offered = [...new Set([...given, ...known])];
	const roots = [...offered, ...(await Promise.all(further.map(mustExist)))];
	const isAllowed = (path: string) => isBelow(path, roots) || mounts.some((mount) => isInside(path, mount));
	const allowed: AllowedFolders = {
		async offered() {
			const plugged = await Promise.all(mounts.map(foldersOf));
			return [...offered, ...plugged.flat()];
		},
		async resolve(path) {
			if (!isAbsolute(path) || path.includes('\0')) throw new AccessError('outside', 'A full path is needed.');
			// Asked for outside: nothing is told of what is there.
			if (!isAllowed(resolve(path))) throw outside();
			const real = await realpath(path).catch(() => {
				throw new AccessError('missing', `${path} is not there.`);
			});
			if (!isAllowed(real)) throw outside();
			return real;
		},
		foldersIn: async (path) => foldersOf(await allowed.resolve(path))
	};
	return allowed;
}

async function mustExist(folder: string): Promise<string> {
	return realpath(resolve(folder)).catch(() => {
		throw new AccessError('missing', `The media folder ${folder} is not there.`);
	});
}

/** Folders directly below one; none where it is not there, or may not be read. */
async function foldersOf(folder: string): Promise<readonly string[]> {
	const entries = await readdir(folder, { withFileTypes: true }).catch(() => []);
	return entries
		.filter((entry) => entry.isDirectory() && !entry.name.startsWith('.'))
		.map((entry) => join(folder, entry.name))
		.sort(comparePaths);
}

function outside(): AccessError {
	return new AccessError(
		'outside',
		'That lies outside the folders Open Choir may read. Start it with --media DIR to allow another one.'
	);
}

function isBelow(path: string, roots: readonly string[]): boolean {
	return roots.some((root) => path === root || isInside(path, root));
}

function isInside(path: string, folder: string): boolean {
	return path.startsWith(folder.endsWith(sep) ? folder : folder + sep);
}
