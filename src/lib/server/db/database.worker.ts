import { PGlite } from '@electric-sql/pglite';
import { writeFile } from 'node:fs/promises';
import { parentPort, workerData } from 'node:worker_threads';

/** What the database thread is asked. */
export type DatabaseRequest =
	| { readonly id: number; readonly kind: 'query'; readonly sql: string; readonly values: unknown[] }
	| { readonly id: number; readonly kind: 'script'; readonly sql: string }
	| { readonly id: number; readonly kind: 'dump'; readonly path: string }
	| { readonly id: number; readonly kind: 'close' };

export interface DatabaseResult {
	readonly rows: readonly Record<string, unknown>[];
	readonly affectedRows: number;
}

export type DatabaseAnswer =
	| { readonly id: number; readonly result: DatabaseResult }
	| {
			readonly id: number;
			readonly error: { readonly message: string; readonly code?: string; readonly detail?: string };
	  };

const port = parentPort!;
const own = (Array.isArray(workerData) ? workerData[1] : workerData) as {
	readonly folder: string;
	/** A backup to begin with; the folder must be empty then. */
	readonly backup?: Uint8Array<ArrayBuffer>;
};

// PGlite leaves fsync off; a decision that was acknowledged must be on the disk.
const opened = PGlite.create({
	dataDir: own.folder,
	...(own.backup ? { loadDataDir: new Blob([own.backup], { type: 'application/x-gzip' }) } : {}),
	startParams: PGlite.defaultStartParams.filter((parameter) => parameter !== '-F')
});

port.on('message', (request: DatabaseRequest) => {
	void answer(request).then((message) => {
		port.postMessage(message);
		if (request.kind === 'close') port.close();
	});
});

async function answer(request: DatabaseRequest): Promise<DatabaseAnswer> {
	try {
		const database = await opened;
		if (request.kind === 'close') {
			await database.close();
			return { id: request.id, result: { rows: [], affectedRows: 0 } };
		}
		if (request.kind === 'dump') {
			const dumped = await database.dumpDataDir('gzip');
			await writeFile(request.path, new Uint8Array(await dumped.arrayBuffer()), { flush: true });
			return { id: request.id, result: { rows: [], affectedRows: 0 } };
		}
		if (request.kind === 'script') {
			const results = await database.exec(request.sql);
			const last = results.findLast((one) => one.rows.length > 0) ?? results.at(-1);
			return {
				id: request.id,
				result: { rows: (last?.rows ?? []) as Record<string, unknown>[], affectedRows: last?.affectedRows ?? 0 }
			};
		}
		const result = await database.query<Record<string, unknown>>(request.sql, request.values);
		return { id: request.id, result: { rows: result.rows, affectedRows: result.affectedRows ?? 0 } };
	} catch (error) {
		// PostgreSQL has ended itself: nothing it says from now on would be true.
		if (error instanceof WebAssembly.RuntimeError || (error as Error).name === 'ExitStatus') throw error;
		const { message, code, detail } = error as { message: string; code?: string; detail?: string };
		return {
			id: request.id,
			error: { message: String(message), ...(code ? { code } : {}), ...(detail ? { detail } : {}) }
		};
	}
}
