import { resolve } from 'node:path';
import { z } from 'zod';

/** How the server was started. */
export interface Settings {
	readonly dataFolder: string;
	readonly mediaFolders: readonly string[];
	readonly demo: boolean;
	readonly logLevel: string;
	/** A backup to begin with instead of what is there: its path, or the newest. */
	readonly restore?: string;
}

const Environment = z.object({
	OPEN_CHOIR_DATA: z.string().min(1).default('data'),
	/** Folders, one a line. */
	OPEN_CHOIR_MEDIA: z.string().default(''),
	OPEN_CHOIR_DEMO: z.enum(['yes', 'no']).default('yes'),
	OPEN_CHOIR_RESTORE: z.string().optional(),
	OPEN_CHOIR_LOG: z.enum(['fatal', 'error', 'warn', 'info', 'debug', 'silent']).default('warn')
});

/** @throws ZodError a variable makes no sense */
export function readSettings(environment: NodeJS.ProcessEnv): Settings {
	const read = Environment.parse(environment);
	return {
		dataFolder: resolve(read.OPEN_CHOIR_DATA),
		mediaFolders: read.OPEN_CHOIR_MEDIA.split('\n')
			.filter(Boolean)
			.map((folder) => resolve(folder)),
		demo: read.OPEN_CHOIR_DEMO === 'yes',
		logLevel: read.OPEN_CHOIR_LOG,
		...(read.OPEN_CHOIR_RESTORE ? { restore: read.OPEN_CHOIR_RESTORE } : {})
	};
}
