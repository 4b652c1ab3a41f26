import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { openTestDatabase } from '../../../../../tests/support/test-database';
import type { Shoot } from '../../../core/shoot/shoot';
import type { Runtime } from '../../runtime';
import { handOffFile, putInPlace } from './hand-offs';

it('hand-offs of one second each keep their name and their content', { timeout: 30_000 }, async () => {
	const folder = await mkdtemp(join(tmpdir(), 'open-choir-hand-offs-'));
	const test = await openTestDatabase();
	try {
		const [row] = await test.database.query<{ id: string }>(
			`insert into shoot (name, folder) values ('A night/out', '/x') returning id`
		);
		const [lineUp] = await test.database.query<{ id: string }>(
			`with d as (insert into device (shoot_id, folder, kind, badge, name, position) values ($1, 'a', 'camera', 'A', 'A', 0) returning id)
			 insert into line_up (shoot_id, position, reference_device_id) select $1, 0, id from d returning id`,
			[row!.id]
		);
		const runtime = { settings: { dataFolder: folder }, database: test.database, shoots: test.shoots };
		const shoot = { id: row!.id, name: 'A night/out', lineUps: [lineUp!] };
		const texts = Array.from({ length: 12 }, (_, index) => `hand-off ${index}`);
		const made = await Promise.all(
			texts.map(async (text, index) => {
				const path = join(folder, `made-${index}`);
				await writeFile(path, text);
				return putInPlace(runtime as Runtime, shoot as unknown as Shoot, lineUp!.id, path, 'otio');
			})
		);
		const files = await Promise.all(made.map((id) => handOffFile(runtime as Runtime, id)));
		expect(new Set(files.map((file) => file.path)).size).toBe(texts.length);
		expect(await Promise.all(files.map((file) => readFile(file.path, 'utf8')))).toEqual(texts);
		const names = await readdir(join(folder, 'hand-offs', shoot.id));
		expect(names).toHaveLength(texts.length);
		for (const name of names) expect(name).toMatch(/^A nightout \d{4}-\d\d-\d\d-[\d-]+( \(\d+\))?\.otio$/);
	} finally {
		await test.close();
		await rm(folder, { recursive: true, force: true });
	}
});
