import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { EMPTY_DATA, startServer } from './server';

/** An empty database for every server to begin with, and one server with a fresh demo shoot for the files that walk through the job. */
export default async function setUp(): Promise<() => Promise<void>> {
	const folder = await mkdtemp(join(tmpdir(), 'open-choir-e2e-'));
	const empty = await startServer(join(folder, 'empty'), ['--no-demo']);
	await empty.stop();
	process.env[EMPTY_DATA] = join(folder, 'empty');
	// While writing tests: a server that already runs, with its data folder in OPEN_CHOIR_E2E_DATA.
	if (process.env['OPEN_CHOIR_E2E_ADDRESS']) return () => rm(folder, { recursive: true, force: true });
	const server = await startServer(join(folder, 'data'));
	process.env['OPEN_CHOIR_E2E_ADDRESS'] = server.address;
	process.env['OPEN_CHOIR_E2E_DATA'] = join(folder, 'data');
	return async () => {
		await server.stop();
		await rm(folder, { recursive: true, force: true });
	};
}
