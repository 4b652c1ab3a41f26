import { readdir } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { comparePaths } from '../../core/devices/compare-paths';

/** A file found below a folder. */
export interface FoundFile {
	/** Full path. */
	readonly path: string;
	/** Path below the folder, with forward slashes. */
	readonly relativePath: string;
	/** First folder of the relative path; for a file that lies at the top, its own name without the ending. */
	readonly device: string;
}

const MOST_DEPTH = 12;
/** Left behind by operating systems; nobody misses them. */
const SYSTEM_FILES = new Set(['thumbs.db', 'desktop.ini']);

/**
 * All files below a folder, in order of their names. Hidden files and what operating systems leave behind are passed
 * over; symbolic links are not followed, so that nothing outside the folder is reached.
 */
export async function scanFolder(folder: string): Promise<readonly FoundFile[]> {
	const found: FoundFile[] = [];
	async function walk(at: string, depth: number): Promise<void> {
		for (const entry of await readdir(at, { withFileTypes: true })) {
			if (entry.name.startsWith('.') || SYSTEM_FILES.has(entry.name.toLowerCase())) continue;
			const path = join(at, entry.name);
			if (entry.isDirectory() && depth < MOST_DEPTH) await walk(path, depth + 1);
			else if (entry.isFile()) found.push(describe(folder, path));
		}
	}
	await walk(folder, 0);
	return found.sort((a, b) => comparePaths(a.relativePath, b.relativePath));
}

function describe(folder: string, path: string): FoundFile {
	const relativePath = relative(folder, path).split(sep).join('/');
	const [first, ...rest] = relativePath.split('/');
	return { path, relativePath, device: rest.length > 0 ? first! : first!.replace(/\.[^.]+$/, '') };
}
