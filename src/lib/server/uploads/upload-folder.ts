import { join } from 'node:path';
import type { Runtime } from '../runtime';

/** What uploads need of a running server. */
export type UploadContext = Pick<Runtime, 'settings' | 'log' | 'database' | 'queue'>;

/** Where all uploads land. */
export function uploadsFolder(dataFolder: string): string {
	return join(dataFolder, 'uploads');
}

/** Where a shoot's uploads land. */
export function uploadFolder(dataFolder: string, shootId: string): string {
	return join(uploadsFolder(dataFolder), shootId);
}
