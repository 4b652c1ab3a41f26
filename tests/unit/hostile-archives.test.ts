import { createHash } from 'node:crypto';
import { gunzipSync, gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ZodError } from 'zod';
import { seededRandom } from '../../demo/random';
import { parseCommand } from '../../src/lib/contract/commands/commands';
import { allowFolders } from '../../src/lib/server/access/allowed-folders';
import { applyEdit } from '../../src/lib/server/edits/apply';
import { redo, undo } from '../../src/lib/server/edits/log';
import { archiveShoot, duplicateShoot, restoreShoot } from '../../src/lib/server/shoots/archive';
import { readTableShapes } from '../../src/lib/server/shoots/archive-check';
import { ShootError } from '../../src/lib/server/shoots/shoot-error';
import { listShoots, loadShoot } from '../../src/lib/server/shoots/view';
import { IS_LONG } from '../support/long-checks';
import { fillOldDatabase } from '../support/old-database';
import { randomCommand } from '../support/random-commands';
import { openTestDatabase, type TestDatabase } from '../support/test-database';

/** Archives as a stranger could write them: whatever they say, they reach nothing but the shoot they become. */
type Row = Record<string, unknown>;
interface Archive {
	format: string;
	version: number;
	tables: Record<string, Row[]>;
}

const MUTATIONS = IS_LONG ? 1000 : 20;
let opened: TestDatabase;
/** The shoot that the archive was made of, and that must stay as it is. */
let victim: string;
let honest: string;
let restore: (archive: unknown) => Promise<string>;

beforeAll(async () => {
	opened = await openTestDatabase(fillOldDatabase);
	victim = (await listShoots(opened.database))[0]!.id;
	const random = seededRandom(99);
	for (let step = 0; step < 40; step++) {
		const shoot = await loadShoot(opened.database, victim);
		await applyEdit(opened.shoots, victim, parseCommand(randomCommand(shoot, random))).catch(() => undefined);
	}
	for (let step = 0; step < 6; step++) await undo(opened.shoots, victim);
	honest = gunzipSync(await archiveShoot(opened.database, victim)).toString();
	const folders = await allowFolders({ folders: [] });
	const queue = { add: () => Promise.resolve('') } as never;
	restore = (archive) =>
		restoreShoot(
			{ database: opened.database, folders, queue },
			gzipSync(typeof archive === 'string' ? archive : JSON.stringify(archive))
		);
});
afterAll(() => opened.close());

const copy = () => JSON.parse(honest) as Archive;
const shoots = async () => (await listShoots(opened.database)).map((one) => one.id).sort();

async function dropShoot(id: string): Promise<void> {
	await opened.database.query('delete from shoot where id = $1', [id]);
}

/** Every step of a shoot's history, back to the first and forth to the last; refusals in a sentence are allowed. */
async function walkHistory(id: string): Promise<void> {
	for (const step of [undo, redo])
		for (let count = 0; count < 500; count++) {
			try {
				await step(opened.shoots, id);
			} catch (error) {
				if (!(error instanceof ShootError)) throw error;
				if (error.code !== 'does-not-fit') break;
			}
		}
}

async function everythingOf(id: string): Promise<string> {
	const [files] = await opened.database.query<{ text: string }>(
		`select coalesce(string_agg(row_to_json(media_file)::text, ''), '') as text from media_file where shoot_id = $1`,
		[id]
	);
	return files!.text + JSON.stringify(await loadShoot(opened.database, id));
}

async function expectRefused(archive: unknown, words: RegExp): Promise<void> {
	const before = await shoots();
	await expect(restore(archive)).rejects.toThrow(words);
	expect(await shoots()).toEqual(before);
}

/** What the archived tables were made of when the archive's version was last raised. */
const SHAPE_OF_VERSION = { version: 7, digest: '4854cec51e67cbc8' };

describe('an archive', () => {
	it('has a new version whenever its tables have changed', async () => {
		const { columns } = await readTableShapes(opened.database);
		const lines = [...columns].flatMap(([table, own]) =>
			[...own].map(([name, { type, nullable }]) => `${table}.${name} ${type} ${nullable}`)
		);
		const digest = createHash('sha256').update(lines.sort().join('\n')).digest('hex').slice(0, 16);
		// Another one: raise the version in archive.ts, bring older archives up in archive-versions.ts, and note it here.
		expect({ version: copy().version, digest }).toEqual(SHAPE_OF_VERSION);
	});

	it('that is honest comes with all of its history', async () => {
		const id = await restore(copy());
		const { undo: last } = await loadShoot(opened.database, victim);
		expect((await loadShoot(opened.database, id)).undo).toBe(last);
		await walkHistory(id);
		expect((await loadShoot(opened.database, id)).undo).toBeDefined();
		await dropShoot(id);
	});

	it('reaches no file outside the allowed folders, not by its history either', async () => {
		const forged = copy();
		const [file] = forged.tables['media_file']!;
		const edit = forged.tables['edit']!.filter((one) => one['state'] === 'done').at(-1)!;
		const facts = {
			...(file!['facts'] as object),
			audio: {
				codec: 'pcm_s16le',
				sampleRate: 48_000,
				channels: 2,
				startSeconds: 0,
				channelNames: ['', ''],
				channelFiles: [
					{ path: '/etc/passwd', channels: 1 },
					{ path: '/etc/shadow', channels: 1 }
				]
			}
		};
		const side = { ...file, path: '/etc/passwd', facts, own_facts: facts };
		forged.tables['edit_change']!.push({
			id: 1e6,
			edit_id: edit['id'],
			table_name: 'media_file',
			row_id: file!['id'],
			before: side,
			after: side
		});
		const id = await restore(forged);
		for (const step of [undo, redo]) {
			await step(opened.shoots, id);
			expect(await everythingOf(id)).not.toMatch(/\/etc\//);
		}
		await dropShoot(id);
	});

	it('deletes and changes nothing of another shoot', async () => {
		const other = await duplicateShoot(opened, victim);
		const untouched = await loadShoot(opened.database, other);
		const edit = copy()
			.tables['edit']!.filter((one) => one['state'] === 'done')
			.at(-1)!;
		const stranger = untouched.clips[0]!.id;
		const change = { id: 1e6, edit_id: edit['id'] };
		const shootRow = copy().tables['shoot']![0]!;
		const clipRow = { ...copy().tables['clip']![0], id: stranger, name: 'Taken over' };
		for (const forgery of [
			{ ...change, table_name: 'shoot', row_id: other, before: null, after: null },
			{ ...change, table_name: 'shoot', row_id: other, before: { ...shootRow, id: other }, after: null },
			{ ...change, table_name: 'clip', row_id: stranger, before: null, after: null },
			{ ...change, table_name: 'clip', row_id: stranger, before: clipRow, after: clipRow },
			{ ...change, table_name: 'clip', row_id: stranger, before: { ...clipRow, shoot_id: other }, after: null },
			{ ...change, table_name: 'hand_off', row_id: stranger, before: null, after: null }
		]) {
			const forged = copy();
			forged.tables['edit_change']!.push(forgery);
			const id = await restore(forged).catch((error: unknown) => {
				expect(error).toBeInstanceOf(ShootError);
				return undefined;
			});
			if (id) {
				await walkHistory(id);
				await dropShoot(id);
			}
			expect(await loadShoot(opened.database, other)).toEqual(untouched);
		}
		await dropShoot(other);
	});

	it('is refused with what is wrong with it', async () => {
		const withRow = (table: string, change: (row: Row) => Row) => {
			const forged = copy();
			forged.tables[table] = forged.tables[table]!.map((row, index) => (index === 0 ? change(row) : row));
			return forged;
		};
		await expectRefused({ ...copy(), tables: { ...copy().tables, job: [] } }, /table “job”/);
		await expectRefused(
			withRow('clip', (row) => ({ ...row, 'name") select version() --': 1 })),
			/which none has/
		);
		await expectRefused(
			withRow('clip', (row) => ({ ...row, duration_flicks: 9e15 })),
			/clip.duration_flicks/
		);
		await expectRefused(
			withRow('clip', (row) => ({ ...row, name: 'a\0b' })),
			/clip.name/
		);
		await expectRefused(
			withRow('clip', (row) => ({ ...row, device_id: crypto.randomUUID() })),
			/not in the archive/
		);
		await expectRefused(
			withRow('media_file', ({ facts, ...row }) => ({
				...row,
				facts: { ...(facts as object), audio: { ...(facts as { audio: object }).audio, channels: 1e7 } }
			})),
			/media_file.facts/
		);
		const doubled = copy();
		doubled.tables['clip']!.push(doubled.tables['clip']![0]!);
		await expectRefused(doubled, /one identity/);
		await expectRefused({ ...copy(), tables: {} }, /not one shoot/);
		await expectRefused({ ...copy(), version: 99 }, /newer/);
		await expectRefused('{"format":', /damaged/);
	});

	it('is bounded while it is unpacked', async () => {
		const before = process.memoryUsage().rss;
		await expectRefused('['.repeat(5_000_000), /more than a shoot can hold/);
		await expectRefused(`[${'[],'.repeat(4_000_000)}[]]`, /more than a shoot can hold/);
		await expectRefused(`{"a":"${'x'.repeat(140_000_000)}"}`, /more than a shoot can hold/);
		expect(process.memoryUsage().rss - before).toBeLessThan(900 * 2 ** 20);
	});

	it(`is refused or harmless, however it is changed: ${MUTATIONS} changes`, async () => {
		const untouched = await loadShoot(opened.database, victim);
		const random = seededRandom(20_261_128);
		const counts = { refused: 0, imported: 0 };
		for (let round = 0; round < MUTATIONS; round++) {
			const forged = copy();
			for (let change = 0; change <= random() * 2; change++) mutate(forged, random, victim);
			const before = await shoots();
			try {
				const id = await restore(forged);
				await walkHistory(id);
				expect(await everythingOf(id)).not.toMatch(/\/etc\//);
				await dropShoot(id);
				counts.imported++;
			} catch (error) {
				if (!(error instanceof ShootError || error instanceof ZodError)) throw error;
				expect(await shoots()).toEqual(before);
				counts.refused++;
			}
			expect(await loadShoot(opened.database, victim)).toEqual(untouched);
		}
		process.stdout.write(`    changed archives: ${JSON.stringify(counts)}\n`);
		expect(counts.refused).toBeGreaterThan(MUTATIONS / 4);
	}, 1_200_000);
});

const ODD = [
	null,
	-1,
	0,
	1.5,
	2 ** 62,
	1e308,
	'',
	'/etc/passwd',
	'\0',
	'\ud800',
	'x'.repeat(30_000),
	"'; drop table shoot; --",
	true,
	[],
	{},
	{ __proto__: { a: 1 } },
	[[[[[]]]]],
	{ path: '/etc/passwd' }
];

/** Changes one thing of an archive: a value, a row, a table, an identity, deep in the history too. */
function mutate(archive: Archive, random: () => number, stranger: string): void {
	const pick = <Item>(items: readonly Item[]) => items[Math.floor(random() * items.length)]!;
	const names = Object.keys(archive.tables).filter((name) => archive.tables[name]!.length > 0);
	const table = pick(random() < 0.4 ? ['edit_change', 'edit', 'media_file'] : names);
	const rows = archive.tables[table]!;
	if (rows.length === 0) return;
	const row = pick(rows);
	const dice = random();
	if (dice < 0.1) rows.splice(rows.indexOf(row), 1);
	else if (dice < 0.2) rows.push({ ...row, ...(random() < 0.5 ? { id: crypto.randomUUID() } : {}) });
	else if (dice < 0.25) archive.tables[pick(['job', 'setting', 'pg_class', 'hand_off'])] = [row];
	else {
		const sides = [row, row['before'], row['after'], row['facts']].filter(
			(one): one is Row => typeof one === 'object' && one !== null
		);
		const side = pick(sides);
		const key = pick(Object.keys(side));
		if (key === undefined) return;
		const ids = Object.values(archive.tables).flatMap((all) => all.map((one) => one['id']));
		side[key] = random() < 0.2 ? pick([...ids, stranger]) : pick(ODD);
	}
}
