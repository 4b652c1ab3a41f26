import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { AS_RECORDED, USUAL_MIX } from '../../src/lib/core/shoot/decisions';
import type { Shoot } from '../../src/lib/core/shoot/shoot';
import { listEdits, redo, undo } from '../../src/lib/server/edits/log';
import { listShoots, loadShoot } from '../../src/lib/server/shoots/view';
import { fillOldDatabase, fixture } from '../support/old-database';
import { openTestDatabase, type TestDatabase } from '../support/test-database';

/** What that version knew of a shoot: its master was the shoot's own. */
interface OldShoot extends Omit<Shoot, 'lineUps' | 'handOffs'> {
	readonly lineUps: readonly object[];
	readonly master: readonly object[];
}

/** A database of the version before (the demo, lined up, with 16 edits of which 3 are undone), opened by this one. */
describe('a database of the version before', () => {
	let opened: TestDatabase;
	let old: OldShoot;
	beforeAll(async () => {
		opened = await openTestDatabase(fillOldDatabase);
		old = await fixture<OldShoot>('database-005.shoot.json.gz');
	});
	afterAll(() => opened.close());

	it('opens with its shoots and all that was decided', async () => {
		expect((await listShoots(opened.database)).map((shoot) => shoot.name)).toEqual([old.name, 'A second one']);
		const { lineUps, handOffs, ...shoot } = await loadShoot(opened.database, old.id);
		const { lineUps: oldLineUps, master, ...before } = old;
		// This version may know more of a file than that one did; how much of its small picture is made stands in the caches.
		const isOfCaches = (name: string) => name === 'proxyReady' || name === 'proxyFlicks';
		const decided = JSON.parse(
			JSON.stringify(before, (name, value: unknown) => (isOfCaches(name) ? undefined : value))
		);
		expect(shoot).toMatchObject(decided as object);
		const known = {
			master: master.map((one) => ({ ...AS_RECORDED, ...one })),
			standIns: [],
			mix: USUAL_MIX,
			corrections: []
		};
		expect(lineUps).toEqual(oldLineUps.map((lineUp) => ({ ...lineUp, ...known })));
		expect(handOffs.map((one) => one.kind)).toEqual(['otio']);
	});

	it('undoes and redoes everything that it did, to the first edit and back', async () => {
		const { database, shoots } = opened;
		const decided = async () => {
			const { revision: _revision, undo: _undo, redo: _redo, ...rest } = await loadShoot(database, old.id);
			return rest;
		};
		const now = await decided();
		const labels = (await listEdits(database, old.id)).map((one) => one.label);
		const states = [now];
		while ((await loadShoot(database, old.id)).undo !== undefined) {
			await undo(shoots, old.id);
			states.push(await decided());
		}
		expect(states).toHaveLength(14);
		expect(states.at(-1)!.lineUps).toEqual([]);
		for (const state of states.slice(0, -1).reverse()) {
			await redo(shoots, old.id);
			expect(await decided()).toEqual(state);
		}
		// What was undone when it was closed can be redone as well: two devices that were merged, and a trim.
		for (let step = 0; step < 3; step++) await redo(shoots, old.id);
		expect((await loadShoot(database, old.id)).devices).toHaveLength(now.devices.length - 1);
		await expect(redo(shoots, old.id)).rejects.toThrow('nothing to redo');
		for (let step = 0; step < 3; step++) await undo(shoots, old.id);
		expect(await decided()).toEqual(now);
		expect((await listEdits(database, old.id)).map((one) => one.label)).toEqual(labels);
	});
});
