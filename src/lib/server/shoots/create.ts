import { mkdir } from 'node:fs/promises';
import type { Runtime } from '../runtime';
import { uploadFolder } from '../uploads/upload-folder';

/** Makes a shoot of a folder and begins to read it. @throws AccessError the folder is not an allowed one */
export async function createShoot(runtime: Runtime, name: string, folder: string, isDemo = false): Promise<string> {
	const id = await insertShoot(runtime, name, await runtime.folders.resolve(folder), isDemo);
	await runtime.queue.add(id, 'gather', {});
	return id;
}

/** Makes a shoot with nothing in it yet: its files will be dropped into the page. */
export async function createEmptyShoot(runtime: Runtime, name: string): Promise<string> {
	const id = crypto.randomUUID();
	const folder = uploadFolder(runtime.settings.dataFolder, id);
	await mkdir(folder, { recursive: true });
	return insertShoot(runtime, name, folder, false, id);
}

async function insertShoot(
	{ database }: Runtime,
	name: string,
	folder: string,
	isDemo: boolean,
	uploadsInto?: string
): Promise<string> {
	return database.transaction(async (transaction) => {
		const id = uploadsInto ?? crypto.randomUUID();
		await transaction.query('insert into shoot (id, name, folder, is_demo) values ($1, $2, $3, $4)', [
			id,
			name,
			folder,
			isDemo
		]);
		await transaction.query('insert into source (shoot_id, path, kind) values ($1, $2, $3)', [
			id,
			folder,
			uploadsInto === undefined ? 'folder' : 'upload'
		]);
		return id;
	});
}
