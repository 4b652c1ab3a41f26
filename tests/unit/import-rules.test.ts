import { cp, mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
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

	describe('and a planted violation is found', () => {
		let copy: string;
		beforeAll(async () => {
			copy = await mkdtemp(join(tmpdir(), 'open-choir-imports-'));
			for (const part of [
				'src/lib/core/time',
				'src/lib/core/signal',
				'src/lib/core/solve',
				'src/lib/core/match',
				'src/lib/core/features',
				'src/lib/server/settings.ts',
				'tests/support/import-aliases.cjs',
				'.dependency-cruiser.cjs',
				'tsconfig.json',
				'package.json'
			]) {
				await cp(join(ROOT, part), join(copy, part), {
					recursive: true,
					filter: (source) => !source.endsWith('.test.ts')
				});
			}
			await cp(join(ROOT, '.svelte-kit'), join(copy, '.svelte-kit'), {
				recursive: true,
				filter: (source) => !/(output|adapter-node)/.test(source)
			});
			for (const folder of ['src/lib/ui', 'cli', 'demo', 'src/routes', 'src/lib/core/odd'])
				await mkdir(join(copy, folder), { recursive: true });
			await symlink(join(ROOT, 'node_modules'), join(copy, 'node_modules'));
		});
		afterAll(() => rm(copy, { recursive: true }));

		it.each([
			[
				'core-is-pure',
				'src/lib/core/time/planted.ts',
				`import { join } from 'node:path';\nexport const x = join('a', 'b');\n`
			],
			[
				'core-is-pure',
				'src/lib/core/time/planted.ts',
				`import type { Settings } from '$lib/server/settings';\nexport type X = Settings;\n`
			],
			['core-is-pure', 'src/lib/core/time/planted.ts', `import { z } from 'zod';\nexport const x = z.string();\n`],
			[
				'core-order-time',
				'src/lib/core/time/planted.ts',
				`import type { StrayReason } from '../solve/line-ups';\nexport type X = StrayReason;\n`
			],
			['core-folders-are-listed', 'src/lib/core/odd/planted.ts', `export const x = 1;\n`],
			[
				'interface-knows-no-server',
				'src/lib/ui/planted.ts',
				`import { readSettings } from '$lib/server/settings';\nexport const x = readSettings;\n`
			],
			[
				'interface-knows-no-server',
				'src/lib/ui/planted.ts',
				`import type { Settings } from '../server/settings';\nexport type X = Settings;\n`
			],
			['server-knows-no-page', 'src/lib/server/planted.ts', `import { x } from '../ui/known';\nexport const y = x;\n`],
			[
				'demo-knows-only-the-core',
				'demo/planted.ts',
				`import { readSettings } from '../src/lib/server/settings';\nexport const x = readSettings;\n`
			],
			['no-circles', 'src/lib/ui/planted.ts', `import { y } from './second';\nexport const x = y;\n`]
		])('%s in %s', async (rule, path, text) => {
			await writeFile(join(copy, 'src/lib/ui/known.ts'), 'export const x = 1;\n');
			await writeFile(
				join(copy, 'src/lib/ui/second.ts'),
				path.includes('ui') ? `import { x } from './planted';\nexport const y: unknown = x;\n` : 'export const y = 1;\n'
			);
			await writeFile(
				join(copy, 'cli/uses.ts'),
				`import { x } from '../src/lib/core/odd/planted';\nexport const y = x;\n`
			);
			await writeFile(join(copy, path), text);
			const { rules } = await broken(copy);
			await rm(join(copy, path));
			expect(rules.map((one) => one.split(':')[0])).toContain(rule);
		});
	});
});
