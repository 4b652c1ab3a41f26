import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

export default ts.config(
	{ ignores: ['build/', '.svelte-kit/', 'data/', '.cache/', 'demo/media/', 'test-results/', 'playwright-report/'] },
	js.configs.recommended,
	...ts.configs.strict,
	...ts.configs.stylistic,
	...svelte.configs.recommended,
	prettier,
	...svelte.configs.prettier,
	{
		languageOptions: { globals: { ...globals.browser, ...globals.node } },
		rules: {
			// TypeScript knows which names there are.
			'no-undef': 'off',
			// noUncheckedIndexedAccess makes every index doubtful; in hot loops the bound is the loop's own.
			'@typescript-eslint/no-non-null-assertion': 'off',
			'@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
			'@typescript-eslint/no-invalid-void-type': 'off',
			// Links are plain addresses of this server.
			'svelte/no-navigation-without-resolve': 'off',
			// Maps and sets here are replaced whole, or no part of what is shown.
			'svelte/prefer-svelte-reactivity': 'off',
			// Plain loops where speed counts.
			'@typescript-eslint/prefer-for-of': 'off',
			eqeqeq: 'error',
			'no-console': 'error',
			'max-lines': ['error', { max: 420, skipBlankLines: true, skipComments: true }]
		}
	},
	{
		files: ['**/*.svelte', '**/*.svelte.ts'],
		languageOptions: { parserOptions: { extraFileExtensions: ['.svelte'], parser: ts.parser, svelteConfig } }
	},
	{
		// Promises that nobody waits for hide faults.
		files: ['src/**/*.ts', 'cli/**/*.ts', 'demo/**/*.ts', 'tests/**/*.ts'],
		ignores: ['**/*.svelte.ts'],
		languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
		rules: {
			'@typescript-eslint/no-floating-promises': 'error',
			'@typescript-eslint/no-misused-promises': [
				'error',
				{ checksVoidReturn: { arguments: false, attributes: false, properties: false } }
			],
			'@typescript-eslint/await-thenable': 'error'
		}
	},
	{
		// Programs are started through one list, so that ./start and ./test install what is called.
		files: ['**/*.ts', '**/*.mjs', '**/*.js', '**/*.svelte'],
		ignores: ['scripts/outside-programs.ts'],
		rules: {
			'@typescript-eslint/no-restricted-imports': [
				'error',
				{
					paths: ['node:child_process', 'child_process'].map((name) => ({
						name,
						allowTypeImports: true,
						message: 'Start programs through scripts/outside-programs.ts.'
					}))
				}
			]
		}
	},
	{ files: ['**/*.cjs'], rules: { '@typescript-eslint/no-require-imports': 'off' } },
	{ files: ['demo/generate.ts', 'cli/**', 'tests/bench/**'], rules: { 'no-console': 'off' } }
);
