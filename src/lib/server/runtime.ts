import type { Logger } from 'pino';
import type { Watched } from '../contract/views';
import type { AllowedFolders } from './access/allowed-folders';
import type { Bus } from './bus/bus';
import type { EnginePool } from './engine/engine-pool';
import type { Database } from './db/database';
import type { Shoots } from './edits/change';
import type { JobQueue } from './jobs/job-queue';
import type { Precedence } from './jobs/precedence';
import type { ListeningSource } from './media/listening/read-listening';
import type { MediaCache } from './media/media-cache';
import type { PieceMaker } from './media/pieces/piece-maker';
import type { Stills } from './media/pieces/stills';
import type { Settings } from './settings';
import type { MediaFiles } from './shoots/media-file';
import type { UploadServer } from './uploads/upload-server';

/** All that a running server has; the routes reach everything through it. */
export interface Runtime {
	readonly settings: Settings;
	readonly log: Logger;
	readonly database: Database;
	readonly bus: Bus;
	readonly shoots: Shoots;
	readonly queue: JobQueue;
	readonly pool: EnginePool;
	readonly precedence: Precedence;
	readonly cache: MediaCache;
	readonly listening: ListeningSource;
	readonly mediaFiles: MediaFiles;
	readonly pieces: PieceMaker;
	readonly stills: Stills;
	readonly folders: AllowedFolders;
	readonly uploads: UploadServer;
	/** What is looked at, by shoot: it is prepared first. */
	readonly watched: Map<string, Watched>;
	close(): Promise<void>;
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
