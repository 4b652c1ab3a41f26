// Adds up what the two test runners counted, in one plain closing line.
import { readFileSync } from 'node:fs';

const [unit, e2e] = process.argv.slice(2).map((path) => JSON.parse(readFileSync(path, 'utf8')));
const passed = unit.numPassedTests + e2e.stats.expected;
const failed = unit.numFailedTests + e2e.stats.unexpected;
process.stdout.write(`${passed} passed, ${failed} failed\n`);
process.exitCode = failed > 0 || passed === 0 ? 1 : 0;
