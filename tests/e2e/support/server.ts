import type { ChildProcess, ChildProcessByStdio } from 'node:child_process';
import { once } from 'node:events';
import { access, cp, mkdir } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import type { Readable } from 'node:stream';
import { spawn } from '../../../scripts/outside-programs';

export interface RunningServer {
	readonly address: string;
	readonly child: ChildProcess;
	/** Everything it has said. */
	output(): string;
	/** Ends it without a chance to tidy up. */
	kill(): Promise<void>;
	stop(): Promise<void>;
}

/** Names the data folder of a server that has made its database and nothing else: a copy is there in no time. */
export const EMPTY_DATA = 'OPEN_CHOIR_E2E_EMPTY';

const ROOT = resolve(import.meta.dirname, '../../..');

/**
 * Starts Open Choir as a user does, and waits until it is ready.
 * @param port any free one unless given: several servers run at a time
 */
export async function startServer(dataFolder: string, more: readonly string[] = [], port = 0): Promise<RunningServer> {
	await copyEmptyDatabase(dataFolder);
	return whenReady(
		spawn('./start', ['--data', dataFolder, '--port', `${port}`, ...more], {
			cwd: ROOT,
			stdio: ['ignore', 'pipe', 'pipe']
		})
	);
}

/** A disk of its own that only the server sees. */
export interface ServerOnSmallDisk extends RunningServer {
	/** Where the test finds the disk. */
	readonly disk: string;
}

/** As `startServer`, with the data folder on a disk in memory of a few megabytes, which holds a copy of `dataFolder` first. */
export async function startOnSmallDisk(
	dataFolder: string,
	megabytes: number,
	more: readonly string[],
	access: 'rw' | 'ro' = 'rw'
): Promise<ServerOnSmallDisk> {
	await copyEmptyDatabase(dataFolder);
	const disk = `${dataFolder}-disk-${access}`;
	await mkdir(disk, { recursive: true });
	const script = `mount -t tmpfs -o size=${megabytes}m none "$1" && cp -r "$2" "$1/data" && mount -o remount,${access} "$1" && shift 2 && exec ./start "$@"`;
	const server = await whenReady(
		spawn(
			'unshare',
			['-rm', 'sh', '-c', script, 'sh', disk, dataFolder, '--data', join(disk, 'data'), '--port', '0', ...more],
			{ cwd: ROOT, stdio: ['ignore', 'pipe', 'pipe'] }
		)
	);
	return { ...server, disk: `/proc/${server.child.pid}/root${disk}` };
}

async function whenReady(child: ChildProcessByStdio<null, Readable, Readable>): Promise<RunningServer> {
	let said = '';
	child.stdout.on('data', (block: Buffer) => (said += block.toString()));
	child.stderr.on('data', (block: Buffer) => (said += block.toString()));
	const ended = once(child, 'exit');
	await waitFor(async () => {
		if (child.exitCode !== null) throw new Error(`The server ended: ${said}`);
		return Promise.resolve(said.includes('is ready at'));
	}, 120_000);
	const end = async (signal: NodeJS.Signals) => {
		child.kill(signal);
		await ended;
	};
	return {
		address: /is ready at (\S+)/.exec(said)![1]!,
		child,
		output: () => said,
		kill: () => end('SIGKILL'),
		stop: () => end('SIGTERM')
	};
}

async function copyEmptyDatabase(dataFolder: string): Promise<void> {
	const empty = process.env[EMPTY_DATA];
	const database = join(dataFolder, 'database');
	if (
		!empty ||
		(await access(database).then(
			() => true,
			() => false
		))
	)
		return;
	await cp(join(empty, 'database'), database, { recursive: true });
}

/** Asks again and again until it is so. @throws Error after the time */
export async function waitFor(isSo: () => Promise<boolean>, timeoutMs: number, everyMs = 200): Promise<void> {
	const until = Date.now() + timeoutMs;
	for (;;) {
		if (await isSo()) return;
		if (Date.now() > until) throw new Error(`It did not come about within ${timeoutMs / 1000} s.`);
		await new Promise((done) => setTimeout(done, everyMs));
	}
}
