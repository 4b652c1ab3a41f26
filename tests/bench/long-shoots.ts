import pMap from 'p-map';
import { once } from 'node:events';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import type { AlignmentFile } from '../../src/lib/server/stages/line-up/align-folder';
import { quantile, score } from '../support/simulator/score';
import type { TrueFile } from '../support/simulator/simulator';
import { writeLongShoot, writeManyClips } from './long-shoot';
import { runProgram as run, spawn } from '../../scripts/outside-programs';

const ROOT = resolve(import.meta.dirname, '../..');

/** Seconds each of the seven devices runs: 1, 4 and 14 device-hours. */
const LENGTHS = [514, 2057, 7200] as const;

/**
 * The whole line-up against bare decoding of the same files in the same run, over lengths and over many clips.
 * @param folder where the shoots are made, or lie from an earlier run: two hours of seven devices take 25 GB
 */
export async function benchLongShoots(folder: string): Promise<string> {
	const rows: string[] = [];
	for (const seconds of LENGTHS) {
		const { truth, path } = await made(join(folder, `seven-${seconds}`), (target) =>
			writeLongShoot(target, seconds, 5)
		);
		const hours = truth.reduce((sum, one) => sum + one.seconds, 0) / 3600;
		rows.push(row(`7 devices, ${hours.toFixed(1)} device-hours`, truth, await measure(path, truth)));
		process.stderr.write(`${rows.at(-1)}\n`);
	}
	const many = await made(join(folder, 'many'), (target) => writeManyClips(target, 7));
	const hours = many.truth.reduce((sum, one) => sum + one.seconds, 0) / 3600;
	const name = `20 devices, ${many.truth.length} clips, ${hours.toFixed(1)} device-hours`;
	rows.push(row(name, many.truth, await measure(many.path, many.truth)));
	return [
		'Against `ffmpeg -vn -f null` of the same files, two at once, in the same run.',
		'',
		'| shoot | right | error in ms, median / 95% | bare decoding | whole line-up | times bare decoding | after reading, times bare decoding | peak memory |',
		'|---|---|---|---|---|---|---|---|',
		...rows
	].join('\n');
}

async function made(folder: string, make: (folder: string) => Promise<readonly TrueFile[]>) {
	const notes = `${folder}.truth.json`;
	const known = await readFile(notes, 'utf8').catch(() => undefined);
	if (known) return { path: folder, truth: JSON.parse(known) as readonly TrueFile[] };
	await mkdir(folder, { recursive: true });
	const truth = await make(folder);
	await writeFile(notes, JSON.stringify(truth));
	return { path: folder, truth };
}

interface Measured {
	readonly result: AlignmentFile;
	readonly bareSeconds: number;
	readonly wholeSeconds: number;
	readonly peakMebibytes: number;
}

async function measure(folder: string, truth: readonly TrueFile[]): Promise<Measured> {
	let began = performance.now();
	await pMap(
		truth,
		({ path }) => run('ffmpeg', ['-v', 'error', '-nostdin', '-vn', '-i', join(folder, path), '-f', 'null', '-']),
		{ concurrency: 2 }
	);
	const bareSeconds = (performance.now() - began) / 1000;
	began = performance.now();
	const out = `${folder}.alignment.json`;
	const child = spawn(process.execPath, ['build/entry/open-choir.js', 'align', folder, '--quiet', '--json', out], {
		cwd: ROOT,
		stdio: ['ignore', 'ignore', 'inherit']
	});
	let peakMebibytes = 0;
	const watch = setInterval(() => {
		void readFile(`/proc/${child.pid}/status`, 'utf8')
			.then((text) => (peakMebibytes = Math.max(peakMebibytes, Number(/VmHWM:\s+(\d+)/.exec(text)?.[1] ?? 0) / 1024)))
			.catch(() => undefined);
	}, 250);
	const [code] = (await once(child, 'close')) as [number];
	clearInterval(watch);
	if (code !== 0) throw new Error(`align ended with ${code}.`);
	const wholeSeconds = (performance.now() - began) / 1000;
	return { result: JSON.parse(await readFile(out, 'utf8')) as AlignmentFile, bareSeconds, wholeSeconds, peakMebibytes };
}

function row(
	name: string,
	truth: readonly TrueFile[],
	{ result, bareSeconds, wholeSeconds, peakMebibytes }: Measured
): string {
	const scored = score(result, truth);
	const right = scored.filter(({ verdict }) => verdict === 'right');
	const errors = right.flatMap((one) => one.errorSeconds ?? []).map((error) => Math.abs(error) * 1000);
	const ratio = (seconds: number) => (seconds / bareSeconds).toFixed(2);
	return `| ${name} | ${right.length} of ${scored.length} | ${quantile(errors, 0.5).toFixed(2)} / ${quantile(errors, 0.95).toFixed(2)} | ${bareSeconds.toFixed(0)} s | ${wholeSeconds.toFixed(0)} s | ${ratio(wholeSeconds)} | ${ratio(result.timing.alignSeconds)} | ${peakMebibytes.toFixed(0)} MiB |`;
}
