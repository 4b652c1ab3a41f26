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
	readonly roots: readonly string[];
	/**
	 * The true path (links resolved) of something below an allowed folder.
	 * @throws AccessError it lies outside, or is not there
	 */
	resolve(path: string): Promise<string>;
	/** Folders directly below an allowed one. */
	foldersIn(path: string): Promise<readonly string[]>;
}

/**
 * @param folders that exist; links among them are resolved once
 * @param further ones that may be read but are not offered
 */
export async function allowFolders(
	folders: readonly string[],
	further: readonly string[] = []
): Promise<AllowedFolders> {
	const roots: string[] = [];
	for (const folder of [...folders, ...further]) {
		const real = await realpath(resolve(folder)).catch(() => {
			throw new AccessError('missing', `The media folder ${folder} is not there.`);
		});
		if (!roots.includes(real)) roots.push(real);
	}
	const offered = roots.slice(0, roots.length - further.length);
	const allowed: AllowedFolders = {
		roots: offered,
		async resolve(path) {
			if (!isAbsolute(path) || path.includes('\0')) throw new AccessError('outside', 'A full path is needed.');
			// Asked for outside: nothing is told of what is there.
			if (!isBelow(resolve(path), roots)) throw outside();
			const real = await realpath(path).catch(() => {
				throw new AccessError('missing', `${path} is not there.`);
			});
			if (!isBelow(real, roots)) throw outside();
			return real;
		},
		async foldersIn(path) {
			const real = await allowed.resolve(path);
			const entries = await readdir(real, { withFileTypes: true }).catch(() => []);
			return entries
				.filter((entry) => entry.isDirectory() && !entry.name.startsWith('.'))
				.map((entry) => join(real, entry.name))
				.sort(comparePaths);
		}
	};
	return allowed;
}

function outside(): AccessError {
	return new AccessError(
		'outside',
		'That lies outside the folders Open Choir may read. Start it with --media DIR to allow another one.'
	);
}

function isBelow(path: string, roots: readonly string[]): boolean {
	return roots.some((root) => path === root || path.startsWith(root.endsWith(sep) ? root : root + sep));
}
