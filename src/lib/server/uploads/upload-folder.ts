import { join } from 'node:path';
import type { Logger } from 'pino';
import type { Database } from '../db/database';
import type { JobQueue } from '../jobs/job-queue';
import type { Settings } from '../settings';

/** What uploads need of a running server. */
export interface UploadContext {
	readonly settings: Settings;
	readonly log: Logger;
	readonly database: Database;
	readonly queue: JobQueue;
}

/** Where all uploads land. */
export function uploadsFolder(dataFolder: string): string {
	return join(dataFolder, 'uploads');
}

/** Where a shoot's uploads land. */
export function uploadFolder(dataFolder: string, shootId: string): string {
	return join(uploadsFolder(dataFolder), shootId);
}
