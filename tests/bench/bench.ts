/**
 * Measurements, not tests: `npm run bench -- line-up [--seeds N] [--held] [--quick] [--only NAME]` for many kinds of shoots,
 * `npm run bench -- seeds [--seeds N] [--held] [--only NAME]` for many seeds of them without files, and
 * `npm run bench -- hours [--folder DIR]` for long ones, `npm run bench -- sources|people [--seeds N] [--held]` for ranking and for who
 * speaks when, `npm run bench -- measure` for what measuring costs, `npm run bench -- gather` for reading and taking in files, and
 * `npm run bench -- score [--folder DIR]` for the score in the page, `npm run bench -- changes` for how quickly a shoot answers,
 * `npm run bench -- at-once [--folder DIR]` for how soon pictures and sound are there, `npm run bench -- wall [--folder DIR]` for many
 * angles. Each writes its table into docs/benchmarks.md, in the place of the one before.
 */
import { mkdtemp, readFile, rename, writeFile } from 'node:fs/promises';
import { availableParallelism, cpus, tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { benchAtOnce } from './at-once';
import { benchChanges } from './changes';
import { benchGather } from './gather';
import { benchLineUp } from './line-up';
import { benchLongShoots } from './long-shoots';
import { benchScore } from './score';
import { benchSeeds } from './seeds';
import { benchMeasure } from './measure';
import { benchPeople, benchSources } from './sources';
import { benchWall } from './wall';

const { values, positionals } = parseArgs({
	allowPositionals: true,
	options: {
		seeds: { type: 'string', default: '5' },
		held: { type: 'boolean', default: false },
		quick: { type: 'boolean', default: false },
		only: { type: 'string', default: '' },
		folder: { type: 'string' }
	}
});
const TARGET = resolve(import.meta.dirname, '../../docs/benchmarks.md');

const [name] = positionals;
if (name === 'line-up') {
	const text = await benchLineUp(Number(values.seeds), values.held, values.only, values.quick);
	process.stdout.write(`${text}\n`);
	if (!values.only) await put(`line-up${values.held ? '-held' : ''}`, text);
	process.exit(0);
} else if (name === 'seeds') {
	const text = await benchSeeds(Number(values.seeds), values.held, values.only);
	process.stdout.write(`${text}\n`);
	if (!values.only) await put(`seeds${values.held ? '-held' : ''}`, text);
} else if (name === 'measure') {
	const text = await benchMeasure();
	process.stdout.write(`${text}\n`);
	await put('measure', text);
} else if (name === 'sources' || name === 'people') {
	const bench = name === 'sources' ? benchSources : benchPeople;
	const text = await bench(Number(values.seeds), values.held);
	process.stdout.write(`${text}\n`);
	await put(`${name}${values.held ? '-held' : ''}`, text);
} else if (name === 'gather') {
	const text = await benchGather();
	process.stdout.write(`${text}\n`);
	await put('gather', text);
} else if (name === 'score') {
	const folder = resolve(values.folder ?? (await mkdtemp(join(tmpdir(), 'open-choir-score-'))));
	const text = await benchScore(folder, values.only);
	process.stdout.write(`${text}\n`);
	if (!values.only) await put('score', text);
} else if (name === 'changes') {
	const text = await benchChanges(resolve(values.folder ?? (await mkdtemp(join(tmpdir(), 'open-choir-changes-')))));
	process.stdout.write(`${text}\n`);
	await put('changes', text);
} else if (name === 'wall') {
	const text = await benchWall(resolve(values.folder ?? (await mkdtemp(join(tmpdir(), 'open-choir-wall-')))));
	process.stdout.write(`${text}\n`);
	await put('wall', text);
} else if (name === 'at-once') {
	const text = await benchAtOnce(
		resolve(values.folder ?? (await mkdtemp(join(tmpdir(), 'open-choir-at-once-')))),
		values.only
	);
	process.stdout.write(`${text}\n`);
	if (!values.only) await put('at-once', text);
} else if (name === 'hours') {
	const text = await benchLongShoots(resolve(values.folder ?? (await mkdtemp(join(tmpdir(), 'open-choir-hours-')))));
	process.stdout.write(`${text}\n`);
	await put('hours', text);
} else {
	process.stderr.write(
		'Usage: npm run bench -- line-up [--seeds N] [--held] [--quick] [--only NAME]\n       npm run bench -- seeds [--seeds N] [--held] [--only NAME]\n       npm run bench -- hours [--folder DIR]\n       npm run bench -- gather\n       npm run bench -- score [--folder DIR]\n       npm run bench -- changes [--folder DIR]\n       npm run bench -- at-once [--folder DIR]\n'
	);
	process.exitCode = 2;
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
