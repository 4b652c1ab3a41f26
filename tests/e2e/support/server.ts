import type { ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { resolve } from 'node:path';
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

const ROOT = resolve(import.meta.dirname, '../../..');

/** Starts Open Choir as a user does, and waits until it is ready. */
export async function startServer(
	dataFolder: string,
	port: number,
	more: readonly string[] = []
): Promise<RunningServer> {
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
		address: `http://127.0.0.1:${port}`,
		child,
		output: () => said,
		kill: () => end('SIGKILL'),
		stop: () => end('SIGTERM')
	};
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
