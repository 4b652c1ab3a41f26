import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { seededRandom } from '../../demo/random';
import type { Change } from '../../src/lib/contract/changes';
import { type CommandKind, COMMANDS, parseCommand } from '../../src/lib/contract/commands/commands';
import { ERRORS } from '../../src/lib/contract/errors';
import { HAND_OFFS } from '../../src/lib/contract/hand-offs';
import { assembleShoot, type AssembledShoot } from '../../src/lib/core/shoot/assemble';
import { changeRows, ROW_TABLES, storeRows } from '../../src/lib/core/shoot/rows';
import type { Shoot } from '../../src/lib/core/shoot/shoot';
import { TABLES } from '../../src/lib/server/db/tables';
import { applyEdit, COMMAND_ENTRIES } from '../../src/lib/server/edits/apply';
import { redo, undo } from '../../src/lib/server/edits/log';
import { ShootError } from '../../src/lib/server/shoots/shoot-error';
import { listShoots, loadShoot, readSnapshot } from '../../src/lib/server/shoots/view';
import { IS_LONG } from '../support/long-checks';
import { fillOldDatabase } from '../support/old-database';
import { randomCommand } from '../support/random-commands';
import { openTestDatabase, type TestDatabase } from '../support/test-database';

let opened: TestDatabase;
let shootId: string;
beforeAll(async () => {
	opened = await openTestDatabase(fillOldDatabase);
	shootId = (await listShoots(opened.database))[0]!.id;
});
afterAll(() => opened.close());

describe('what grows', () => {
	it('is complete: each command has its entry, each row that pages see its table', () => {
		expect(Object.keys(COMMAND_ENTRIES).sort()).toEqual(Object.keys(COMMANDS).sort());
		const seen = TABLES.filter((table) => 'seen' in table).map((table) => table.name);
		expect([...ROW_TABLES].sort()).toEqual([...seen].sort());
		for (const { extension, mediaType, holds } of Object.values(HAND_OFFS)) {
			expect(extension).toMatch(/^[a-z0-9]+$/);
			expect(mediaType).toMatch(/^[a-z]+\/[a-z0-9.+-]+(; charset=utf-8)?$/);
			expect(holds).toMatch(/\.$/);
		}
		for (const status of Object.values(ERRORS)) expect([400, 403, 404, 409, 413, 422, 500, 503, 507]).toContain(status);
	});

	it('leaves out no table: whatever holds something of a shoot has an entry, and the trigger it asks for', async () => {
		const columns = await opened.database.query<{ table_name: string }>(
			`select table_name from information_schema.columns where table_schema = 'public' and column_name = 'shoot_id'`
		);
		// Jobs and edits tell of changes; they are none. Rows that have changed are told, then forgotten.
		const exempt = ['job', 'edit', 'changed_row'];
		const known = [...TABLES.map((table) => table.name as string), ...exempt];
		expect(columns.map((one) => one.table_name).filter((name) => !known.includes(name))).toEqual([]);
		const triggers = await opened.database.query<{ name: string; arguments: string }>(
			`select relname as name, encode(tgargs, 'escape') as arguments from pg_trigger join pg_class on pg_class.oid = tgrelid where tgname = 'note_change'`
		);
		for (const { name, decisions } of TABLES) {
			const wanted = typeof decisions === 'string' ? [decisions] : decisions;
			const trigger = triggers.find((one) => one.name === name)!;
			expect(trigger.arguments.split('\\000').filter(Boolean)).toEqual(wanted);
		}
	});

	it('stands in the order of its references', async () => {
		const references = await opened.database.query<{ child: string; parent: string }>(
			`select child.relname as child, parent.relname as parent from pg_constraint
			 join pg_class child on child.oid = conrelid join pg_class parent on parent.oid = confrelid where contype = 'f'`
		);
		const place = new Map<string, number>(TABLES.map((table, index) => [table.name, index]));
		for (const { child, parent } of references)
			if (place.has(child) && place.has(parent) && child !== parent)
				expect(place.get(parent)!, `${child} refers to ${parent}`).toBeLessThan(place.get(child)!);
	});
});

/** What a page does with what it is told. */
class Page {
	constructor(public known: AssembledShoot) {}

	static async open(): Promise<Page> {
		const { rows, ...steps } = await readSnapshot(opened.database, shootId);
		return new Page(assembleShoot(storeRows(rows), steps));
	}

	apply(change: Change): void {
		expect(change.before).toBe(this.known.shoot.revision);
		this.known = assembleShoot(changeRows(this.known.rows, change.rows, change.gone), change, this.known);
	}
}

const decided = ({ revision: _revision, undo: _undo, redo: _redo, ...rest }: Shoot) => rest;

const RANDOM_STEPS = IS_LONG ? 10_000 : 300;

describe('changes', () => {
	it('make of an open page what a reading of the whole shoot makes of a new one, for every kind of command', async () => {
		const random = seededRandom(12);
		const page = await Page.open();
		const before = decided(page.known.shoot);
		const done = new Set<CommandKind>();
		const states = [before];
		let refused = 0;
		for (let step = 0; step < 600; step++) {
			const command = randomCommand(page.known.shoot, random);
			const revision = page.known.shoot.revision;
			try {
				const change = await applyEdit(opened.shoots, shootId, parseCommand(command));
				if (change.revision === revision) continue;
				page.apply(change);
				done.add(command.kind);
				states.push(decided(page.known.shoot));
			} catch (error) {
				if (!(error instanceof ShootError)) throw error;
				refused++;
			}
			if (step % 20 === 0) expect(page.known.shoot).toEqual(await loadShoot(opened.database, shootId));
		}
		expect(page.known.shoot).toEqual(await loadShoot(opened.database, shootId));
		expect(Object.keys(COMMANDS).filter((kind) => !done.has(kind as CommandKind))).toEqual([]);
		expect(refused).toBeLessThan(350);
		// Back to the beginning, each step to exactly what was, and forth again: joined clips and merged devices too.
		for (const state of [...states].reverse().slice(1)) {
			page.apply(await undo(opened.shoots, shootId));
			expect(decided(page.known.shoot)).toEqual(state);
		}
		expect(decided(await loadShoot(opened.database, shootId))).toEqual(before);
		for (const state of states.slice(1)) {
			page.apply(await redo(opened.shoots, shootId));
			expect(decided(page.known.shoot)).toEqual(state);
		}
		expect(decided(await loadShoot(opened.database, shootId))).toEqual(states.at(-1));
	});

	it(`end in exactly the earlier states: ${RANDOM_STEPS} edits, undos and redos in random order`, async () => {
		const random = seededRandom(4711);
		const page = await Page.open();
		// What is below the first state was done before, and is left alone.
		const states = [decided(page.known.shoot)];
		let at = 0;
		const counts = { edits: 0, refused: 0, undos: 0, redos: 0 };
		for (let step = 0; step < RANDOM_STEPS; step++) {
			const dice = random();
			if (dice < 0.3 && at > 0) {
				page.apply(await undo(opened.shoots, shootId));
				expect(decided(page.known.shoot)).toEqual(states[--at]);
				counts.undos++;
			} else if (dice < 0.5 && at < states.length - 1) {
				page.apply(await redo(opened.shoots, shootId));
				expect(decided(page.known.shoot)).toEqual(states[++at]);
				counts.redos++;
			} else {
				const command = parseCommand(randomCommand(page.known.shoot, random));
				const { revision } = page.known.shoot;
				try {
					const change = await applyEdit(opened.shoots, shootId, command);
					if (change.revision === revision) continue;
					page.apply(change);
					states.splice(++at, Infinity, decided(page.known.shoot));
					counts.edits++;
				} catch (error) {
					// A refusal is said in a sentence; anything else would be a 500.
					if (!(error instanceof ShootError)) throw new Error(JSON.stringify(command), { cause: error });
					counts.refused++;
				}
			}
			if (step % 50 === 0) expect(page.known.shoot).toEqual(await loadShoot(opened.database, shootId));
		}
		expect(page.known.shoot).toEqual(await loadShoot(opened.database, shootId));
		process.stdout.write(`    random steps: ${JSON.stringify(counts)}\n`);
		expect(counts.undos).toBeGreaterThan(RANDOM_STEPS / 10);
	}, 1_200_000);

	it('leave what they do not touch the same objects', async () => {
		const page = await Page.open();
		const { clips, devices, lineUps } = page.known.shoot;
		const [first] = clips;
		page.apply(
			await applyEdit(opened.shoots, shootId, parseCommand({ kind: 'rename-clip', clipId: first!.id, name: 'Other' }))
		);
		expect(page.known.shoot.clips.find((clip) => clip.id === first!.id)).not.toBe(first);
		const others = page.known.shoot.clips.filter((clip) => clip.id !== first!.id);
		expect(others.every((clip) => clips.includes(clip))).toBe(true);
		expect(page.known.shoot.devices).toBe(devices);
		expect(page.known.shoot.lineUps).toBe(lineUps);
	});

	it('are told to everybody, once, and those that change nothing to nobody', async () => {
		const told: number[] = [];
		const end = opened.bus.subscribe((event) => event.type === 'change' && told.push(event.change.revision));
		const change = await applyEdit(opened.shoots, shootId, parseCommand({ kind: 'rename-shoot', name: 'Told' }));
		const none = await applyEdit(opened.shoots, shootId, parseCommand({ kind: 'rename-shoot', name: 'Told' }));
		await opened.shoots.tell(shootId);
		end();
		expect(none.revision).toBe(change.revision);
		expect(told).toEqual([change.revision]);
	});

	it('refuse to ask the database within a transaction, which would wait for itself for ever', async () => {
		await expect(opened.shoots.change(shootId, async () => opened.database.query('select 1'))).rejects.toThrow(
			'Within a transaction'
		);
		expect(await opened.database.query('select 1 as one')).toEqual([{ one: 1 }]);
	});
});
