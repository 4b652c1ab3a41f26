import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Bus, createBus } from '../../src/lib/server/bus/bus';
import { type Database, openDatabase } from '../../src/lib/server/db/database';
import { migrate } from '../../src/lib/server/db/migrate';
import { installTriggers } from '../../src/lib/server/db/tables';
import { openShoots, type Shoots } from '../../src/lib/server/edits/change';
import { layBlankDatabase } from './blank-database';

export interface TestDatabase {
	readonly database: Database;
	readonly bus: Bus;
	readonly shoots: Shoots;
	close(): Promise<void>;
}

/**
 * A database in a folder of its own, in its newest form.
 * @param before is given the database before it is brought to its newest form
 */
export async function openTestDatabase(before?: (database: Database) => Promise<void>): Promise<TestDatabase> {
	const folder = await mkdtemp(join(tmpdir(), 'open-choir-database-'));
	await layBlankDatabase(join(folder, 'database'));
	const database = openDatabase(join(folder, 'database'));
	await before?.(database);
	await migrate(database);
	await installTriggers(database);
	const bus = createBus();
	return {
		database,
		bus,
		shoots: openShoots(database, bus),
		async close() {
			await database.close();
			await rm(folder, { recursive: true, force: true });
		}
	};
}
