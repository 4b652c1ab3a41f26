import { cp, mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { runProgram as run } from '../../scripts/outside-programs';

const ROOT = resolve(import.meta.dirname, '../..');

interface Report {
	readonly summary: {
		readonly violations: readonly {
			readonly from: string;
			readonly to: string;
			readonly rule: { readonly name: string };
		}[];
		readonly totalCruised: number;
	};
}

async function broken(folder: string): Promise<{ rules: readonly string[]; modules: number }> {
	const args = [
		join(ROOT, 'node_modules/dependency-cruiser/bin/dependency-cruise.mjs'),
		'--config',
		'.dependency-cruiser.cjs',
		'--output-type',
		'json',
		'src',
		'cli',
		'demo',
		'tests'
	];
	const { stdout } = await run(process.execPath, args, { cwd: folder, maxBuffer: 64 * 2 ** 20 }).catch(
		(error: { stdout: string }) => error
	);
	const { summary } = JSON.parse(stdout) as Report;
	return { rules: summary.violations.map((one) => `${one.rule.name}: ${one.from}`), modules: summary.totalCruised };
}

describe('imports go one way', () => {
	it('in this tree', async () => {
		const { rules, modules } = await broken(ROOT);
		expect(rules).toEqual([]);
		expect(modules).toBeGreaterThan(100);
	});

	describe('and planted violations are found', () => {
		let copy: string;
		let found: readonly string[];
		/** Each in a file of its own: the rule it breaks, where it stands, what it imports. */
		const PLANTED: readonly (readonly [rule: string, path: string, text: string])[] = [
			[
				'core-is-pure',
				'src/lib/core/time/node',
				`import { join } from 'node:path';\nexport const x = join('a', 'b');\n`
			],
			[
				'core-is-pure',
				'src/lib/core/time/server',
				`import type { Settings } from '$lib/server/settings';\nexport type X = Settings;\n`
			],
			['core-is-pure', 'src/lib/core/time/zod', `import { z } from 'zod';\nexport const x = z.string();\n`],
			[
				'core-order-time',
				'src/lib/core/time/upwards',
				`import type { StrayReason } from '../solve/system/line-ups';\nexport type X = StrayReason;\n`
			],
			['core-folders-are-listed', 'src/lib/core/odd/room', `export const x = 1;\n`],
			[
				'contract-is-read-by-both-sides',
				'src/lib/contract/planted',
				`import type { Settings } from '../server/settings';\nexport type X = Settings;\n`
			],
			[
				'database-knows-nothing-above',
				'src/lib/server/db/planted',
				`import { readSettings } from '../settings';\nexport const x = readSettings;\n`
			],
			[
				'jobs-know-no-stages',
				'src/lib/server/jobs/planted',
				`import { y } from '../stages/call/known';\nexport const x = y;\n`
			],
			[
				'interface-knows-no-server',
				'src/lib/ui/planted',
				`import { readSettings } from '$lib/server/settings';\nexport const x = readSettings;\n`
			],
			[
				'interface-knows-no-server',
				'src/lib/ui/types',
				`import type { Settings } from '../server/settings';\nexport type X = Settings;\n`
			],
			['server-knows-no-page', 'src/lib/server/planted', `import { x } from '../ui/known';\nexport const y = x;\n`],
			[
				'demo-knows-only-the-core',
				'demo/planted',
				`import { readSettings } from '../src/lib/server/settings';\nexport const x = readSettings;\n`
			],
			['no-circles', 'src/lib/ui/first', `import { y } from './second';\nexport const x: unknown = y;\n`]
		];

		beforeAll(async () => {
			copy = await mkdtemp(join(tmpdir(), 'open-choir-imports-'));
			for (const part of [
				'src/lib/core/time',
				'src/lib/core/signal',
				'src/lib/core/fitting',
				'src/lib/core/solve',
				'src/lib/core/match',
				'src/lib/core/features',
				'src/lib/server/settings.ts',
				'tests/support/import-aliases.cjs',
				'.dependency-cruiser.cjs',
				'tsconfig.json',
				'package.json'
			])
				await cp(join(ROOT, part), join(copy, part), {
					recursive: true,
					filter: (source) => !source.endsWith('.test.ts')
				});
			await cp(join(ROOT, '.svelte-kit'), join(copy, '.svelte-kit'), {
				recursive: true,
				filter: (source) => !/(output|adapter-node)/.test(source)
			});
			await symlink(join(ROOT, 'node_modules'), join(copy, 'node_modules'));
			const files = [
				...PLANTED.map(([, path, text]) => [path, text] as const),
				['src/lib/ui/second', `import { x } from './first';\nexport const y: unknown = x;\n`] as const,
				['src/lib/ui/known', 'export const x = 1;\n'] as const,
				['src/lib/server/stages/call/known', 'export const y = 1;\n'] as const,
				['cli/uses', `import { x } from '../src/lib/core/odd/room';\nexport const y = x;\n`] as const
			];
			for (const [path, text] of files) {
				await mkdir(join(copy, dirname(path)), { recursive: true });
				await writeFile(join(copy, `${path}.ts`), text);
			}
			found = (await broken(copy)).rules;
		});
		afterAll(() => rm(copy, { recursive: true }));

		it.each(PLANTED)('%s in %s', (rule, path) => {
			// Of a folder that is not listed it is the import of it that is found.
			const where = rule === 'core-folders-are-listed' ? 'cli/uses.ts' : `${path}.ts`;
			expect(found).toContain(`${rule}: ${where}`);
		});
	});
});
