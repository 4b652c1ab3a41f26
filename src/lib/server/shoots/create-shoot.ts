import type { Runtime } from '../runtime';

/** Makes a shoot of a folder and begins to read it. @throws AccessError the folder is not an allowed one */
export async function createShoot(runtime: Runtime, name: string, folder: string, isDemo = false): Promise<string> {
	const real = await runtime.folders.resolve(folder);
	const id = await runtime.database.transaction(async (transaction) => {
		const [row] = await transaction.query<{ id: string }>(
			'insert into shoot (name, folder, is_demo) values ($1, $2, $3) returning id',
			[name, real, isDemo]
		);
		await transaction.query('insert into source (shoot_id, path) values ($1, $2)', [row!.id, real]);
		return row!.id;
	});
	await runtime.queue.add(id, 'gather', 'Reading the files');
	return id;
}
