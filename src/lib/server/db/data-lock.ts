import { createHash } from 'node:crypto';
import { mkdir, realpath, unlink } from 'node:fs/promises';
import { createConnection, createServer, type Server } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** The data folder is in use by another Open Choir. */
export class DataLockedError extends Error {
	constructor(folder: string) {
		super(
			`Another Open Choir already uses the data folder ${folder}. Stop it first, or give another folder with --data DIR.`
		);
		this.name = 'DataLockedError';
	}
}

/**
 * Takes the data folder for this process: two processes on one PGlite folder lose rows without an error. The lock is a
 * listening socket, which the system frees even when the process is killed.
 * @returns the release
 */
export async function lockDataFolder(folder: string): Promise<() => Promise<void>> {
	await mkdir(folder, { recursive: true });
	const key = createHash('sha256')
		.update(await realpath(folder))
		.digest('hex')
		.slice(0, 24);
	const path = join(tmpdir(), `open-choir-${key}.lock`);
	for (let attempt = 0; attempt < 3; attempt++) {
		const server = await tryListen(path);
		if (server) return () => new Promise((resolve) => server.close(() => resolve()));
		if (await isAlive(path)) throw new DataLockedError(folder);
		// Left behind by a killed process.
		await unlink(path).catch(() => undefined);
	}
	throw new DataLockedError(folder);
}

function tryListen(path: string): Promise<Server | undefined> {
	return new Promise((resolve, reject) => {
		const server = createServer((socket) => socket.destroy());
		server.once('error', (error: NodeJS.ErrnoException) =>
			error.code === 'EADDRINUSE' ? resolve(undefined) : reject(error)
		);
		server.listen(path, () => {
			server.unref();
			resolve(server);
		});
	});
}

function isAlive(path: string): Promise<boolean> {
	return new Promise((resolve) => {
		const socket = createConnection(path);
		socket.once('connect', () => (socket.destroy(), resolve(true)));
		socket.once('error', () => resolve(false));
	});
}
