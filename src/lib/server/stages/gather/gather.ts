import pMap from 'p-map';
import { setTimeout } from 'node:timers/promises';
import type { JobContext } from '../../jobs/job-queue';
import { MediaError } from '../../media/media-error';
import { probeFile } from '../../media/probe';
import type { Runtime } from '../../runtime';
import { arrangeFiles } from './arrange-files';
import { leaveOutCopies } from './equal-files';
import { noteFiles } from './note-files';

/** Probes at once: ffprobe waits for the disk more than it computes. */
const PROBES_AT_ONCE = 4;
/** What has come is to be seen and heard soon. */
const MAX_WAIT_MS = 4000;
const WAIT_STEP_MS = 500;
/** The page hears of what was read this often. */
const TELL_EVERY_MS = 1000;

/** Job: finds and reads all files of the shoot's folders, and sorts what is new into devices and clips. */
export async function gather(runtime: Runtime, context: JobContext): Promise<void> {
	const { database, shoots } = runtime;
	const { shootId, signal } = context;
	await waitForUploads(runtime, context);
	await noteFiles(runtime, shootId);
	const waiting = await database.query<{ id: string; path: string }>(
		`select id, path from media_file where shoot_id = $1 and state = 'waiting' order by relative_path`,
		[shootId]
	);
	let done = 0;
	let told = Date.now();
	await pMap(
		waiting,
		async (file) => {
			signal.throwIfAborted();
			await readOne(runtime, file.id, file.path, signal);
			done++;
			context.progress(done / waiting.length, `${done} of ${waiting.length} files`);
			if (Date.now() - told < TELL_EVERY_MS) return;
			told = Date.now();
			await shoots.tell(shootId);
		},
		{ concurrency: PROBES_AT_ONCE }
	);
	await leaveOutCopies(runtime, shootId);
	await shoots.change(shootId, (transaction) => arrangeFiles(transaction, shootId));
	await runtime.queue.add(shootId, 'prepare', {});
}

/** Files that were dropped together are best sorted together; a long upload is not waited for. */
async function waitForUploads({ uploads }: Runtime, { shootId, signal, progress }: JobContext): Promise<void> {
	const until = Date.now() + MAX_WAIT_MS;
	while (Date.now() < until && (await uploads.isArriving(shootId))) {
		progress(0, 'more files are coming in');
		await setTimeout(WAIT_STEP_MS, undefined, { signal });
	}
}

async function readOne(runtime: Runtime, fileId: string, path: string, signal: AbortSignal): Promise<void> {
	try {
		const facts = await probeFile(path, signal);
		await runtime.database.query(
			`update media_file set state = 'probed', facts = $2, own_facts = null, channel_of = null, reason = null where id = $1`,
			[fileId, facts]
		);
	} catch (error) {
		if (!(error instanceof MediaError) || error.kind === 'tool-missing') throw error;
		await runtime.database.query(`update media_file set state = 'bad', reason = $2, facts = null where id = $1`, [
			fileId,
			error.message
		]);
	}
}
