import { pino } from 'pino';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { JOB_KINDS } from '../../contract/jobs';
import { openTestDatabase, type TestDatabase } from '../../../../tests/support/test-database';
import { createJobQueue, type JobContext, type JobHandlers, type JobQueue } from './job-queue';

let opened: TestDatabase;
let shootId: string;
beforeAll(async () => {
	opened = await openTestDatabase();
	const [shoot] = await opened.database.query<{ id: string }>(
		`insert into shoot (name, folder) values ('Try', '/cards') returning id`
	);
	shootId = shoot!.id;
});
afterAll(() => opened.close());

function open(handle: (context: JobContext) => Promise<void>): { queue: JobQueue; start: () => Promise<void> } {
	const queue = createJobQueue(opened.database, opened.bus, pino({ level: 'silent' }));
	const handlers = Object.fromEntries(JOB_KINDS.map((kind) => [kind, handle])) as unknown as JobHandlers;
	return { queue, start: () => queue.start(handlers) };
}

async function until(isSo: () => Promise<boolean>): Promise<void> {
	for (let count = 0; count < 200 && !(await isSo()); count++) await new Promise((done) => setTimeout(done, 50));
}

const stateOf = async (queue: JobQueue, id: string) => (await queue.list(shootId)).find((one) => one.id === id)!;

describe('a job that was running when the server ended', () => {
	it('is taken up again once, and then set aside with its reason, until somebody starts it again', async () => {
		const first = open(() => new Promise(() => undefined));
		await first.start();
		const id = await first.queue.add(shootId, 'gather', {});
		await until(async () => (await stateOf(first.queue, id)).state === 'running');
		// Killed: nobody writes anything more. The next one finds it running, and is killed as well.
		const second = open(() => new Promise(() => undefined));
		await second.start();
		await until(async () => (await stateOf(second.queue, id)).state === 'running');
		expect((await stateOf(second.queue, id)).state).toBe('running');
		const third = open(() => Promise.resolve());
		await third.start();
		expect(await stateOf(third.queue, id)).toMatchObject({ state: 'failed' });
		expect((await stateOf(third.queue, id)).error).toMatch(/ended twice while this was being done/);
		await third.queue.retry(id);
		await until(async () => (await stateOf(third.queue, id)).state === 'done');
		expect((await stateOf(third.queue, id)).state).toBe('done');
		await third.queue.close();
	}, 60_000);

	it('but closed in good order does not count', async () => {
		let ended = 0;
		for (let start = 0; start < 4; start++) {
			const { queue, start: begin } = open(() => new Promise(() => undefined));
			await begin();
			if (start === 0) await queue.add(shootId, 'prepare', {});
			await until(async () => (await queue.list(shootId))[0]!.state === 'running');
			await queue.close();
			const [job] = await queue.list(shootId);
			if (job!.state === 'waiting') ended++;
		}
		expect(ended).toBe(4);
	}, 60_000);
});

it('a job that only helps is paused with what waits to do the same, and goes on alone', async () => {
	await opened.database.query('delete from job');
	const { queue, start } = open(
		({ signal }) => new Promise((_, reject) => signal.addEventListener('abort', () => reject(signal.reason as Error)))
	);
	await start();
	const running = await queue.add(shootId, 'prepare', {});
	await until(async () => (await stateOf(queue, running)).state === 'running');
	const waiting = await queue.add(shootId, 'prepare', {});
	const lineUp = await queue.add(shootId, 'line-up', {});
	await queue.stop(running);
	await until(async () => (await stateOf(queue, running)).state === 'stopped');
	const states = async () => Promise.all([running, waiting].map(async (id) => (await stateOf(queue, id)).state));
	expect(await states()).toEqual(['stopped', 'done']);
	// Longer than a waiting job takes to begin.
	await new Promise((done) => setTimeout(done, 1500));
	expect(await states()).toEqual(['stopped', 'done']);
	expect((await stateOf(queue, lineUp)).state).toBe('running');
	await queue.retry(running);
	await until(async () => (await stateOf(queue, running)).state === 'running');
	expect(await states()).toEqual(['running', 'done']);
	await queue.close();
}, 60_000);
