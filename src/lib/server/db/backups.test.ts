import { mkdir, mkdtemp, readdir, rename, rm, truncate, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { layBlankDatabase } from '../../../../tests/support/blank-database';
import { openRuntime } from '../open-runtime';
import { listShoots } from '../shoots/view';
import { backUp, DAY_MS, isBackUpDue, listBackups } from './backups';

let base: string;
beforeAll(async () => {
	base = await mkdtemp(join(tmpdir(), 'open-choir-backups-'));
});
afterAll(() => rm(base, { recursive: true, force: true }));

const open = (name: string, restore?: string) =>
	openRuntime({
		dataFolder: join(base, name),
		mediaFolders: [],
		demo: false,
		logLevel: 'silent',
		...(restore ? { restore } : {})
	});

/** A data folder that was used: one shoot, and a backup that holds it. */
async function used(name: string): Promise<void> {
	await layBlankDatabase(join(base, name, 'database'));
	const runtime = await open(name);
	await runtime.database.query(`insert into shoot (name, folder) values ('Evening', '/cards')`);
	await backUp(runtime.database, join(base, name));
	await runtime.close();
}

const namesIn = async (name: string) => {
	const runtime = await open(name);
	const shoots = await listShoots(runtime.database);
	await runtime.close();
	return shoots.map((shoot) => shoot.name);
};

describe('a database', () => {
	it('that is missing is not begun anew over what was there, and comes back from its backup', async () => {
		await used('lost');
		await rm(join(base, 'lost', 'database'), { recursive: true });
		await expect(open('lost')).rejects.toThrow(/is missing\. Restore the newest backup with \.\/start --restore/);
		// Asked twice: it is as it was.
		await expect(open('lost')).rejects.toThrow('is missing');
		await (await open('lost', 'newest')).close();
		expect(await namesIn('lost')).toEqual(['Evening']);
	});

	it('is not taken for one where something else stands', async () => {
		await mkdir(join(base, 'foreign', 'database'), { recursive: true });
		await writeFile(join(base, 'foreign', 'database', 'letter.txt'), 'Dear Marit');
		await expect(open('foreign')).rejects.toThrow(/holds no database of Open Choir/);
		expect(await readdir(join(base, 'foreign', 'database'))).toEqual(['letter.txt']);
		await expect(open('foreign', 'newest')).rejects.toThrow('holds no backup');
	});

	it('that is damaged says so, and what was there is kept beside the restored one', async () => {
		await used('damaged');
		await truncate(join(base, 'damaged', 'database', 'global', 'pg_control'), 100);
		await expect(open('damaged')).rejects.toThrow(/cannot be opened. It is damaged/);
		await (await open('damaged', 'newest')).close();
		expect(await namesIn('damaged')).toEqual(['Evening']);
		expect((await readdir(join(base, 'damaged'))).some((name) => name.startsWith('database replaced'))).toBe(true);
	});

	it('is in its place again when a backup cannot be restored', async () => {
		await used('kept');
		const bad = join(base, 'bad.tar.gz');
		await writeFile(bad, 'no backup');
		await expect(open('kept', bad)).rejects.toThrow(
			/The backup is damaged; what was there before is in its place again/
		);
		expect(await namesIn('kept')).toEqual(['Evening']);
	});

	it('is backed up once a day, the last seven kept, and before it is changed to a newer form', async () => {
		await used('daily');
		const folder = join(base, 'daily');
		expect(await isBackUpDue(folder, Date.now())).toBe(false);
		expect(await isBackUpDue(folder, Date.now() + DAY_MS + 1000)).toBe(true);
		const [newest] = await listBackups(folder);
		for (let day = 1; day <= 9; day++) {
			const older = join(folder, 'backups', `database 2026-01-0${day} 10-00-00.tar.gz`);
			await writeFile(older, '');
			await utimes(older, day, day);
		}
		const runtime = await open('daily');
		await backUp(runtime.database, folder);
		await runtime.database.query(`delete from migration where name = '007_trust.sql'`);
		await runtime.database.query('alter table job drop column crashes');
		const before = await listBackups(folder);
		expect(before).toHaveLength(7);
		expect(before).toContain(newest);
		await runtime.close();
		await rename(before[0]!, `${before[0]!}.aside`);
		await (await open('daily')).close();
		const after = await listBackups(folder);
		expect(after[0]! > before[1]!).toBe(true);
	});
});
