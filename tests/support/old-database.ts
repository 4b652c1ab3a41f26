import { readdir, readFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { gunzipSync } from 'node:zlib';
import type { Database } from '../../src/lib/server/db/database';
import { migrate } from '../../src/lib/server/db/migrate';

const FIXTURES = resolve(import.meta.dirname, '../fixtures');
const MIGRATIONS = resolve(import.meta.dirname, '../../src/lib/server/db/migrations');

export async function fixture<Content>(name: string): Promise<Content> {
	return JSON.parse(gunzipSync(await readFile(join(FIXTURES, name))).toString()) as Content;
}

/** Puts the rows of a database of migration 005 in, as that version had written them. */
export async function fillOldDatabase(database: Database): Promise<void> {
	const names = (await readdir(MIGRATIONS)).filter((name) => name < '006');
	const files = Object.fromEntries(
		await Promise.all(names.map(async (name) => [name, await readFile(join(MIGRATIONS, name), 'utf8')] as const))
	);
	await migrate(database, files);
	const tables = await fixture<Record<string, Record<string, unknown>[]>>('database-005.json.gz');
	for (const [table, rows] of Object.entries(tables)) {
		if (rows.length === 0) continue;
		const identity = table === 'edit' || table === 'edit_change' ? 'overriding system value' : '';
		await database.query(
			`insert into ${table} ${identity} select * from jsonb_populate_recordset(null::${table}, $1)`,
			[JSON.stringify(rows)]
		);
		if (identity)
			await database.query(`select setval(pg_get_serial_sequence('${table}', 'id'), (select max(id) from ${table}))`);
	}
}
