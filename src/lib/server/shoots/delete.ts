import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Runtime } from '../runtime';
import { uploadFolder } from '../uploads/upload-folder';
import { KEPT_DAYS } from './kept-days';
import { ShootError } from './shoot-error';

/** Takes a shoot off the list; it can be brought back for a while. Its media are not touched. */
export async function deleteShoot({ database, queue, bus }: Runtime, shootId: string): Promise<void> {
	const [row] = await database.query(
		'update shoot set deleted_at = now() where id = $1 and deleted_at is null returning id',
		[shootId]
	);
	if (!row) throw new ShootError('no-such-shoot', 'There is no such shoot.');
	for (const job of await queue.list(shootId))
		if (job.state === 'running' || job.state === 'waiting') await queue.stop(job.id).catch(() => undefined);
	bus.publish({ type: 'shoots' });
}

/** @throws ShootError it is not among the deleted ones */
export async function bringBackShoot({ database, bus }: Runtime, shootId: string): Promise<void> {
	const [row] = await database.query(
		'update shoot set deleted_at = null where id = $1 and deleted_at is not null returning id',
		[shootId]
	);
	if (!row) throw new ShootError('not-deleted', 'That shoot is not among the deleted ones.');
	bus.publish({ type: 'shoots' });
}

/**
 * Ends what was deleted long ago: all that was decided, hand-offs, and files that were dropped into the page, unless a
 * copy of the shoot uses them.
 */
export async function endDeletedShoots(runtime: Runtime): Promise<void> {
	const { database, settings } = runtime;
	const ended = await database.query<{ id: string }>(
		`delete from shoot where deleted_at < now() - make_interval(days => $1) returning id`,
		[KEPT_DAYS]
	);
	for (const { id } of ended) {
		const folder = uploadFolder(settings.dataFolder, id);
		const [used] = await database.query('select 1 from media_file where starts_with(path, $1) limit 1', [`${folder}/`]);
		if (!used) await rm(folder, { recursive: true, force: true });
		await rm(join(settings.dataFolder, 'hand-offs', id), { recursive: true, force: true });
		await runtime.uploads.dropUnfinished(id);
	}
}
