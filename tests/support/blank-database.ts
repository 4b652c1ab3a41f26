import { access, cp, mkdir, mkdtemp, readFile, rename, rm } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { openDatabase } from '../../src/lib/server/db/database';

const ROOT = resolve(import.meta.dirname, '../..');

/**
 * Lays a database without any table into a folder. To make one takes seconds of both processors, to copy one next to nothing:
 * it is made once for each version of PGlite and kept in `.cache`.
 */
export async function layBlankDatabase(folder: string): Promise<void> {
	await cp(await blankDatabase(), folder, { recursive: true });
}

async function blankDatabase(): Promise<string> {
	const manifest = await readFile(join(ROOT, 'node_modules/@electric-sql/pglite/package.json'), 'utf8');
	const { version } = JSON.parse(manifest) as { version: string };
	const kept = join(ROOT, '.cache', `blank-database-${version}`);
	const isThere = () =>
		access(kept).then(
			() => true,
			() => false
		);
	if (await isThere()) return kept;
	await mkdir(join(ROOT, '.cache'), { recursive: true });
	const making = await mkdtemp(join(ROOT, '.cache', 'making-'));
	const database = openDatabase(join(making, 'database'));
	await database.query('select 1');
	await database.close();
	// Somebody else may have been faster: theirs is as good.
	await rename(join(making, 'database'), kept).catch(async (error: unknown) => {
		if (!(await isThere())) throw error;
	});
	await rm(making, { recursive: true, force: true });
	return kept;
}
