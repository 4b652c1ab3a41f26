import { ESLint } from 'eslint';
import { existsSync } from 'node:fs';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import listed from '../../scripts/outside-programs.json' with { type: 'json' };
import { packageOf, runProgram, spawn, spawnSync } from '../../scripts/outside-programs';

const ROOT = resolve(import.meta.dirname, '../..');

/** One list of outside programs: what is called is what is installed. */
describe('outside programs', () => {
	let folder: string;
	beforeAll(async () => (folder = await mkdtemp(join(tmpdir(), 'open-choir-programs-'))));
	afterAll(() => rm(folder, { recursive: true, force: true }));

	it('on the list are all here: ./test has installed them', async () => {
		for (const program of [...Object.keys(listed.start), ...Object.keys(listed.test)]) {
			if (program.startsWith('/')) expect(existsSync(program), program).toBe(true);
			else await expect(runProgram('bash', ['-c', 'command -v "$1"', '-', program]), program).resolves.toBeDefined();
		}
	});

	it('that are not on the list are not started', async () => {
		expect(() => spawn('true')).toThrow('outside-programs.json');
		expect(() => spawnSync('/usr/bin/true')).toThrow('outside-programs.json');
		expect(() => runProgram('xterm', [])).toThrow('outside-programs.json');
		await expect(runProgram(process.execPath, ['--version'])).resolves.toMatchObject({
			stdout: `${process.version}\n`
		});
	});

	it('are started through the list alone', async () => {
		const lint = new ESLint({ cwd: ROOT });
		const planted = "import { spawn } from 'node:child_process';\nspawn('sox', []);\n";
		const [result] = await lint.lintText(planted, { filePath: 'scripts/planted.mjs' });
		expect(result!.messages.map((one) => one.ruleId)).toContain('@typescript-eslint/no-restricted-imports');
	});

	it('that are missing are told with their packages where they cannot be installed', () => {
		const script =
			'fail() { echo "$1" >&2; exit 1; }; id() { echo 1000; }; . scripts/set-up.sh; PATH=; need_programs test';
		const node = `node() { ${process.execPath} "$@"; }`;
		const tools = ['sort', 'grep'].map((one) => `${one}() { /usr/bin/${one} "$@"; }`).join('; ');
		const { stderr, status } = spawnSync('bash', ['-c', `${node}; ${tools}; ${script}`], {
			cwd: ROOT,
			encoding: 'utf8'
		});
		expect(status).toBe(1);
		expect(stderr).toContain(packageOf('sox'));
		expect(stderr).toContain('sudo apt-get install');
		expect(stderr).not.toContain(packageOf('/usr/bin/chromium'));
	});

	it('leave a suite that cannot begin counted as failed', async () => {
		const report = {
			testResults: [
				{
					name: 'whole.test.ts',
					status: 'passed',
					message: '',
					assertionResults: [{ status: 'passed' }, { status: 'passed' }]
				},
				{
					name: 'unprepared.test.ts',
					status: 'failed',
					message: 'spawn sox ENOENT',
					assertionResults: [{ status: 'skipped' }, { status: 'skipped' }, { status: 'skipped' }]
				},
				{ name: 'unreadable.test.ts', status: 'failed', message: 'Error: no such module', assertionResults: [] }
			]
		};
		const path = join(folder, 'unit.json');
		await writeFile(path, JSON.stringify(report));
		const { stdout, status } = spawnSync(
			process.execPath,
			['scripts/count-tests.mjs', path, join(folder, 'never.json')],
			{
				cwd: ROOT,
				encoding: 'utf8'
			}
		);
		expect(stdout).toContain('Could not begin: unprepared.test.ts');
		expect(stdout).toContain('2 passed, 5 failed');
		expect(status).toBe(1);
	});
});
