import type { ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { access, cp } from 'node:fs/promises';
import { join, resolve } from 'node:path';
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
	const child = spawn('./start', ['--data', dataFolder, '--port', `${port}`, ...more], {
		cwd: ROOT,
		stdio: ['ignore', 'pipe', 'pipe']
	});
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
