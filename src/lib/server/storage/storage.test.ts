import { mkdir, mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { layBlankDatabase } from '../../../../tests/support/blank-database';
import { type Database, openDatabase } from '../db/database';
import { migrate } from '../db/migrate';
import { cleanUp, keepBelowLimit, setLimit, storage } from './storage';

let folder: string;
let database: Database;
const context = () => ({
	database,
	settings: { dataFolder: folder, mediaFolders: [], demo: false, logLevel: 'silent' }
});
const USED = 'a'.repeat(32);
const UNUSED = 'b'.repeat(32);

beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-storage-'));
	await layBlankDatabase(join(folder, 'database'));
	database = openDatabase(join(folder, 'database'));
	await migrate(database);
	const [shoot] = await database.query<{ id: string }>(
		`insert into shoot (name, folder) values ('x', '/x') returning id`
	);
	await database.query(
		`insert into media_file (shoot_id, path, relative_path, size_bytes, modified_ms, identity, facts) values ($1, '/x/a', 'a', 1, 1, $2, $3)`,
		[
			shoot!.id,
			USED,
			{ container: 'matroska,webm', durationSeconds: 1, containerStartSeconds: 0, audio: { channels: 1 } }
		]
	);
	for (const identity of [USED, UNUSED])
		for (const kind of ['analysis.s16', 'listening.s16', 'piece-0-360.mp4']) {
			await mkdir(join(folder, 'cache', identity.slice(0, 2)), { recursive: true });
			await writeFile(join(folder, 'cache', identity.slice(0, 2), `${identity}.r1.${kind}`), Buffer.alloc(1000));
		}
}, 60_000);
afterAll(async () => {
	await database.close();
	await rm(folder, { recursive: true, force: true });
});

it('tells what takes room, and frees what no shoot uses, then what is missed least', async () => {
	expect(await storage(context())).toMatchObject({
		cacheBytes: 6000,
		unusedBytes: 3000,
		limitBytes: 100e9,
		uploadBytes: 0
	});
	await keepBelowLimit(context());
	expect((await storage(context())).cacheBytes).toBe(6000);
	expect(await cleanUp(context())).toBe(3000);
	expect(await storage(context())).toMatchObject({ cacheBytes: 3000, unusedBytes: 0 });
	await setLimit(context(), 2500);
	await keepBelowLimit(context());
	const kept = async () => (await readdir(join(folder, 'cache', 'aa'))).map((name) => name.slice(36));
	expect(await kept()).toEqual(['listening.s16', 'piece-0-360.mp4']);
	// Small pictures are made again where somebody looks; the sound that the page plays stays, whatever the limit.
	await setLimit(context(), 500);
	await keepBelowLimit(context());
	expect(await kept()).toEqual(['listening.s16']);
	await setLimit(context(), 2500);
	expect((await storage(context())).limitBytes).toBe(2500);
});

it('frees copies of sounds that are read where they are, which an older version made', async () => {
	await setLimit(context(), 100e9);
	await database.query(`update media_file set facts = jsonb_set(facts, '{container}', '"wav"')`);
	expect(await storage(context())).toMatchObject({ unusedBytes: 1000 });
	expect(await cleanUp(context())).toBe(1000);
	expect(await readdir(join(folder, 'cache', 'aa'))).toEqual([]);
});
