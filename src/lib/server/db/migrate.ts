import { DatabaseFolderError } from './backups';
import type { Database } from './database';

/** Migrations by file name, as plain SQL; Vite puts the files' text here, so that the build carries them along. */
function builtInFiles(): Readonly<Record<string, string>> {
	return import.meta.glob<string>('./migrations/*.sql', { query: '?raw', import: 'default', eager: true });
}

/**
 * Brings the database to the newest form: numbered files, each once, each in one transaction.
 * @param files text by name; the built-in ones unless given
 * @param beforehand is called before a database that holds something is changed
 * @throws DatabaseFolderError a newer version has changed it
 */
export async function migrate(
	database: Database,
	files: Readonly<Record<string, string>> = builtInFiles(),
	beforehand: () => Promise<unknown> = () => Promise.resolve()
): Promise<void> {
	await database.script(
		'create table if not exists migration (name text primary key, applied_at timestamptz not null default now())'
	);
	const applied = new Set(
		(await database.query<{ name: string }>('select name from migration')).map((row) => row.name)
	);
	const known = new Set(Object.keys(files).map((path) => path.split('/').at(-1)!));
	if ([...applied].some((name) => !known.has(name)))
		throw new DatabaseFolderError(
			'The database was written by a newer Open Choir. Start that one, or give another folder with --data DIR.'
		);
	const isBehind = Object.keys(files).some((path) => !applied.has(path.split('/').at(-1)!));
	if (isBehind && applied.size > 0) await beforehand();
	for (const [path, sql] of Object.entries(files).sort(([a], [b]) => a.localeCompare(b))) {
		const name = path.split('/').at(-1)!;
		if (applied.has(name)) continue;
		await database
			.script(`begin;\n${sql}\n;insert into migration (name) values ('${name.replaceAll("'", "''")}');\ncommit;`)
			.catch(async (error: unknown) => {
				await database.script('rollback');
				throw error;
			});
	}
}
