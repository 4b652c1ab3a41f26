import { once } from 'node:events';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { spawn } from '../../../../scripts/outside-programs';
import { DataLockedError, lockDataFolder } from './data-lock';

let folder: string;
beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-lock-'));
});
afterAll(() => rm(folder, { recursive: true }));

/** Another process that takes the folder and keeps it, with a temporary folder of its own. */
async function otherHolder(data: string) {
	const script = `import { lockDataFolder } from '${resolve(import.meta.dirname, 'data-lock.ts')}';
		await lockDataFolder(process.argv[1]); console.log('held'); setInterval(() => undefined, 1000);`;
	const args = ['--import', 'tsx', '--input-type=module', '-e', script, data];
	const child = spawn(process.execPath, args, {
		stdio: ['ignore', 'pipe', 'inherit'],
		env: { ...process.env, TMPDIR: folder }
	});
	await once(child.stdout, 'data');
	return child;
}

describe('the data folder', () => {
	it('is locked against a second one, and free again afterwards', async () => {
		const release = await lockDataFolder(join(folder, 'one'));
		await expect(lockDataFolder(join(folder, 'one'))).rejects.toThrow(DataLockedError);
		await release();
		await (
			await lockDataFolder(join(folder, 'one'))
		)();
	});

	it('is locked against a process with another temporary folder, and free at once when that is killed', async () => {
		const other = await otherHolder(join(folder, 'two'));
		await expect(lockDataFolder(join(folder, 'two'))).rejects.toThrow('Another Open Choir already uses');
		other.kill('SIGKILL');
		await once(other, 'exit');
		await (
			await lockDataFolder(join(folder, 'two'))
		)();
	});

	it('tells when its lock is lost, and not when it is given back', async () => {
		let lost = 0;
		const release = await lockDataFolder(join(folder, 'three'), () => lost++);
		await release();
		expect(lost).toBe(0);
	});

	it('says in a sentence where it cannot be', async () => {
		await writeFile(join(folder, 'file'), '');
		await expect(lockDataFolder(join(folder, 'file', 'data'))).rejects.toThrow(/cannot be used\. .* --data DIR\.$/);
	});
});
