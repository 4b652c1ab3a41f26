import type { Change } from '../../contract/changes';
import type { EditEntry } from '../../contract/views';
import type { Shoot } from '../../core/shoot/shoot';
import { DatabaseError, type Queryable } from '../db/database';
import { rowsOfShoot, type TableEntry, tableEntry, TABLES } from '../db/tables';
import { ShootError } from '../shoots/shoot-error';
import type { Shoots } from './change';

/**
 * Makes a change as one edit: one transaction, noted so that it can be undone.
 * @param work gives the words for the list of changes
 */
export async function recordEdit(
	shoots: Shoots,
	shootId: string,
	command: object,
	work: (transaction: Queryable, before: () => Promise<Shoot>) => Promise<string>
): Promise<Change> {
	const { change } = await shoots.change(shootId, async (transaction, before) => {
		const [edit] = await transaction.query<{ id: number }>(
			`with new as (insert into edit (shoot_id, label, command) values ($1, '', $2) returning id)
			 select id, set_config('open_choir.edit_id', id::text, true) from new`,
			[shootId, command]
		);
		const label = await work(transaction, before);
		// What was undone cannot be redone after a new edit. A call of what is on air anyway is none: undo would seem to do nothing.
		await transaction.query(
			`with named as (
				update edit set label = $2 where id = $1 and exists (select from edit_change where edit_id = $1) returning id
			 ), dropped as (
				update edit set state = 'dropped' where shoot_id = $3 and state = 'undone' and exists (select from named)
			 )
			 delete from edit where id = $1 and not exists (select from named)`,
			[edit!.id, label, shootId]
		);
	});
	return change;
}

export function undo(shoots: Shoots, shootId: string): Promise<Change> {
	return step(shoots, shootId, 'done');
}

export function redo(shoots: Shoots, shootId: string): Promise<Change> {
	return step(shoots, shootId, 'undone');
}

/** A change that no longer fits what is there must not bar the way to those before it. @returns what to say */
async function setAside(
	shoots: Shoots,
	shootId: string,
	editId: number,
	backwards: boolean,
	cause: DatabaseError
): Promise<ShootError> {
	const { result: label } = await shoots.change(shootId, async (transaction) => {
		const [row] = await transaction.query<{ label: string }>(
			`update edit set state = 'dropped' where id = $1 returning label`,
			[editId]
		);
		// Nothing of the shoot has changed, but what undo would do next: everybody is told.
		await transaction.query(`insert into changed_row (shoot_id, table_name, row_id) values ($1, 'shoot', $1)`, [
			shootId
		]);
		return row?.label ?? '';
	});
	const [done, next] = backwards ? ['undone', 'Undo'] : ['made again', 'Redo'];
	return new ShootError(
		'does-not-fit',
		`“${label}” cannot be ${done}: what it belongs to has changed since. It was left out; ${next} goes on with the one ${backwards ? 'before' : 'after'} it.`,
		{ cause }
	);
}

interface NotedChange {
	readonly table_name: string;
	readonly row_id: string;
	readonly before: Row | null;
	readonly after: Row | null;
}
type Row = Readonly<Record<string, unknown>>;

async function step(shoots: Shoots, shootId: string, from: 'done' | 'undone'): Promise<Change> {
	const backwards = from === 'done';
	let edit: { readonly id: number } | undefined;
	const work = shoots.change(shootId, async (transaction) => {
		[edit] = await transaction.query<{ id: number }>(
			`select id from edit where shoot_id = $1 and state = $2 order by id ${backwards ? 'desc' : 'asc'} limit 1`,
			[shootId, from]
		);
		if (!edit)
			throw backwards
				? new ShootError('nothing-to-undo', 'There is nothing to undo.')
				: new ShootError('nothing-to-redo', 'There is nothing to redo.');
		const changes = await transaction.query<NotedChange & Record<string, unknown>>(
			`select table_name, row_id, before, after from edit_change where edit_id = $1 order by id ${backwards ? 'desc' : 'asc'}`,
			[edit.id]
		);
		await putRows(
			transaction,
			shootId,
			changes.map((one) => ({ table: one.table_name, id: one.row_id, row: backwards ? one.before : one.after }))
		);
		await transaction.query('update edit set state = $2 where id = $1', [edit.id, backwards ? 'undone' : 'done']);
	});
	try {
		return (await work).change;
	} catch (error) {
		if (!edit || !(error instanceof DatabaseError && error.isOfData)) throw error;
		throw await setAside(shoots, shootId, edit.id, backwards, error);
	}
}

interface Wanted {
	readonly table: string;
	readonly id: string;
	/** Nothing: the row is to be no more. */
	readonly row: Row | null;
}

/**
 * Makes rows what they are to be in the end, whatever happened in between. Rows come in the order of their references and go
 * against it, so that none ever points to nothing.
 */
async function putRows(transaction: Queryable, shootId: string, wanted: readonly Wanted[]): Promise<void> {
	const last = new Map(wanted.map((one) => [`${one.table} ${one.id}`, one]));
	for (const { table } of last.values()) tableEntry(table);
	const of = (entry: TableEntry) => [...last.values()].filter((one) => one.table === entry.name);
	for (const entry of TABLES) {
		const rows = of(entry).flatMap(({ row }) => (row ? [row] : []));
		if (rows.length === 0) continue;
		if (entry.name === 'media_file') await putFacts(transaction, shootId, rows as unknown as readonly FactsRow[]);
		else await upsert(transaction, shootId, entry, rows);
	}
	for (const entry of [...TABLES].reverse()) {
		const ids = of(entry).flatMap(({ row, id }) => (row ? [] : [id]));
		if (ids.length > 0)
			await transaction.query(`delete from ${entry.name} where id = any($1) and ${rowsOfShoot(entry, '$2')}`, [
				ids,
				shootId
			]);
	}
}

async function upsert(transaction: Queryable, shootId: string, entry: TableEntry, rows: readonly Row[]): Promise<void> {
	const { name, decisions } = entry;
	const decided = (column: string) => column !== 'id' && (typeof decisions === 'string' || decisions.includes(column));
	const columns = Object.keys(rows[0]!).filter(decided);
	const assignments = columns.map((column) => `"${column}" = excluded."${column}"`).join(', ');
	// Of a row that holds other things too only what was decided is put back; it does not come or go by an edit.
	if (typeof decisions !== 'string') {
		const sets = columns.map((column) => `"${column}" = was."${column}"`).join(', ');
		await transaction.query(
			`update ${name} set ${sets} from jsonb_populate_recordset(null::${name}, $1) as was where ${name}.id = was.id and ${name}.${rowsOfShoot(entry, '$2')}`,
			[JSON.stringify(rows), shootId]
		);
		return;
	}
	await transaction.query(
		`insert into ${name} select * from jsonb_populate_recordset(null::${name}, $1) on conflict (id) do update set ${assignments} where ${name}.${rowsOfShoot(entry, '$2')}`,
		[JSON.stringify(rows), shootId]
	);
}

interface FactsRow {
	readonly id: string;
	readonly facts: object;
	readonly own_facts: object | null;
	readonly channel_of: string | null;
}

/** Of a file an edit changes only what it is a channel of; what was read or made of it since stays, but for its sound. */
async function putFacts(transaction: Queryable, shootId: string, rows: readonly FactsRow[]): Promise<void> {
	await transaction.query(
		`update media_file set facts = was.facts, own_facts = was.own_facts, channel_of = was.channel_of, listening_samples = null
		 from jsonb_populate_recordset(null::media_file, $1) as was where media_file.id = was.id and media_file.shoot_id = $2`,
		[JSON.stringify(rows), shootId]
	);
}

/** The newest changes first. */
export async function listEdits(
	database: Queryable,
	shootId: string,
	mostEntries = 100
): Promise<readonly EditEntry[]> {
	return database.query<EditEntry & Record<string, unknown>>(
		`select id::int, to_char(at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as at, label, state = 'undone' as undone from edit where shoot_id = $1 and state <> 'dropped' order by id desc limit $2`,
		[shootId, mostEntries]
	);
}
