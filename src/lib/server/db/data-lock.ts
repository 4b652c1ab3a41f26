import { once } from 'node:events';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { diskFault, whyNotWritable } from '../disk/disk-fault';
import { spawn } from '../../../../scripts/outside-programs';

/** The data folder is in use by another Open Choir, or may not be used by this user. */
export class DataLockedError extends Error {
	constructor(message: string) {
		super(message);
		this.name = 'DataLockedError';
	}
}

const LOCK_FILE = 'in-use.lock';
/** flock(1) ends with this where somebody else has the lock. */
const TAKEN = 75;
/** A server that was killed frees its lock when its lock keeper has seen that: within moments. */
const ATTEMPTS = 10;
const BETWEEN_MS = 100;

/**
 * Takes the data folder for this process: two processes on one PGlite folder lose rows without an error. The lock is one of
 * the file system, in the folder itself, so that it holds across users, containers and temporary folders. flock(1) keeps it as
 * long as our end of its input is open: the system closes that even when we are killed.
 * @param lost is called when the keeper ends before it is released: somebody else may take the folder then
 * @returns the release
 * @throws DataLockedError with what to do
 */
export async function lockDataFolder(folder: string, lost: () => void = () => undefined): Promise<() => Promise<void>> {
	try {
		await mkdir(folder, { recursive: true });
	} catch (error) {
		throw notWritable(folder, diskFault(error)?.message, error);
	}
	for (let attempt = 1; ; attempt++) {
		const keeper = spawn('flock', ['--nonblock', '--conflict-exit-code', `${TAKEN}`, join(folder, LOCK_FILE), 'cat'], {
			stdio: ['pipe', 'pipe', 'ignore'],
			// A Ctrl-C at the terminal is ours to hear: the lock is kept until all is written.
			detached: true
		});
		const ended = once(keeper, 'exit') as Promise<[number | null]>;
		keeper.stdin.on('error', () => undefined);
		// What is said comes back once the lock is held.
		keeper.stdin.write('held\n');
		const code = await Promise.race([
			once(keeper.stdout, 'data').then(() => 'held' as const),
			ended.then(([one]) => one)
		]);
		if (code === 'held') {
			let isReleased = false;
			void ended.then(() => isReleased || lost());
			keeper.unref();
			return async () => {
				isReleased = true;
				keeper.stdin.end();
				await ended;
			};
		}
		if (code !== TAKEN) throw notWritable(folder, await whyNotWritable(folder));
		if (attempt >= ATTEMPTS)
			throw new DataLockedError(
				`Another Open Choir already uses the data folder ${folder}. Stop it first, or give another folder with --data DIR.`
			);
		await setTimeout(BETWEEN_MS);
	}
}

function notWritable(folder: string, why = 'This user may not write to it.', cause?: unknown): DataLockedError {
	return Object.assign(
		new DataLockedError(`The data folder ${folder} cannot be used. ${why} Or give another folder with --data DIR.`),
		{ cause }
	);
}
