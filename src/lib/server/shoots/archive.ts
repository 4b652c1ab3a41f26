import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import { z } from 'zod';
import type { MediaFacts } from '../../core/gather/media-facts';
import type { AllowedFolders } from '../access/allowed-folders';
import { DatabaseError, type Queryable } from '../db/database';
import { rowsOfShoot, type TableEntry, TABLES } from '../db/tables';
import type { Runtime } from '../runtime';
import { checkArchive, readTableShapes } from './archive-check';
import { unpackJson } from './archive-unpack';
import { upgradeArchive } from './archive-versions';
import { ShootError } from './shoot-error';

/** Tables of an archive, each after those it refers to: those of the shoot, and the history of its edits. */
const ARCHIVED: readonly TableEntry[] = TABLES.filter((table) => table.isArchived);

const Row = z.record(z.string(), z.unknown());
const Rows = z.array(Row).max(1_000_000);
const Archive = z.object({
	format: z.literal('open-choir.shoot', 'This file is no archive of a shoot.'),
	version: z.literal([1, 2, 3, 4, 5, 6, 7], 'This archive was written by a newer Open Choir.'),
	tables: z.record(z.string(), Rows)
});
export type Archive = z.infer<typeof Archive>;

const UUID = /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}/g;
/** Where a file is said to lie that may not be reached here. */
const NOWHERE = '/missing';

/** All that is decided about a shoot, without its media, as one compressed file. @throws ShootError there is none */
export async function archiveShoot(database: Queryable, shootId: string): Promise<Buffer> {
	return promisify(gzip)(JSON.stringify(await dump(database, shootId)));
}

/**
 * Makes a shoot of an archive, here or on another machine. Its files count as missing until they are found.
 * @throws ZodError, ShootError it is no archive
 */
export async function restoreShoot(
	runtime: Pick<Runtime, 'database' | 'folders' | 'queue'>,
	bytes: Uint8Array
): Promise<string> {
	const archive = await readArchive(bytes);
	checkArchive(archive.tables, await readTableShapes(runtime.database));
	const shootId = await insert(runtime, { ...archive, tables: await asStranger(runtime.folders, archive.tables) });
	await runtime.queue.add(shootId, 'gather', {});
	return shootId;
}

/** A second shoot with all that is decided about the first; the files are the same. */
export async function duplicateShoot(runtime: Pick<Runtime, 'database'>, shootId: string): Promise<string> {
	const archive = await dump(runtime.database, shootId);
	const shoot = archive.tables['shoot']![0]!;
	const name = `${String(shoot['name'])} (copy)`.slice(0, 100);
	return insert(runtime, {
		...archive,
		tables: { ...archive.tables, shoot: [{ ...shoot, name, is_demo: false, deleted_at: null }] }
	});
}

async function dump(database: Queryable, shootId: string): Promise<Archive> {
	const tables: Record<string, Record<string, unknown>[]> = {};
	const conditions = [
		...ARCHIVED.map((table) => [table.name, rowsOfShoot(table)] as const),
		['edit', 'shoot_id = $1'] as const,
		['edit_change', 'edit_id in (select id from edit where shoot_id = $1)'] as const
	];
	for (const [table, condition] of conditions) {
		const rows = await database.query<{ row: Record<string, unknown> }>(
			`select to_jsonb(${table}) as row from ${table} where ${condition}`,
			[shootId]
		);
		tables[table] = rows.map(({ row }) => row);
	}
	if (tables['shoot']!.length === 0) throw new ShootError('no-such-shoot', 'There is no such shoot.');
	return { format: 'open-choir.shoot', version: 7, tables };
}

async function readArchive(bytes: Uint8Array): Promise<Archive> {
	try {
		return upgradeArchive(Archive.parse(await unpackJson(bytes)));
	} catch (error) {
		if (error instanceof z.ZodError || error instanceof ShootError) throw error;
		throw new ShootError('not-an-archive', 'This file is no archive of a shoot, or it is damaged.', { cause: error });
	}
}

/** Tables of which no path is believed, be it now or in the history, and no file is taken for what it was. */
async function asStranger(folders: AllowedFolders, tables: Archive['tables']): Promise<Archive['tables']> {
	const sources = await reachable(folders, tables['source'] ?? []);
	const kept = new Set(sources.map((row) => row['id']));
	const asFile = async (row: z.infer<typeof Row>) => ({
		...(await asMissing(folders, row)),
		source_id: kept.has(row['source_id']) ? row['source_id'] : null
	});
	const asSide = (side: unknown) => (side === null ? null : asFile(side as z.infer<typeof Row>));
	const files = await Promise.all((tables['media_file'] ?? []).map(asFile));
	const changes = await Promise.all(
		(tables['edit_change'] ?? []).map(async (row) =>
			row['table_name'] === 'media_file'
				? { ...row, before: await asSide(row['before']), after: await asSide(row['after']) }
				: row
		)
	);
	const folder = sources[0]?.['path'] ?? 'from an archive';
	const shoot = (tables['shoot'] ?? []).map((row) => ({ ...row, folder, is_demo: false, deleted_at: null }));
	return { ...tables, source: sources, media_file: files, edit_change: changes, shoot };
}

/** Folders that may be reached here. */
async function reachable(folders: AllowedFolders, sources: z.infer<typeof Rows>): Promise<z.infer<typeof Rows>> {
	const checked = await Promise.all(sources.map(async (row) => ((await isAllowed(folders, row['path'])) ? [row] : [])));
	return checked.flat();
}

async function isAllowed(folders: AllowedFolders, path: unknown): Promise<boolean> {
	return folders.resolve(String(path)).then(
		(real) => real === path,
		() => false
	);
}

/** Nothing that an archive says of a path is believed. */
async function asMissing(folders: AllowedFolders, row: z.infer<typeof Row>): Promise<z.infer<typeof Row>> {
	const checked = async (path: unknown) => ((await isAllowed(folders, path)) ? String(path) : undefined);
	const path = (await checked(row['path'])) ?? `${NOWHERE}/${String(row['id'])}`;
	const asReached = async (facts: MediaFacts | null | undefined): Promise<MediaFacts | null> => {
		const channelFiles = facts?.audio?.channelFiles;
		if (!facts || !channelFiles) return facts ?? null;
		const named = await Promise.all(
			channelFiles.map(async (file, index) => ({
				...file,
				path: index === 0 ? path : ((await checked(file.path)) ?? `${NOWHERE}/${file.path.split('/').at(-1) ?? ''}`)
			}))
		);
		return { ...facts, audio: { ...facts.audio!, channelFiles: named } };
	};
	return {
		...row,
		path,
		facts: await asReached(row['facts'] as MediaFacts | null),
		own_facts: await asReached(row['own_facts'] as MediaFacts | null | undefined),
		state: 'missing',
		reason: 'The shoot came from an archive. Find its files again.',
		listening_samples: null
	};
}

/** Puts rows in under new identities: the shoot they were taken from may be there as well. */
async function insert({ database }: Pick<Runtime, 'database'>, archive: Archive): Promise<string> {
	// Those too that only the history knows: undo would put them back, beside their likes of the first shoot.
	const own = new Set(
		[
			...ARCHIVED.flatMap(({ name }) => (archive.tables[name] ?? []).map((row) => row['id'])),
			...(archive.tables['edit_change'] ?? []).map((row) => row['row_id'])
		].filter((id) => typeof id === 'string')
	);
	const renamed = new Map([...own].map((id) => [id, crypto.randomUUID()]));
	const text = JSON.stringify(archive.tables).replace(UUID, (id) => renamed.get(id) ?? id);
	const tables = JSON.parse(text) as Archive['tables'];
	const shoot = tables['shoot']?.[0];
	if (!shoot) throw new ShootError('not-an-archive', 'The archive holds no shoot.');
	const work = database.transaction(async (transaction) => {
		for (const { name } of ARCHIVED)
			await insertRows(
				transaction,
				name,
				(tables[name] ?? []).map((row) => asOwn(row, shoot['id']))
			);
		await insertEdits(transaction, shoot['id'], tables['edit'] ?? [], tables['edit_change'] ?? []);
		// Whoever opens it reads all of it.
		await transaction.query('delete from changed_row where shoot_id = $1', [shoot['id']]);
	});
	await work.catch((error: unknown) => {
		if (error instanceof DatabaseError && error.isOfData)
			throw new ShootError('not-an-archive', 'This archive is damaged: its parts do not fit together.', {
				cause: error
			});
		throw error;
	});
	return String(shoot['id']);
}

/** An archive cannot put rows into another shoot. */
function asOwn(row: z.infer<typeof Row>, shootId: unknown): z.infer<typeof Row> {
	return 'shoot_id' in row ? { ...row, shoot_id: shootId } : row;
}

async function insertRows(transaction: Queryable, table: string, rows: z.infer<typeof Rows>): Promise<void> {
	if (rows.length === 0) return;
	const columns = Object.keys(rows[0]!)
		.filter((column) => /^[a-z_]+$/.test(column))
		.map((column) => `"${column}"`)
		.join(', ');
	// Rows of one table may point to each other: all come in one statement.
	await transaction.query(
		`insert into ${table} (${columns}) select ${columns} from jsonb_populate_recordset(null::${table}, $1)`,
		[JSON.stringify(rows)]
	);
}

/** Edits are counted by the database: they get new numbers in their old order. */
async function insertEdits(
	transaction: Queryable,
	shootId: unknown,
	edits: z.infer<typeof Rows>,
	changes: z.infer<typeof Rows>
): Promise<void> {
	const byEdit = changesByEdit(changes);
	for (const edit of [...edits].sort((a, b) => Number(a['id']) - Number(b['id']))) {
		const [row] = await transaction.query<{ id: number }>(
			'insert into edit (shoot_id, at, label, command, state) values ($1, $2, $3, $4, $5) returning id',
			[shootId, edit['at'], edit['label'], JSON.stringify(edit['command']), edit['state']]
		);
		const own = (byEdit.get(edit['id']) ?? []).map((change) => ({ ...change, edit_id: row!.id }));
		if (own.length === 0) continue;
		await transaction.query(
			`insert into edit_change (edit_id, table_name, row_id, before, after)
			 select edit_id, table_name, row_id, before, after from jsonb_populate_recordset(null::edit_change, $1) order by id`,
			[JSON.stringify(own)]
		);
	}
}

function changesByEdit(changes: z.infer<typeof Rows>): ReadonlyMap<unknown, z.infer<typeof Rows>> {
	const byEdit = new Map<unknown, z.infer<typeof Rows>>();
	for (const change of changes) {
		const own = byEdit.get(change['edit_id']);
		if (own) own.push(change);
		else byEdit.set(change['edit_id'], [change]);
	}
	return byEdit;
}
