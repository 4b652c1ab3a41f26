/**
 * Imports go one way: routes → interface, server, contract, core; interface and server → contract, core; command line → server,
 * contract, core; contract → core; core → nothing.
 * Within the core a folder imports only from those before it in this list.
 */
const CORE_ORDER = [
	'limits',
	'time',
	'signal',
	'fitting',
	'gather',
	'features',
	'match',
	'solve',
	'shoot',
	'proof',
	'measure',
	'people',
	'master',
	'program',
	'exchange'
];
const TESTS = '\\.test\\.ts$';

/** @type {import('dependency-cruiser').IConfiguration} */
module.exports = {
	forbidden: [
		{ name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
		{
			name: 'known-modules-only',
			severity: 'error',
			from: {},
			to: { couldNotResolve: true, pathNot: '^(\\$app|\\$env|\\./\\$types|\\.svelte-kit)|\\?worker$' }
		},
		{
			name: 'core-is-pure',
			comment: 'The core imports nothing but itself, and a bound on what runs at once.',
			severity: 'error',
			from: { path: '^src/lib/core', pathNot: TESTS },
			to: { pathNot: '^(src/lib/core|node_modules/p-map/)' }
		},
		...CORE_ORDER.map((folder, index) => ({
			name: `core-order-${folder}`,
			severity: 'error',
			from: { path: `^src/lib/core/${folder}/`, pathNot: TESTS },
			to: { path: `^src/lib/core/(${CORE_ORDER.slice(index + 1).join('|') || '-'})/` }
		})),
		{
			name: 'core-folders-are-listed',
			severity: 'error',
			from: {},
			to: { path: '^src/lib/core/', pathNot: `^src/lib/core/(${CORE_ORDER.join('|')})/` }
		},
		{
			name: 'contract-is-read-by-both-sides',
			comment: 'What server and page tell each other: types and their checks, no logic of either.',
			severity: 'error',
			from: { path: '^src/lib/contract', pathNot: TESTS },
			to: { pathNot: '^(src/lib/(contract|core)|node_modules/zod/)' }
		},
		{
			name: 'database-knows-nothing-above',
			severity: 'error',
			from: { path: '^src/lib/server/db/', pathNot: TESTS },
			to: { path: '^src/lib/(?!core|server/(db|threads|disk)/)' }
		},
		{
			name: 'jobs-know-no-stages',
			comment: 'What a job does is given to the queue.',
			severity: 'error',
			from: { path: '^src/lib/server/jobs/', pathNot: TESTS },
			to: { path: '^src/lib/server/stages/' }
		},
		{
			name: 'server-knows-no-page',
			severity: 'error',
			from: { path: '^src/lib/server', pathNot: TESTS },
			to: { path: '^(src/lib/ui|src/routes|cli|tests)|^\\$(app|env)' }
		},
		{
			name: 'interface-knows-no-server',
			severity: 'error',
			from: { path: '^src/lib/ui', pathNot: TESTS },
			to: { path: '^(src/lib/server|src/routes|cli|demo|tests)|^node:' }
		},
		{
			name: 'command-line-knows-no-page',
			severity: 'error',
			from: { path: '^cli', pathNot: TESTS },
			to: { path: '^(src/lib/ui|src/routes|tests)' }
		},
		{
			name: 'demo-knows-only-the-core',
			severity: 'error',
			from: { path: '^demo', pathNot: TESTS },
			to: { path: '^(src/(?!lib/core)|cli|tests)' }
		},
		{
			name: 'routes-are-nobodys',
			severity: 'error',
			from: { pathNot: '^(src/routes|\\.svelte-kit)' },
			to: { path: '^src/routes' }
		}
	],
	options: {
		doNotFollow: { path: 'node_modules' },
		exclude: { path: '^(build|\\.svelte-kit|data|demo/media)' },
		tsPreCompilationDeps: true,
		tsConfig: { fileName: 'tsconfig.json' },
		webpackConfig: { fileName: 'tests/support/import-aliases.cjs' },
		enhancedResolveOptions: {
			extensions: ['.ts', '.js', '.mjs', '.cjs', '.svelte', '.svelte.ts', '.d.ts'],
			exportsFields: ['exports'],
			conditionNames: ['import', 'svelte', 'node', 'default']
		}
	}
};
