import { setTimeout } from 'node:timers/promises';
import PgBoss from 'pg-boss';
import type { Logger } from 'pino';
import { isPausable, JOB_KINDS, JOBS, type JobInput, type JobKind, type JobView } from '../../contract/jobs';
import type { Bus } from '../bus/bus';
import type { Database } from '../db/database';
import { diskFault } from '../disk/disk-fault';
import { faultBehind } from '../shoots/fault-behind';
import { ShootError } from '../shoots/shoot-error';

export interface JobContext<Kind extends JobKind = JobKind> {
	readonly shootId: string;
	readonly jobId: string;
	readonly input: JobInput<Kind>;
	readonly signal: AbortSignal;
	/** @param share 0 to 1 */
	progress(share: number, message: string): void;
}

/** Does one kind of job. It must be able to begin again after a kill. @returns what is worth noting of it */
export type JobHandler<Kind extends JobKind> = (context: JobContext<Kind>) => Promise<Record<string, unknown> | void>;
export type JobHandlers = { readonly [Kind in JobKind]: JobHandler<Kind> };

export interface JobQueue {
	start(handlers: JobHandlers): Promise<void>;
	/** @returns its identity */
	add<Kind extends JobKind>(shootId: string, kind: Kind, input: JobInput<Kind>): Promise<string>;
	stop(jobId: string): Promise<void>;
	retry(jobId: string): Promise<void>;
	list(shootId: string): Promise<readonly JobView[]>;
	close(): Promise<void>;
}

const VIEW = `id, shoot_id as "shootId", kind, title, state, share, message, seconds_left as "secondsLeft", error`;
/** Jobs of one shoot that may wait at a time. */
const MAX_WAITING = 50;
/** A job that was running when the server ended so often is set aside. */
const MAX_CRASHES = 2;
const SET_ASIDE =
	'The server ended twice while this was being done. It is set aside, so that all else can go on; you can start it again.';
/** Progress is told to listeners often, written to the database this often. */
const WRITE_EVERY_MS = 1000;
const TELL_EVERY_MS = 150;
const NOTE_AGAIN_MS = 3000;

/** Long work on pg-boss: jobs outlive a restart, each can be stopped, and each tells how far it is. */
export function createJobQueue(database: Database, bus: Bus, log: Logger): JobQueue {
	const boss = new PgBoss({
		db: { executeSql: (sql: string, values?: unknown[]) => runForBoss(database, sql, values) },
		schedule: false,
		monitorStateIntervalSeconds: 3600,
		maintenanceIntervalSeconds: 3600
	});
	boss.on('error', (error) => log.error({ err: error }, 'job queue'));
	const running = new Map<string, AbortController>();
	let closing = false;

	const view = async (id: string) => (await database.query<JobView>(`select ${VIEW} from job where id = $1`, [id]))[0];
	const tell = (job: JobView | undefined) => job && bus.publish({ type: 'job', job });
	const send = async (id: string, kind: JobKind) =>
		void (await boss.send(kind, { id }, { retryLimit: 0, expireInHours: 23 }));

	/** A disk that is full for a while must not leave a job as if it still ran. */
	async function noteEnd(sql: string, values: readonly unknown[]): Promise<void> {
		for (;;)
			try {
				await database.query(sql, values);
				return;
			} catch (error) {
				if (closing || !diskFault(error)) throw error;
				log.error({ err: error }, 'the end of a job could not be noted');
				await setTimeout(NOTE_AGAIN_MS);
			}
	}

	async function run(id: string, handler: JobHandler<JobKind>): Promise<void> {
		const [row] = await database.query<JobView & { input: Record<string, unknown> }>(
			`update job set state = 'running', share = 0, message = '', error = null, heartbeat_at = now() where id = $1 and state = 'waiting' returning ${VIEW}, input`,
			[id]
		);
		if (!row) return;
		const controller = new AbortController();
		running.set(id, controller);
		tell(row);
		const began = Date.now();
		let told = 0;
		let written = 0;
		const progress = (share: number, message: string) => {
			const now = Date.now();
			const secondsLeft = share > 0.02 ? ((now - began) / 1000) * (1 / share - 1) : null;
			if (now - told > TELL_EVERY_MS) {
				told = now;
				tell({ ...row, state: 'running', share, message, secondsLeft });
			}
			if (now - written > WRITE_EVERY_MS) {
				written = now;
				void database
					.query(
						`update job set share = $2, message = $3, seconds_left = $4, heartbeat_at = now() where id = $1 and state = 'running'`,
						[id, share, message, secondsLeft]
					)
					.catch(() => undefined);
			}
		};
		try {
			const output = await handler({
				shootId: row.shootId,
				jobId: id,
				input: JOBS[row.kind].input.parse(row.input),
				signal: controller.signal,
				progress
			});
			await noteEnd(
				`update job set state = 'done', share = 1, message = '', seconds_left = null, output = $2, ended_at = now() where id = $1`,
				[id, output ?? {}]
			);
		} catch (error) {
			// A server that closes leaves the job running in the database: the next start goes on with it.
			if (closing) return;
			const stopped = controller.signal.aborted;
			if (!stopped) log.error({ err: error, job: id, kind: row.kind }, 'job failed');
			await noteEnd(`update job set state = $2, error = $3, seconds_left = null, ended_at = now() where id = $1`, [
				id,
				stopped ? 'stopped' : 'failed',
				stopped ? null : sentence(error)
			]);
		} finally {
			running.delete(id);
		}
		tell(await view(id));
	}

	/** Others of a pausable job's kind and shoot that are in a state: what they have to do is done by it. */
	async function endAlike(jobId: string, state: 'waiting' | 'stopped'): Promise<void> {
		const job = await view(jobId);
		if (!job || !isPausable(job.kind)) return;
		const ended = await database.query<JobView>(
			`update job set state = 'done', share = 1, ended_at = now() where shoot_id = $1 and kind = $2 and state = $3 and id <> $4 returning ${VIEW}`,
			[job.shootId, job.kind, state, jobId]
		);
		ended.forEach(tell);
	}

	return {
		async start(handlers) {
			await boss.start();
			for (const kind of JOB_KINDS) {
				await boss.createQueue(kind);
				await boss.work<{ id: string }>(kind, { batchSize: 1, pollingIntervalSeconds: 0.5 }, async ([job]) =>
					run(job!.data.id, handlers[kind] as JobHandler<JobKind>)
				);
			}
			// The data folder is ours alone: what counts as running was cut off, and is taken up again; not for ever, as it may be
			// the job that ends the server.
			await database.query(`update job set crashes = crashes + 1 where state = 'running'`);
			await database.query(
				`update job set state = 'failed', error = $2, seconds_left = null, ended_at = now() where state = 'running' and crashes >= $1`,
				[MAX_CRASHES, SET_ASIDE]
			);
			const left = await database.query<{ id: string; kind: JobKind }>(
				`update job set state = 'waiting' where state in ('running', 'waiting') returning id, kind`
			);
			for (const job of left) await send(job.id, job.kind);
		},
		async add(shootId, kind, input) {
			const [same] = await database.query<{ id: string }>(
				`select id from job where shoot_id = $1 and kind = $2 and state = 'waiting' and input = $3::jsonb limit 1`,
				[shootId, kind, JSON.stringify(input)]
			);
			// What waits already will be done for both.
			if (same) return same.id;
			const [waiting] = await database.query<{ count: number }>(
				`select count(*)::int as count from job where shoot_id = $1 and state = 'waiting'`,
				[shootId]
			);
			if (waiting!.count >= MAX_WAITING)
				throw new ShootError(
					'too-many-jobs',
					'So much is waiting for this shoot already. Wait until some of it is done.'
				);
			const title = (JOBS[kind].title as (input: unknown) => string)(input);
			const [row] = await database.query<JobView>(
				`insert into job (shoot_id, kind, title, input) values ($1, $2, $3, $4) returning ${VIEW}`,
				[shootId, kind, title, input]
			);
			await send(row!.id, kind);
			tell(row);
			return row!.id;
		},
		async stop(jobId) {
			// What waits would begin at once, and has the same to do.
			await endAlike(jobId, 'waiting');
			const controller = running.get(jobId);
			if (controller) {
				controller.abort(new DOMException('Stopped.', 'AbortError'));
				return;
			}
			const [row] = await database.query<JobView>(
				`update job set state = 'stopped', ended_at = now() where id = $1 and state = 'waiting' returning ${VIEW}`,
				[jobId]
			);
			if (!row) throw new ShootError('job-not-running', 'That job is not running.');
			tell(row);
		},
		async retry(jobId) {
			const [row] = await database.query<JobView>(
				`update job set state = 'waiting', error = null, share = 0, crashes = 0 where id = $1 and state in ('failed', 'stopped') returning ${VIEW}`,
				[jobId]
			);
			if (!row)
				throw new ShootError(
					'job-not-ended',
					'That job cannot be started again: it has not failed, and was not stopped.'
				);
			await send(row.id, row.kind);
			tell(row);
			await endAlike(jobId, 'stopped');
		},
		list: (shootId) =>
			database.query<JobView>(`select ${VIEW} from job where shoot_id = $1 order by created_at desc limit 30`, [
				shootId
			]),
		async close() {
			closing = true;
			for (const controller of running.values()) controller.abort(new DOMException('The server closes.', 'AbortError'));
			await boss
				.stop({ graceful: true, timeout: 3000, wait: true })
				.catch((error: unknown) => log.error({ err: error }, 'job queue'));
			// Closed in good order, it was no crash.
			await database.query(`update job set state = 'waiting' where state = 'running'`);
		}
	};
}

async function runForBoss(
	database: Database,
	sql: string,
	values?: unknown[]
): Promise<{ rows: Record<string, unknown>[]; rowCount: number }> {
	if (values && values.length > 0) {
		const rows = await database.query(sql, values);
		return { rows, rowCount: rows.length };
	}
	const result = await database.script(sql);
	return { rows: [...result.rows], rowCount: result.affectedRows || result.rows.length };
}

function sentence(error: unknown): string {
	const fault = faultBehind(error);
	if (fault) return fault.message;
	return error instanceof Error && error.message ? error.message : 'It failed for a reason that is not known.';
}
