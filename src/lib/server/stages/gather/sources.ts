import type { Runtime } from '../../runtime';
import { ShootError } from '../../shoots/shoot-error';

/**
 * Adds a folder to a shoot and begins to read it.
 * @throws AccessError the folder is not an allowed one; ShootError it belongs to the shoot already
 */
export async function addSource(runtime: Runtime, shootId: string, folder: string): Promise<void> {
	const { sources } = (await runtime.shoots.current(shootId)).shoot;
	const real = await runtime.folders.resolve(folder);
	const known = sources.find(({ path }) => real === path || real.startsWith(`${path}/`));
	if (known) throw new ShootError('source-known', `That folder is part of the shoot already, in ${known.path}.`);
	await runtime.shoots.change(shootId, (transaction) =>
		transaction.query('insert into source (shoot_id, path, position) values ($1, $2, $3)', [
			shootId,
			real,
			sources.length
		])
	);
	await runtime.queue.add(shootId, 'gather', {});
}
