import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

/** What a worker thread must be given to run one of our scripts. */
export interface WorkerScript {
	readonly filename: string;
	readonly workerData: { readonly script: string };
}

/**
 * Finds a worker's script. From source (tests, development, command line) a bootstrap that understands TypeScript is
 * run; in the built server it lies in `workers/` of the build.
 * @param source path below src/lib/server without its ending, such as "engine/engine.worker"
 */
export function workerScript(source: string): WorkerScript {
	const here = fileURLToPath(import.meta.url);
	if (here.endsWith('.ts')) {
		const server = join(dirname(here), '..');
		return {
			filename: join(server, 'threads', 'worker-bootstrap.mjs'),
			workerData: { script: pathToFileURL(join(server, `${source}.ts`)).href }
		};
	}
	const name = `${source.split('/').at(-1)!}.js`;
	for (let folder = dirname(here); folder !== dirname(folder); folder = dirname(folder)) {
		const candidate = join(folder, 'workers', name);
		if (existsSync(candidate)) return { filename: candidate, workerData: { script: candidate } };
	}
	throw new Error(`The worker ${name} is missing from the build. Run npm run build.`);
}
