import { defineConfig } from '@playwright/test';
import { installedPath } from './scripts/outside-programs';
import { IS_LONG } from './tests/support/long-checks';

/** The real interface in Debian's Chromium, against the server that ./start starts. */
export default defineConfig({
	testDir: 'tests/e2e',
	outputDir: '.cache/test-results',
	globalSetup: './tests/e2e/support/global-setup.ts',
	workers: 2,
	fullyParallel: false,
	projects: [
		// The job on the demo shoot and what it leaves behind, one file after another; beside it what has shoots of its own.
		{
			name: 'demo',
			testMatch: [
				'demo/job.spec.ts',
				'demo/master.spec.ts',
				'demo/mix.spec.ts',
				'demo/movie.spec.ts',
				'demo/second-line-up.spec.ts',
				'demo/views.spec.ts'
			],
			workers: 1
		},
		{ name: 'own', testMatch: 'own/*.spec.ts' },
		...(IS_LONG ? [{ name: 'long', testMatch: 'long/*.spec.ts' }] : []),
		// When all else is over: what the machine's speed decides.
		{ name: 'speed', testMatch: 'demo/wall-in-time.spec.ts', dependencies: ['demo', 'own'] }
	],
	timeout: 600_000,
	expect: { timeout: 20_000 },
	reporter: [['list']],
	use: {
		actionTimeout: 60_000,
		viewport: { width: 1280, height: 800 },
		// Without a film strip: taking it would slow down what is measured.
		trace: { mode: 'retain-on-failure', screenshots: false },
		launchOptions: {
			executablePath: installedPath('/usr/bin/chromium'),
			args: [
				'--no-sandbox',
				'--disable-gpu',
				'--disable-background-networking',
				'--no-first-run',
				'--autoplay-policy=no-user-gesture-required'
			]
		}
	}
});
