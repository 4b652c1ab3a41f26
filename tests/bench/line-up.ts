import pMap from 'p-map';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fastFftProvider } from '../../src/lib/server/engine/fast-fft';
import { alignFolder } from '../../src/lib/server/stages/line-up/align-folder';
import { CASES } from '../support/simulator/cases';
import type { SimulatedCase } from '../support/simulator/building';
import { hasRecordedSounds } from '../support/simulator/recorded-sounds';
import { median, quantile, score, type Scored } from '../support/simulator/score';
import { type TrueFile, writeShoot } from '../support/simulator/simulator';
import { runProgram as run } from '../../scripts/outside-programs';

interface CaseResult {
	readonly name: string;
	readonly about: string;
	readonly seeds: number;
	readonly scored: readonly Scored[];
	/** Seconds, and the yardstick: bare ffmpeg decoding the same files, two at once, in the same run. */
	readonly alignSeconds: number;
	readonly wholeSeconds: number;
	readonly bareDecodeSeconds: number;
}

/** Runs every case over some seeds. @param only part of a case's name @param held seeds that nothing is tuned on @param isQuick leaves out what takes minutes to make */
export async function benchLineUp(seeds: number, held: boolean, only = '', isQuick = false): Promise<string> {
	const first = held ? 20_000 : 1;
	const results: CaseResult[] = [];
	for (const one of CASES.filter(
		({ name, isRecorded, isLong }) => name.includes(only) && (!isRecorded || hasRecordedSounds) && !(isQuick && isLong)
	))
		results.push(await runCase(one, first, seeds));
	return table(results, held);
}

async function runCase(one: SimulatedCase, first: number, seeds: number): Promise<CaseResult> {
	const provider = await fastFftProvider();
	const scored: Scored[] = [];
	let [alignSeconds, wholeSeconds, bareDecodeSeconds] = [0, 0, 0];
	for (let seed = first; seed < first + seeds; seed++) {
		const folder = await mkdtemp(join(tmpdir(), 'open-choir-bench-'));
		try {
			const truth = await writeShoot(await one.build(seed), folder, seed, provider);
			bareDecodeSeconds += await bareDecode(folder, truth);
			const began = performance.now();
			const result = await alignFolder(folder);
			wholeSeconds += (performance.now() - began) / 1000;
			alignSeconds += result.timing.alignSeconds;
			const own = score(result, truth);
			scored.push(...own);
			for (const bad of own.filter(({ verdict }) => verdict !== 'right'))
				process.stderr.write(
					`  ${one.name}, seed ${seed}: ${bad.path} ${bad.verdict} ${bad.errorSeconds?.toFixed(3) ?? ''} ${bad.confidence ?? ''}\n`
				);
		} finally {
			await rm(folder, { recursive: true });
		}
	}
	process.stderr.write(
		`${one.name}: ${scored.filter(({ verdict }) => verdict === 'right').length} of ${scored.length} right\n`
	);
	return { name: one.name, about: one.about, seeds, scored, alignSeconds, wholeSeconds, bareDecodeSeconds };
}

async function bareDecode(folder: string, truth: readonly TrueFile[]): Promise<number> {
	const began = performance.now();
	await pMap(
		truth,
		({ path }) => run('ffmpeg', ['-v', 'error', '-nostdin', '-vn', '-i', join(folder, path), '-f', 'null', '-']),
		{ concurrency: 2 }
	);
	return (performance.now() - began) / 1000;
}

function table(results: readonly CaseResult[], held: boolean): string {
	const rows = results.map(({ name, about, seeds, scored, alignSeconds, wholeSeconds, bareDecodeSeconds }) => {
		const count = (verdict: Scored['verdict']) => scored.filter((one) => one.verdict === verdict).length;
		const placed = scored.filter((one) => one.errorSeconds !== undefined && one.verdict === 'right');
		const errors = placed.map((one) => Math.abs(one.errorSeconds!) * 1000);
		const beyond = placed.map((one) => one.beyondAirSeconds! * 1000);
		const rates = placed.map((one) => Math.abs(one.rateErrorPpm!));
		const sure = scored.filter((one) => (one.confidence ?? 0) >= 0.9);
		const surelyRight = sure.filter((one) => one.verdict === 'right').length;
		const losses = scored.flatMap((one) => one.lossErrorSeconds ?? []).map((seconds) => seconds * 1000);
		const places =
			losses.length > 0
				? `; place of the loss within ${median(losses).toFixed(0)} / ${quantile(losses, 0.95).toFixed(0)} ms`
				: '';
		return `| ${name}: ${about}${places} | ${seeds} | ${count('right')} / ${count('misplaced')} / ${count('missed')} / ${count('false')} | ${median(errors).toFixed(2)} / ${quantile(errors, 0.95).toFixed(2)} | ${median(beyond).toFixed(2)} / ${quantile(beyond, 0.95).toFixed(2)} | ${median(rates).toFixed(2)} / ${quantile(rates, 0.95).toFixed(2)} | ${surelyRight} of ${sure.length} | ${(wholeSeconds / bareDecodeSeconds).toFixed(1)} | ${(alignSeconds / bareDecodeSeconds).toFixed(1)} |`;
	});
	return [
		`Seeds ${held ? 'held back: nothing was tuned on them' : 'that the engine was worked on with'}.`,
		'',
		'| case | seeds | right / misplaced / missed / false | error in ms, median / 95% | beyond the air | clock error in ppm, median / 95% | right of those stated at 0.9 and more | whole line-up, times bare decoding | after decoding, times bare decoding |',
		'|---|---|---|---|---|---|---|---|---|',
		...rows
	].join('\n');
}
