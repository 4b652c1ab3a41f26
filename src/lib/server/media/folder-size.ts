import pMap from 'p-map';
import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';

export interface SizedFile {
	readonly path: string;
	readonly name: string;
	readonly bytes: number;
	readonly modifiedMs: number;
}

/** All files below a folder with their sizes; nothing for a folder that is not there. */
export async function filesBelow(folder: string): Promise<readonly SizedFile[]> {
	const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => []);
	const files = entries.filter((entry) => entry.isFile());
	return pMap(
		files,
		async ({ parentPath, name }) => {
			const path = join(parentPath, name);
			// It may have gone meanwhile.
			const { size, mtimeMs } = await stat(path).catch(() => ({ size: 0, mtimeMs: 0 }));
			return { path, name, bytes: size, modifiedMs: mtimeMs };
		},
		{ concurrency: 16 }
	);
}

export function totalBytes(files: readonly SizedFile[]): number {
	return files.reduce((sum, file) => sum + file.bytes, 0);
}
