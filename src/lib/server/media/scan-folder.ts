import { readdir, realpath, stat } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { comparePaths } from '../../core/gather/compare-paths';

/** A file found below a folder. */
export interface FoundFile {
	/** Full path; of what a symbolic link leads to, its true one. */
	readonly path: string;
	/** Path below the folder, with forward slashes. */
	readonly relativePath: string;
	/** First folder of the relative path; for a file that lies at the top, its own name without the ending. */
	readonly device: string;
	/** Why it cannot be reached. */
	readonly reason?: string;
}

/** Tells the true path of something that may be read. @throws Error with the reason in words */
export type ResolveLink = (path: string) => Promise<string>;

const MAX_DEPTH = 12;
/** Left behind by operating systems; nobody misses them. */
const SYSTEM_FILES = new Set(['thumbs.db', 'desktop.ini']);

/**
 * All files below a folder, in order of their names. Hidden files and what operating systems leave behind are passed
 * over. Symbolic links are followed as far as `resolveLink` allows; what they may not reach is told with its reason.
 */
export async function scanFolder(
	folder: string,
	resolveLink: ResolveLink = (path) => realpath(path)
): Promise<readonly FoundFile[]> {
	const found: FoundFile[] = [];
	const root = await realpath(folder);
	const seen = new Set<string>([root]);
	const links: { readonly path: string; readonly depth: number }[] = [];
	async function walk(at: string, shownAt: string, depth: number): Promise<void> {
		for (const entry of await readdir(at, { withFileTypes: true })) {
			if (entry.name.startsWith('.') || SYSTEM_FILES.has(entry.name.toLowerCase())) continue;
			const [path, shown] = [join(at, entry.name), join(shownAt, entry.name)];
			if (entry.isDirectory() && depth < MAX_DEPTH) {
				seen.add(path);
				await walk(path, shown, depth + 1);
			} else if (entry.isFile()) found.push(describe(folder, path, shown));
			else if (entry.isSymbolicLink()) links.push({ path: shown, depth });
		}
	}
	async function follow(link: string, depth: number): Promise<void> {
		try {
			const real = await resolveLink(link);
			const entry = await stat(real);
			if (entry.isFile()) found.push(describe(folder, real, link));
			// Links in a circle, or to what is listed anyway.
			if (!entry.isDirectory() || seen.has(real) || depth >= MAX_DEPTH) return;
			seen.add(real);
			await walk(real, link, depth + 1);
		} catch (error) {
			const words = (error as NodeJS.ErrnoException).code === 'ENOENT' ? 'It leads nowhere.' : (error as Error).message;
			found.push({ ...describe(folder, link, link), reason: `A link that cannot be followed. ${words}` });
		}
	}
	await walk(root, folder, 0);
	// What is really there comes first: it keeps its own name.
	for (let link = links.shift(); link; link = links.shift()) await follow(link.path, link.depth);
	const byPath = new Map<string, FoundFile>();
	for (const file of found) if (!byPath.has(file.path)) byPath.set(file.path, file);
	return [...byPath.values()].sort((a, b) => comparePaths(a.relativePath, b.relativePath));
}

function describe(folder: string, path: string, shown: string): FoundFile {
	const relativePath = relative(folder, shown).split(sep).join('/');
	const [first, ...rest] = relativePath.split('/');
	return { path, relativePath, device: rest.length > 0 ? first! : first!.replace(/\.[^.]+$/, '') };
}
