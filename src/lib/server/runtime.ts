import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { pino, type Logger } from 'pino';
import { type AllowedFolders, allowFolders } from './access/allowed-folders';
import { createEnginePool, type EnginePool } from './compute/engine-pool';
import { type Database, openDatabase } from './db/database';
import { lockDataFolder } from './db/data-lock';
import { migrate } from './db/migrate';
import { createJobQueue, type JobQueue } from './jobs/job-queue';
import { jobHandlers } from './jobs/job-handlers';
import { type MediaCache, openMediaCache } from './media/media-cache';
import type { Settings } from './settings';
import { ensureDemoShoot } from './shoots/demo-shoot';

/** All that a running server has; the routes reach everything through it. */
export interface Runtime {
	readonly settings: Settings;
	readonly log: Logger;
	readonly database: Database;
	readonly queue: JobQueue;
	readonly pool: EnginePool;
	readonly cache: MediaCache;
	readonly folders: AllowedFolders;
	close(): Promise<void>;
}

/** Opens everything, in the order it depends on each other. @throws DataLockedError, AccessError, DatabaseError */
export async function openRuntime(settings: Settings): Promise<Runtime> {
	const log = pino({ level: settings.logLevel });
	const release = await lockDataFolder(settings.dataFolder);
	const demoFolder = join(settings.dataFolder, 'demo');
	await mkdir(demoFolder, { recursive: true });
	const folders = await allowFolders([demoFolder, ...settings.mediaFolders]);
	const database = openDatabase(join(settings.dataFolder, 'database'));
	await migrate(database);
	const pool = createEnginePool();
	const cache = openMediaCache(join(settings.dataFolder, 'cache'));
	const queue = createJobQueue(database, log);
	const runtime: Runtime = {
		settings,
		log,
		database,
		queue,
		pool,
		cache,
		folders,
		async close() {
			await queue.close();
			await pool.close();
			await database.close();
			await release();
		}
	};
	await queue.start(jobHandlers(runtime));
	if (settings.demo) await ensureDemoShoot(runtime, demoFolder);
	return runtime;
}

let current: Runtime | undefined;

export function setRuntime(runtime: Runtime | undefined): void {
	current = runtime;
}

/** The running server's own. @throws Error before it is open */
export function getRuntime(): Runtime {
	if (!current) throw new Error('The server is not open yet.');
	return current;
}
