import { AsyncLocalStorage } from 'node:async_hooks';
import { Worker } from 'node:worker_threads';
import { workerScript } from '../threads/worker-script';
import type { DatabaseAnswer, DatabaseRequest, DatabaseResult } from './database.worker';

/** Something that answers SQL: the database, or a transaction on it. */
export interface Queryable {
	/** Rows of one statement with `$1` parameters. */
	query<Row = Record<string, unknown>>(sql: string, values?: readonly unknown[]): Promise<Row[]>;
}

export interface Database extends Queryable {
	/** All or nothing; other queries wait until it is over. Within it the transaction is asked: the database itself refuses. */
	transaction<Result>(work: (transaction: Queryable) => Promise<Result>): Promise<Result>;
	/** Several statements without parameters; the rows of the last one that gave some. */
	script(sql: string): Promise<DatabaseResult>;
	/** Writes all of it as one compressed file. */
	dump(path: string): Promise<void>;
	close(): Promise<void>;
}

/** An error of the database, with PostgreSQL's code. */
export class DatabaseError extends Error {
	constructor(
		message: string,
		readonly code: string | undefined
	) {
		super(message);
		this.name = 'DatabaseError';
	}

	/** Rows that cannot be, or do not fit those that are there: classes 22 and 23 of SQLSTATE. */
	get isOfData(): boolean {
		return /^2[23]/.test(this.code ?? '');
	}

	/** What it reads is not what it wrote: class XX of SQLSTATE names damaged data and indexes. */
	get isOfDamage(): boolean {
		return /^XX00[12]$/.test(this.code ?? '');
	}
}

/** The database has been closed, or its thread has ended by itself. */
export class DatabaseEndedError extends DatabaseError {
	constructor(options?: { readonly cause?: unknown }) {
		super('The database is closed.', undefined);
		this.name = 'DatabaseEndedError';
		this.cause = options?.cause;
	}
}

type Unnumbered = DatabaseRequest extends infer Request
	? Request extends DatabaseRequest
		? Omit<Request, 'id'>
		: never
	: never;

/**
 * Opens PostgreSQL (PGlite) in a thread of its own: opening and bulk work would block the event loop for seconds.
 * @param folder of the data; made when it is not there
 * @param backup what it begins with, where the folder is not there
 */
export function openDatabase(folder: string, backup?: Uint8Array): Database {
	const script = workerScript('db/database.worker');
	const workerData = { ...script.workerData, folder, ...(backup ? { backup } : {}) };
	const worker = new Worker(script.filename, { workerData });
	const waiting = new Map<number, { resolve(result: DatabaseResult): void; reject(error: Error): void }>();
	let nextId = 1;
	let ended: Error | undefined;
	worker.on('message', (message: DatabaseAnswer) => {
		const one = waiting.get(message.id);
		waiting.delete(message.id);
		if ('error' in message) one?.reject(new DatabaseError(message.error.message, message.error.code));
		else one?.resolve(message.result);
	});
	const fail = (error: Error) => {
		ended = error;
		for (const one of waiting.values()) one.reject(error);
		waiting.clear();
	};
	worker.on('error', (error) => fail(new DatabaseEndedError({ cause: error })));
	worker.on('exit', () => fail(ended ?? new DatabaseEndedError()));

	function ask(request: Unnumbered): Promise<DatabaseResult> {
		if (ended) return Promise.reject(ended);
		return new Promise((resolve, reject) => {
			const id = nextId++;
			waiting.set(id, { resolve, reject });
			worker.postMessage({ ...request, id });
		});
	}

	const direct: Queryable = {
		query: async <Row>(sql: string, values: readonly unknown[] = []) =>
			(await ask({ kind: 'query', sql, values: [...values] })).rows as Row[]
	};
	// There is one session: what belongs together must not be interleaved.
	let last: Promise<unknown> = Promise.resolve();
	const within = new AsyncLocalStorage<true>();
	function inTurn<Result>(work: () => Promise<Result>): Promise<Result> {
		// It would wait for its own transaction, which waits for it.
		if (within.getStore())
			return Promise.reject(
				new DatabaseError('Within a transaction the transaction is asked, not the database.', undefined)
			);
		const result = last.then(work, work);
		last = result.catch(() => undefined);
		return result;
	}
	return {
		query: (sql, values) => inTurn(() => direct.query(sql, values)),
		script: (sql) => inTurn(() => ask({ kind: 'script', sql })),
		transaction: (work) =>
			inTurn(async () => {
				await direct.query('begin');
				try {
					const result = await within.run(true, () => work(direct));
					await direct.query('commit');
					return result;
				} catch (error) {
					await direct.query('rollback');
					throw error;
				}
			}),
		dump: async (path) => void (await inTurn(() => ask({ kind: 'dump', path }))),
		close: async () => {
			await inTurn(() => ask({ kind: 'close' })).catch(() => undefined);
			await worker.terminate();
		}
	};
}
