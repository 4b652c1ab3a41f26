import type { Database, Queryable } from '../db/database';
import { type EditCommand, carryOut } from './registry';
import { loadShoot } from '../shoots/load-shoot';
import { ShootError } from '../shoots/shoot-error';

/** Tables whose rows an edit may change; their names go into SQL. */
const EDITABLE = [
	'shoot',
	'device',
	'clip',
	'clip_part',
	'media_file',
	'line_up',
	'placement',
	'stray',
	'sync_point',
	'marker',
	'pair_moments',
	'signature',
	'master_channel',
	'program',
	'program_call'
] as const;

/**
 * Makes a change as one edit: one transaction, noted so that it can be undone.
 * @param work gives the words for the list of changes
 */
export async function recordEdit(
	database: Database,
	shootId: string,
	command: object,
	work: (transaction: Queryable) => Promise<string>
): Promise<void> {
	await database.transaction(async (transaction) => {
		await assertShoot(transaction, shootId);
		// What was undone cannot be redone after a new edit.
		await transaction.query(`update edit set state = 'dropped' where shoot_id = $1 and state = 'undone'`, [shootId]);
		const [edit] = await transaction.query<{ id: number }>(
			`insert into edit (shoot_id, label, command) values ($1, '', $2) returning id`,
			[shootId, command]
		);
		await transaction.query(`select set_config('open_choir.edit_id', $1, true)`, [`${edit!.id}`]);
		const label = await work(transaction);
		const [{ changes } = { changes: 0 }] = await transaction.query<{ changes: number }>(
			'select count(*)::int as changes from edit_change where edit_id = $1',
			[edit!.id]
		);
		// A call of what is on air anyway is no edit: undo would seem to do nothing.
		if (changes === 0) await transaction.query('delete from edit where id = $1', [edit!.id]);
		else await transaction.query('update edit set label = $2 where id = $1', [edit!.id, label]);
		await touch(transaction, shootId);
	});
}

/** Carries out an editor's command as an edit. @returns whether what files are was changed: it is to be prepared anew */
export async function applyEdit(database: Database, shootId: string, command: EditCommand): Promise<boolean> {
	await recordEdit(database, shootId, command, async (transaction) =>
		carryOut(transaction, await loadShoot(transaction, shootId), command)
	);
	return command.kind === 'take-apart';
}

/** @returns whether what files are was changed */
export async function undo(database: Database, shootId: string): Promise<boolean> {
	return step(database, shootId, 'done');
}

/** @returns whether what files are was changed */
export async function redo(database: Database, shootId: string): Promise<boolean> {
	return step(database, shootId, 'undone');
}

async function step(database: Database, shootId: string, from: 'done' | 'undone'): Promise<boolean> {
	return database.transaction(async (transaction) => {
		await assertShoot(transaction, shootId);
		const backwards = from === 'done';
		const [edit] = await transaction.query<{ id: number }>(
			`select id from edit where shoot_id = $1 and state = $2 order by id ${backwards ? 'desc' : 'asc'} limit 1`,
			[shootId, from]
		);
		if (!edit)
			throw new ShootError('not-possible', backwards ? 'There is nothing to undo.' : 'There is nothing to redo.');
		const changes = await transaction.query<{
			table_name: string;
			row_id: string;
			before: object | null;
			after: object | null;
		}>(
			`select table_name, row_id, before, after from edit_change where edit_id = $1 order by id ${backwards ? 'desc' : 'asc'}`,
			[edit.id]
		);
		for (const change of changes)
			await putRow(transaction, change.table_name, change.row_id, backwards ? change.before : change.after);
		await transaction.query('update edit set state = $2 where id = $1', [edit.id, backwards ? 'undone' : 'done']);
		await touch(transaction, shootId);
		return changes.some((change) => change.table_name === 'media_file');
	});
}

/** Makes a row what it was, or lets it not be. */
async function putRow(transaction: Queryable, table: string, id: string, row: object | null): Promise<void> {
	if (!(EDITABLE as readonly string[]).includes(table)) throw new Error(`${table} holds no edits.`);
	if (!row) {
		await transaction.query(`delete from ${table} where id = $1`, [id]);
		return;
	}
	if (table === 'media_file') return putFacts(transaction, id, row as FactsRow);
	const columns = Object.keys(row).filter((column) => column !== 'id' && column !== 'revision');
	const assignments = columns.map((column) => `"${column}" = excluded."${column}"`).join(', ');
	await transaction.query(
		`insert into ${table} select * from jsonb_populate_record(null::${table}, $1) on conflict (id) do update set ${assignments}`,
		[row]
	);
}

interface FactsRow {
	readonly facts: object;
	readonly own_facts: object | null;
	readonly channel_of: string | null;
}

/** Of a file an edit changes only what it is a channel of; what was read or made of it since stays, but for its sound. */
async function putFacts(transaction: Queryable, id: string, row: FactsRow): Promise<void> {
	await transaction.query(
		'update media_file set facts = $2, own_facts = $3, channel_of = $4, listening_samples = null where id = $1',
		[id, row.facts, row.own_facts, row.channel_of]
	);
}

async function assertShoot(transaction: Queryable, shootId: string): Promise<void> {
	const [known] = await transaction.query('select id from shoot where id = $1', [shootId]);
	if (!known) throw new ShootError('not-found', 'There is no such shoot.');
}

async function touch(transaction: Queryable, shootId: string): Promise<void> {
	await transaction.query('update shoot set revision = revision + 1 where id = $1', [shootId]);
}

export interface EditEntry {
	readonly id: number;
	readonly at: string;
	readonly label: string;
	readonly undone: boolean;
}

/** The newest changes first. */
export async function listEdits(database: Queryable, shootId: string, most = 100): Promise<readonly EditEntry[]> {
	return database.query<EditEntry & Record<string, unknown>>(
		`select id::int, to_char(at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as at, label, state = 'undone' as undone from edit where shoot_id = $1 and state <> 'dropped' order by id desc limit $2`,
		[shootId, most]
	);
}
