import type { Change, RowsByTable, Snapshot } from '../../contract/changes';
import { assembleShoot, type AssembledShoot } from '../../core/shoot/assemble';
import { changeRows, ROW_TABLES } from '../../core/shoot/rows';
import type { Shoot } from '../../core/shoot/shoot';
import type { Bus } from '../bus/bus';
import type { Database, Queryable } from '../db/database';
import { assembled, readRowsById, readSnapshot, readSteps, revisionOf } from '../shoots/view';

/** The only way to change something of a shoot: one transaction, one revision, and everybody is told what it made. */
export interface Shoots {
	/** The shoot as it stands. @throws ShootError there is none of that identity */
	current(shootId: string): Promise<AssembledShoot>;
	/** The same as pages are sent it: a `Snapshot` as JSON in UTF-8. @throws ShootError there is none of that identity */
	snapshot(shootId: string): Promise<Uint8Array<ArrayBuffer>>;
	/** Reads the one that was worked on last, so that it is there when it is asked for. */
	readNewest(): Promise<void>;
	/**
	 * Changes a shoot within a transaction.
	 * @param work is given the shoot as it stands before; what it throws undoes all of it
	 * @throws ShootError there is none of that identity
	 */
	change<Result>(
		shootId: string,
		work: (transaction: Queryable, before: () => Promise<Shoot>) => Promise<Result>
	): Promise<{ readonly result: Result; readonly change: Change }>;
	/** Tells everybody of rows that were written outside of `change`, one by one, by work that goes on for long. */
	tell(shootId: string): Promise<void>;
}

/** Shoots kept in memory: those that are worked on. */
const MAX_KEPT = 4;

export function openShoots(database: Database, bus: Bus): Shoots {
	/** The newest last. */
	const kept = new Map<string, AssembledShoot>();
	/** As pages are sent them: megabytes of a large shoot, made once for each state. */
	const written = new WeakMap<AssembledShoot, Uint8Array<ArrayBuffer>>();

	function keep(shootId: string, shoot: AssembledShoot): AssembledShoot {
		kept.delete(shootId);
		kept.set(shootId, shoot);
		for (const [oldest] of kept) {
			if (kept.size <= MAX_KEPT) break;
			kept.delete(oldest);
		}
		return shoot;
	}

	/** What is kept counts only at the database's own revision. */
	async function read(asked: Queryable, shootId: string): Promise<AssembledShoot> {
		const known = kept.get(shootId);
		const revision = await revisionOf(asked, shootId);
		return known?.shoot.revision === revision ? known : assembled(await readSnapshot(asked, shootId));
	}

	const shoots: Shoots = {
		current: (shootId) => database.transaction(async (transaction) => keep(shootId, await read(transaction, shootId))),
		async snapshot(shootId) {
			const shoot = await shoots.current(shootId);
			let bytes = written.get(shoot);
			if (!bytes) written.set(shoot, (bytes = new TextEncoder().encode(JSON.stringify(snapshotOf(shoot)))));
			return bytes;
		},
		async readNewest() {
			const [newest] = await database.query<{ id: string }>(
				`select id from shoot where deleted_at is null
				 order by (select max(edit.id) from edit where shoot_id = shoot.id) desc nulls last, created_at desc limit 1`
			);
			if (newest) await shoots.snapshot(newest.id);
		},
		async change(shootId, work) {
			// Kept only once the change stands: what a transaction reads of itself may be undone with it.
			let seen: AssembledShoot | undefined;
			const before = async (transaction: Queryable) => (seen ??= await read(transaction, shootId)).shoot;
			const done = await database.transaction(async (transaction) => {
				const revision = await revisionOf(transaction, shootId);
				const result = await work(transaction, () => before(transaction));
				return { result, change: await collect(transaction, shootId, revision) };
			});
			const { change } = done;
			const known = seen ?? kept.get(shootId);
			if (known?.shoot.revision === change.before && change.revision !== change.before)
				keep(shootId, assembleShoot(changeRows(known.rows, change.rows, change.gone), change, known));
			if (change.revision !== change.before) bus.publish({ type: 'change', change });
			return done;
		},
		tell: async (shootId) => void (await shoots.change(shootId, () => Promise.resolve()))
	};
	return shoots;
}

function snapshotOf({ rows, shoot }: AssembledShoot): Snapshot {
	const byTable = Object.fromEntries(ROW_TABLES.map((table) => [table, [...rows[table].values()]]));
	return { revision: shoot.revision, rows: byTable as RowsByTable, undo: shoot.undo ?? null, redo: shoot.redo ?? null };
}

/** Everything that a transaction has changed so far, as a change of its own revision. */
async function collect(transaction: Queryable, shootId: string, before: number): Promise<Change> {
	const noted = await transaction.query<{ table_name: string; row_id: string }>(
		'delete from changed_row where shoot_id = $1 returning table_name, row_id',
		[shootId]
	);
	const rows: Record<string, readonly { readonly id: string }[]> = {};
	const gone: Record<string, readonly string[]> = {};
	for (const table of ROW_TABLES) {
		const ids = new Set(noted.filter((one) => one.table_name === table).map((one) => one.row_id));
		if (ids.size === 0) continue;
		rows[table] = await readRowsById(transaction, table, [...ids]);
		for (const { id } of rows[table]) ids.delete(id);
		if (ids.size > 0) gone[table] = [...ids];
	}
	const revision = noted.length > 0 ? before + 1 : before;
	if (revision !== before) await transaction.query('update shoot set revision = $2 where id = $1', [shootId, revision]);
	return { shootId, before, revision, rows: rows as Change['rows'], gone, ...(await readSteps(transaction, shootId)) };
}
