import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { layBlankDatabase } from '../../../../tests/support/blank-database';
import { secondsToFlicks } from '../../core/time/flicks';
import { type Database, openDatabase } from '../db/database';
import { migrate } from '../db/migrate';
import { createBus } from '../bus/bus';
import { installTriggers } from '../db/tables';
import { parseCommand } from '../../contract/commands/commands';
import { loadShoot } from '../shoots/view';
import { applyEdit } from './apply';
import { openShoots, type Shoots } from './change';
import { listEdits, redo, undo } from './log';

let folder: string;
let database: Database;
let shoots: Shoots;
let shootId: string;
const ids: Record<string, string> = {};

async function insert(name: string, sql: string, ...values: unknown[]): Promise<string> {
	const [row] = await database.query<{ id: string }>(`${sql} returning id`, values);
	ids[name] = row!.id;
	return row!.id;
}

async function open(): Promise<void> {
	database = openDatabase(join(folder, 'database'));
	await migrate(database);
	await installTriggers(database);
	shoots = openShoots(database, createBus());
}

beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-edits-'));
	await layBlankDatabase(join(folder, 'database'));
	await open();
	shootId = await insert('shoot', `insert into shoot (name, folder) values ('Try', '/cards')`);
	for (const [badge, kind] of [
		['A', 'camera'],
		['B', 'camera'],
		['1', 'recorder']
	] as const) {
		const device = await insert(
			badge,
			'insert into device (shoot_id, folder, name, badge, kind, position) values ($1, $2, $3, $4, $5, $6)',
			shootId,
			badge,
			`Device ${badge}`,
			badge,
			kind,
			'AB1'.indexOf(badge)
		);
		await insert(
			`clip ${badge}`,
			'insert into clip (shoot_id, device_id, name, duration_flicks, position) values ($1, $2, $3, $4, 0)',
			shootId,
			device,
			`clip ${badge}`,
			secondsToFlicks(100)
		);
	}
	const lineUp = await insert(
		'line-up',
		'insert into line_up (shoot_id, reference_device_id, position) values ($1, $2, 0)',
		shootId,
		ids['1']
	);
	for (const badge of ['A', '1']) {
		await insert(
			`placement ${badge}`,
			`insert into placement (shoot_id, clip_id, line_up_id, start_flicks, rate_ppm, method, confidence, residual_seconds) values ($1, $2, $3, $4, 12.5, 'audio', 0.99, 0.001)`,
			shootId,
			ids[`clip ${badge}`],
			lineUp,
			secondsToFlicks(2)
		);
	}
	await insert(
		'stray',
		`insert into stray (shoot_id, clip_id, reason) values ($1, $2, 'silent')`,
		shootId,
		ids['clip B']
	);
	await insert(
		'program',
		'insert into program (shoot_id, line_up_id, in_flicks, out_flicks) values ($1, $2, $3, $4)',
		shootId,
		lineUp,
		secondsToFlicks(2),
		secondsToFlicks(90)
	);
	await insert(
		'call',
		'insert into program_call (shoot_id, line_up_id, at_flicks, device_id) values ($1, $2, $3, $4)',
		shootId,
		lineUp,
		secondsToFlicks(2),
		ids['A']
	);
});
afterAll(async () => {
	await database.close();
	await rm(folder, { recursive: true });
});

/** All that is decided: everything but what counts changes and undo. */
async function decided(): Promise<unknown> {
	const { revision: _revision, undo: _undo, redo: _redo, ...rest } = await loadShoot(database, shootId);
	return rest;
}

const edit = (command: object) => applyEdit(shoots, shootId, parseCommand(command));

describe('a change that fails', () => {
	it('leaves nothing of itself behind, not even what it read of itself', async () => {
		const fresh = openShoots(database, createBus());
		const failing = fresh.change(shootId, async (transaction, before) => {
			await transaction.query(`update shoot set name = 'Half done' where id = $1`, [shootId]);
			expect((await before()).name).toBe('Half done');
			throw new Error('given up');
		});
		await expect(failing).rejects.toThrow('given up');
		expect((await fresh.current(shootId)).shoot.name).toBe('Try');
	});
});

describe('edits', () => {
	it('are undone and redone step by step, each to exactly what was', async () => {
		const commands = [
			{ kind: 'rename-device', deviceId: ids['A'], name: 'Wide' },
			{ kind: 'set-badge', deviceId: ids['A'], badge: 'w' },
			{ kind: 'rename-clip', clipId: ids['clip A'], name: 'Evening' },
			{ kind: 'set-main-camera', deviceId: ids['B'] },
			{ kind: 'shift-clips', clipIds: [ids['clip A']], byFlicks: 14_700 },
			{ kind: 'set-start', clipId: ids['clip A'], startFlicks: secondsToFlicks(3.25) },
			{ kind: 'shift-clips', clipIds: [ids['clip 1']], byFlicks: -14_700 },
			{
				kind: 'set-master',
				lineUpId: ids['line-up'],
				channels: [
					{ deviceId: ids['1'], channel: 0 },
					{ deviceId: ids['1'], channel: 1, gainDb: -3, pan: 0.5 }
				]
			},
			{ kind: 'add-sync-point', clipId: ids['clip A'], mediaFlicks: secondsToFlicks(10), name: 'Clap' },
			{ kind: 'add-sync-point', clipId: ids['clip B'], mediaFlicks: secondsToFlicks(12), name: 'Clap' },
			{ kind: 'call', lineUpId: ids['line-up'], atFlicks: secondsToFlicks(20), deviceId: ids['B'] },
			{ kind: 'trim', lineUpId: ids['line-up'], inFlicks: secondsToFlicks(5), outFlicks: secondsToFlicks(80) }
		];
		const states = [await decided()];
		for (const command of commands) {
			await edit(command);
			states.push(await decided());
		}
		for (let index = commands.length; index > 0; index--) {
			expect(await decided()).toEqual(states[index]);
			expect(await decided()).not.toEqual(states[index - 1]);
			await undo(shoots, shootId);
		}
		expect(await decided()).toEqual(states[0]);
		await expect(undo(shoots, shootId)).rejects.toThrow('nothing to undo');
		// The database is closed and opened again: undo and redo survive.
		await database.close();
		await open();
		for (let index = 1; index <= commands.length; index++) {
			await redo(shoots, shootId);
			expect(await decided()).toEqual(states[index]);
		}
		await expect(redo(shoots, shootId)).rejects.toThrow('nothing to redo');
		expect((await listEdits(database, shootId)).map((one) => one.label)).toContain('Mark Clap in Evening');
	});

	it('place a clip without sound by a point in each of two clips, and undo brings the stray back', async () => {
		const shoot = await loadShoot(database, shootId);
		const point = (clip: string) => shoot.clips.find((one) => one.id === ids[clip])!.syncPoints[0]!.id;
		await edit({ kind: 'place-by-sync-point', pointId: point('clip B'), ontoPointId: point('clip A') });
		const placed = (await loadShoot(database, shootId)).clips.find((one) => one.id === ids['clip B'])!;
		// 10 s into a clip that starts at 3.25 s and runs 12.5 ppm slow, less the 12 s before the clap.
		expect(placed.placement!.startFlicks).toBe(
			Math.round(secondsToFlicks(3.25) + secondsToFlicks(10) * (1 + 12.5e-6) - secondsToFlicks(12))
		);
		expect(placed.stray).toBeUndefined();
		await undo(shoots, shootId);
		expect((await loadShoot(database, shootId)).clips.find((one) => one.id === ids['clip B'])!.stray).toBe('silent');
	});

	it('that cannot be leave everything as it was', async () => {
		const before = await decided();
		await expect(edit({ kind: 'set-badge', deviceId: ids['B'], badge: '1' })).rejects.toThrow('belongs to another');
		await expect(edit({ kind: 'set-main-camera', deviceId: ids['1'] })).rejects.toThrow('Only a camera');
		await expect(edit({ kind: 'call', lineUpId: ids['line-up'], atFlicks: 0, deviceId: ids['1'] })).rejects.toThrow(
			'Only a camera'
		);
		await expect(edit({ kind: 'shift-clips', clipIds: [ids['clip B']], byFlicks: 1 })).rejects.toThrow('no place');
		await expect(
			edit({ kind: 'add-sync-point', clipId: ids['clip A'], mediaFlicks: secondsToFlicks(101), name: 'x' })
		).rejects.toThrow('after the end');
		// The last of two channels breaks a rule of the database: the first is not stored either.
		await expect(
			edit({
				kind: 'set-master',
				lineUpId: ids['line-up'],
				channels: [
					{ deviceId: ids['1'], channel: 5 },
					{ deviceId: ids['1'], channel: 5 }
				]
			})
		).rejects.toThrow();
		expect(await decided()).toEqual(before);
		expect(() => parseCommand({ kind: 'shift-clips', clipIds: [ids['clip A']], byFlicks: 0.5 })).toThrow();
	});

	it('that change nothing are no step of undo', async () => {
		const { undo: last } = await loadShoot(database, shootId);
		await edit({ kind: 'call', lineUpId: ids['line-up'], atFlicks: secondsToFlicks(30), deviceId: ids['B'] });
		expect((await loadShoot(database, shootId)).undo).toBe(last);
	});
});
