import { mkdir, mkdtemp, rename, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gunzipSync, gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Shoot } from '../../core/shoot/shoot';
import { runTool } from '../media/run-tool';
import { openRuntime } from '../open-runtime';
import type { Runtime } from '../runtime';
import { layBlankDatabase } from '../../../../tests/support/blank-database';
import { createShoot } from './create';
import { bringBackShoot, deleteShoot, endDeletedShoots } from './delete';
import { parseCommand } from '../../contract/commands/commands';
import { applyEdit } from '../edits/apply';
import { undo } from '../edits/log';
import { findAgain } from '../stages/gather/find-again';
import { listShoots, loadShoot } from './view';
import { archiveShoot, duplicateShoot, restoreShoot } from './archive';

let base: string;
let here: Runtime;
let elsewhere: Runtime;
let shootId: string;

async function open(data: string, media: string): Promise<Runtime> {
	await layBlankDatabase(join(base, data, 'database'));
	return openRuntime({
		dataFolder: join(base, data),
		mediaFolders: [join(base, media)],
		demo: false,
		logLevel: 'silent'
	});
}

async function settled(runtime: Runtime, id: string): Promise<void> {
	while ((await runtime.queue.list(id)).some((job) => job.state === 'running' || job.state === 'waiting'))
		await new Promise((resolve) => setTimeout(resolve, 100));
}

/** What is decided, in words that hold on every machine. */
function decided(shoot: Shoot): unknown {
	const name = (id: string | undefined) => shoot.devices.find((device) => device.id === id)?.name;
	return {
		main: name(shoot.mainCameraId),
		devices: shoot.devices.map(({ name: own, badge, channelNames, airMetres }) => [
			own,
			badge,
			channelNames,
			airMetres
		]),
		clips: shoot.clips.map((clip) => [
			clip.name,
			name(clip.deviceId),
			clip.scene,
			clip.durationFlicks,
			clip.syncPoints.map((point) => [point.name, point.mediaFlicks])
		]),
		undo: shoot.undo
	};
}

beforeAll(async () => {
	base = await mkdtemp(join(tmpdir(), 'open-choir-archive-'));
	for (const folder of ['cards/cam', 'cards/rec', 'other']) await mkdir(join(base, folder), { recursive: true });
	await runTool('ffmpeg', [
		'-v',
		'error',
		'-f',
		'lavfi',
		'-i',
		'testsrc2=s=128x72:r=25:d=3',
		'-f',
		'lavfi',
		'-i',
		'sine=d=3',
		'-c:v',
		'libx264',
		'-c:a',
		'aac',
		join(base, 'cards/cam/C0001.MP4')
	]);
	for (const channel of [1, 2])
		await runTool('ffmpeg', [
			'-v',
			'error',
			'-f',
			'lavfi',
			'-i',
			`sine=f=${300 * channel}:d=4`,
			join(base, `cards/rec/T1_Tr${channel}.WAV`)
		]);
	here = await open('here', 'cards');
	elsewhere = await open('elsewhere', 'other');
	shootId = await createShoot(here, 'Concert', join(base, 'cards'));
	await settled(here, shootId);
	const shoot = await loadShoot(here.database, shootId);
	const [camera, recorder] = shoot.devices;
	for (const command of [
		{ kind: 'rename-device', deviceId: camera!.id, name: 'Wide' },
		{ kind: 'name-channel', deviceId: recorder!.id, channel: 1, name: 'Choir' },
		{ kind: 'note-clips', notes: [{ clipId: shoot.clips[0]!.id, scene: '7' }] },
		{ kind: 'add-sync-point', clipId: shoot.clips[0]!.id, mediaFlicks: 705_600_000, name: 'Clap' },
		{ kind: 'set-air-delay', deviceId: recorder!.id, metres: 12 }
	])
		await applyEdit(here.shoots, shootId, parseCommand(command));
}, 120_000);
afterAll(async () => {
	await here.close();
	await elsewhere.close();
	await rm(base, { recursive: true, force: true });
});

describe('a shoot', () => {
	it('is duplicated with all that is decided, and goes its own way from there', async () => {
		const copy = await duplicateShoot(here, shootId);
		const before = decided(await loadShoot(here.database, shootId));
		expect(decided(await loadShoot(here.database, copy))).toEqual(before);
		await undo(here.shoots, copy);
		expect((await loadShoot(here.database, copy)).devices.map((one) => one.airMetres)).toEqual([0, 0]);
		expect(decided(await loadShoot(here.database, shootId))).toEqual(before);
	});

	it('goes to another machine as one file, finds its media there, and can be undone there', async () => {
		const bytes = await archiveShoot(here.database, shootId);
		const before = decided(await loadShoot(here.database, shootId));
		await rename(join(base, 'cards'), join(base, 'other', 'disk'));
		const restored = await restoreShoot(elsewhere, bytes);
		await settled(elsewhere, restored);
		const lost = await loadShoot(elsewhere.database, restored);
		expect(decided(lost)).toEqual(before);
		expect(
			lost.clips.every((clip) => clip.parts.every((part) => part.isMissing && part.path.startsWith('/missing/')))
		).toBe(true);
		expect(await findAgain(elsewhere, restored, join(base, 'other'))).toEqual({ found: 3, missing: 0 });
		await settled(elsewhere, restored);
		const again = await loadShoot(elsewhere.database, restored);
		expect(again.badFiles).toEqual([]);
		const prepared = (shoot: Shoot) => shoot.clips.map((clip) => clip.parts[0]!.sound?.listeningSamples);
		expect(prepared(again)).toEqual(prepared(await loadShoot(here.database, shootId)));
		await undo(elsewhere.shoots, restored);
		expect((await loadShoot(elsewhere.database, restored)).devices.map((one) => one.airMetres)).toEqual([0, 0]);
		await rename(join(base, 'other', 'disk'), join(base, 'cards'));
	});

	it('is not made of what is no archive, and believes no path in one', async () => {
		await expect(restoreShoot(elsewhere, new TextEncoder().encode('shoot'))).rejects.toThrow('no archive of a shoot');
		await expect(restoreShoot(elsewhere, gzipSync('{"format":"other"}'))).rejects.toThrow('no archive');
		const forged = gunzipSync(await archiveShoot(here.database, shootId))
			.toString()
			.replaceAll(join(base, 'cards'), '/etc');
		const id = await restoreShoot(elsewhere, gzipSync(forged));
		await settled(elsewhere, id);
		const shoot = await loadShoot(elsewhere.database, id);
		expect(shoot.sources).toEqual([]);
		expect(
			JSON.stringify(await elsewhere.database.query('select path, facts from media_file where shoot_id = $1', [id]))
		).not.toContain('/etc');
	});

	it('is deleted, brought back, and after two weeks gone, its media untouched', async () => {
		const copy = await duplicateShoot(here, shootId);
		await deleteShoot(here, copy);
		await expect(loadShoot(here.database, copy)).rejects.toThrow('no such shoot');
		expect((await listShoots(here.database)).find((one) => one.id === copy)!.endsAt).toMatch(/^\d{4}-\d\d-\d\d$/);
		await bringBackShoot(here, copy);
		expect((await loadShoot(here.database, copy)).clips).toHaveLength(2);
		await deleteShoot(here, copy);
		await endDeletedShoots(here);
		expect((await listShoots(here.database)).some((one) => one.id === copy)).toBe(true);
		await here.database.query(`update shoot set deleted_at = now() - interval '15 days' where id = $1`, [copy]);
		await endDeletedShoots(here);
		expect((await listShoots(here.database)).some((one) => one.id === copy)).toBe(false);
		expect(
			(await loadShoot(here.database, shootId)).clips.every((clip) => clip.parts.every((part) => !part.isMissing))
		).toBe(true);
	});
});
