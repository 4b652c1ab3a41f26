import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { pino } from 'pino';
import { allowFolders } from './access/allowed-folders';
import { createBus } from './bus/bus';
import { createEnginePool } from './engine/engine-pool';
import { lockDataFolder } from './db/data-lock';
import { openDatabase } from './db/database';
import { migrate } from './db/migrate';
import { installTriggers } from './db/tables';
import { openShoots } from './edits/change';
import { jobHandlers } from './job-kinds';
import { createJobQueue } from './jobs/job-queue';
import { openMediaCache } from './media/media-cache';
import type { Runtime } from './runtime';
import type { Settings } from './settings';
import { endDeletedShoots } from './shoots/delete';
import { ensureDemoShoot } from './shoots/demo-shoot';
import { uploadsFolder } from './uploads/upload-folder';
import { openUploadServer } from './uploads/upload-server';

/** Opens everything, in the order it depends on each other. @throws DataLockedError, AccessError, DatabaseError */
export async function openRuntime(settings: Settings): Promise<Runtime> {
	const log = pino({ level: settings.logLevel });
	const release = await lockDataFolder(settings.dataFolder, () => {
		process.stderr.write(
			`The lock of the data folder ${settings.dataFolder} was lost: to lose nothing else, Open Choir ends.\n`
		);
		process.exit(1);
	});
	const demoFolder = join(settings.dataFolder, 'demo');
	const landed = uploadsFolder(settings.dataFolder);
	for (const folder of [demoFolder, landed]) await mkdir(folder, { recursive: true });
	const folders = await allowFolders([demoFolder, ...settings.mediaFolders], [landed]);
	const database = openDatabase(join(settings.dataFolder, 'database'));
	await migrate(database);
	await installTriggers(database);
	const bus = createBus();
	const shoots = openShoots(database, bus);
	const pool = createEnginePool();
	const cache = openMediaCache(join(settings.dataFolder, 'cache'));
	const queue = createJobQueue(database, bus, log);
	const uploads = await openUploadServer({ settings, log, database, queue });
	const runtime: Runtime = {
		settings,
		log,
		database,
		bus,
		shoots,
		queue,
		pool,
		cache,
		folders,
		uploads,
		watched: new Map(),
		async close() {
			await queue.close();
			await pool.close();
			await database.close();
			await release();
		}
	};
	// The folder is ours alone: whoever was writing is no more.
	await cache.sweep();
	await queue.start(jobHandlers(runtime));
	await uploads.landComplete();
	await endDeletedShoots(runtime);
	if (settings.demo) await ensureDemoShoot(runtime, demoFolder);
	return runtime;
}
