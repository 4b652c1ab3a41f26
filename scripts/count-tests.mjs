// Adds up what the test runners counted, in one plain closing line. A suite that could not begin has failed with all its tests.
import { existsSync, readFileSync } from 'node:fs';

let passed = 0;
let failed = 0;
const begun = [];

/** Vitest's report: tests of a suite whose preparation failed are told as skipped. */
function countUnits({ testResults }) {
	for (const { status, assertionResults, name, message } of testResults) {
		const byState = (state) => assertionResults.filter((test) => test.status === state).length;
		passed += byState('passed');
		failed += byState('failed');
		const isBroken = status === 'failed' && (byState('failed') === 0 || /Error|fail/i.test(message));
		const skipped = assertionResults.length - byState('passed') - byState('failed');
		if (isBroken && (skipped > 0 || byState('failed') === 0)) {
			failed += Math.max(1, skipped);
			begun.push(name);
		}
	}
}

/** Playwright's report: errors outside of any test are a server that did not start, or a file that did not load. */
function countBrowser({ stats, errors }) {
	passed += stats.expected;
	failed += stats.unexpected + stats.flaky + stats.skipped + errors.length;
	for (const { message } of errors) begun.push(message);
}

for (const path of process.argv.slice(2)) {
	if (!existsSync(path)) {
		failed++;
		begun.push(`${path} was not written: its tests did not run`);
		continue;
	}
	const report = JSON.parse(readFileSync(path, 'utf8'));
	if (report.testResults) countUnits(report);
	else countBrowser(report);
}
for (const name of begun) process.stdout.write(`Could not begin: ${name}\n`);
process.stdout.write(`${passed} passed, ${failed} failed\n`);
process.exitCode = failed > 0 || passed === 0 ? 1 : 0;
