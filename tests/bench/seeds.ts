import { once } from 'node:events';
import { availableParallelism } from 'node:os';
import { resolve } from 'node:path';
import { CASES } from '../support/simulator/cases';
import { hasRecordedSounds } from '../support/simulator/recorded-sounds';
import { median, quantile, type Scored } from '../support/simulator/score';
import type { ShardResult } from './seeds-shard';
import { fork } from '../../scripts/outside-programs';

/** Confidence is told in these steps. */
const STEPS = [0, 0.5, 0.9, 0.99, 0.999] as const;

/**
 * Many seeds of every case that is cheap to make, without files: how often it is right, how near, and whether stated
 * confidence keeps its word.
 */
export async function benchSeeds(seeds: number, held: boolean, only: string): Promise<string> {
	const first = held ? 20_000 : 1;
	const cases = CASES.filter(
		({ name, isRecorded, isLong, needsFiles }) =>
			name.includes(only) && !isLong && !needsFiles && (!isRecorded || hasRecordedSounds)
	);
	const rows: string[] = [];
	const all: Scored[] = [];
	const counted: Scored[] = [];
	for (const { name, about, isAtTheLimit } of cases) {
		const scored = await runSeeds(
			name,
			Array.from({ length: seeds }, (_, index) => first + index)
		);
		all.push(...scored);
		if (!isAtTheLimit) counted.push(...scored);
		rows.push(row(`${name}: ${about}`, scored));
		process.stderr.write(`${rows.at(-1)}\n`);
	}
	rows.push(row('**all but those at the limit**', counted));
	return [
		`${seeds} seeds a case${held ? ', held back: nothing was tuned on them' : ''}; without encoders.`,
		'',
		'| case | right / misplaced / missed / false | error in ms, median / 95% / most | beyond the air | clock error in ppm, median / 95% |',
		'|---|---|---|---|---|',
		...rows,
		'',
		'| stated confidence | placed | right |',
		'|---|---|---|',
		...calibration(all)
	].join('\n');
}

async function runSeeds(name: string, seeds: readonly number[]): Promise<readonly Scored[]> {
	const shards = Math.min(availableParallelism(), seeds.length);
	const results = await Promise.all(
		Array.from({ length: shards }, async (_, shard) => {
			const child = fork(resolve(import.meta.dirname, 'seeds-shard.ts'), { execArgv: ['--import', 'tsx'] });
			const scored: Scored[] = [];
			child.on('message', (message: ShardResult | 'done') => {
				if (message === 'done') return void child.disconnect();
				scored.push(...message.scored);
				for (const bad of message.scored.filter(({ verdict }) => verdict !== 'right'))
					process.stderr.write(
						`  ${name}, seed ${message.seed}: ${bad.path} ${bad.verdict} ${bad.errorSeconds?.toFixed(3) ?? ''} ${bad.confidence ?? ''} ${bad.lossErrorSeconds ?? ''}\n`
					);
			});
			child.send({ name, seeds: seeds.filter((_seed, index) => index % shards === shard) });
			const [code] = (await once(child, 'exit')) as [number | null];
			if (code !== 0) throw new Error(`${name} ended with ${code}.`);
			return scored;
		})
	);
	return results.flat();
}

function row(name: string, scored: readonly Scored[]): string {
	const count = (verdict: Scored['verdict']) => scored.filter((one) => one.verdict === verdict).length;
	const right = scored.filter((one) => one.verdict === 'right' && one.errorSeconds !== undefined);
	const errors = right.map((one) => Math.abs(one.errorSeconds!) * 1000);
	const beyond = right.map((one) => one.beyondAirSeconds! * 1000);
	const rates = right.map((one) => Math.abs(one.rateErrorPpm!));
	const losses = scored.flatMap((one) => one.lossErrorSeconds ?? []).map((seconds) => seconds * 1000);
	const places =
		losses.length > 0
			? `; place of the loss within ${median(losses).toFixed(0)} / ${quantile(losses, 0.95).toFixed(0)} ms`
			: '';
	return `| ${name}${places} | ${count('right')} / ${count('misplaced')} / ${count('missed')} / ${count('false')} | ${median(errors).toFixed(2)} / ${quantile(errors, 0.95).toFixed(2)} / ${Math.max(0, ...errors).toFixed(2)} | ${median(beyond).toFixed(2)} / ${quantile(beyond, 0.95).toFixed(2)} / ${Math.max(0, ...beyond).toFixed(2)} | ${median(rates).toFixed(2)} / ${quantile(rates, 0.95).toFixed(2)} |`;
}

function calibration(scored: readonly Scored[]): readonly string[] {
	return STEPS.map((from, index) => {
		const to = STEPS[index + 1];
		const own = scored.filter(
			({ confidence }) => confidence !== undefined && confidence >= from && (to === undefined || confidence < to)
		);
		const right = own.filter(({ verdict }) => verdict === 'right').length;
		return `| ${from} ${to === undefined ? 'and more' : `to ${to}`} | ${own.length} | ${right} |`;
	});
}
