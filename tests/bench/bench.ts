/**
 * Measurements, not tests: `npm run bench -- line-up [--seeds N] [--held] [--only NAME]`. Writes its table into
 * docs/benchmarks.md, in the place of the one before.
 */
import { readFile, rename, writeFile } from 'node:fs/promises';
import { availableParallelism, cpus } from 'node:os';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { benchLineUp } from './line-up';

const { values, positionals } = parseArgs({
	allowPositionals: true,
	options: {
		seeds: { type: 'string', default: '5' },
		held: { type: 'boolean', default: false },
		only: { type: 'string', default: '' }
	}
});
const TARGET = resolve(import.meta.dirname, '../../docs/benchmarks.md');

const [name] = positionals;
if (name !== 'line-up') {
	process.stderr.write('Usage: npm run bench -- line-up [--seeds N] [--held] [--only NAME]\n');
	process.exitCode = 2;
} else {
	const text = await benchLineUp(Number(values.seeds), values.held, values.only);
	process.stdout.write(`${text}\n`);
	if (!values.only) await put(`line-up${values.held ? '-held' : ''}`, text);
	process.exit(0);
}

/** Replaces what stands between a section's marks. */
async function put(section: string, text: string): Promise<void> {
	const [begin, end] = [`<!-- ${section} -->`, `<!-- end of ${section} -->`];
	const old = await readFile(TARGET, 'utf8');
	const machine = `Measured on ${availableParallelism()} cores of ${cpus()[0]?.model ?? 'an unknown processor'}, ${new Date().toISOString().slice(0, 10)}.`;
	const block = `${begin}\n\n${machine} ${text}\n\n${end}`;
	const at = old.indexOf(begin);
	const next =
		at < 0 ? `${old.trimEnd()}\n\n${block}\n` : old.slice(0, at) + block + old.slice(old.indexOf(end) + end.length);
	await writeFile(`${TARGET}.part`, next);
	await rename(`${TARGET}.part`, TARGET);
}
