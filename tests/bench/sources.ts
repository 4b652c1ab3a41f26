import { once } from 'node:events';
import { availableParallelism } from 'node:os';
import { resolve } from 'node:path';
import { fork } from '../../scripts/outside-programs';
import { closeSpeech } from '../../src/lib/core/people/close-speech';
import { fastFftProvider } from '../../src/lib/server/engine/fast-fft';
import { diarizationScore } from '../support/diarization';
import { heardChannel } from '../support/heard-channels';
import { quantile } from '../support/simulator/score';
import { TALK_SECONDS } from '../support/simulator/sources';
import { addNoise, hearTalk, makeTalk, onChest } from '../support/simulator/talk';
import type { RankedShoot } from './sources-shard';

/** Seeds from here on are looked at only to measure. */
const HELD_SEEDS = 9000;

/** How sources of made-up shoots are ranked, against what is known of them. */
export async function benchSources(seeds: number, isHeld: boolean): Promise<string> {
	const first = isHeld ? HELD_SEEDS : 0;
	const results = await runSeeds(Array.from({ length: seeds }, (_, index) => first + index + 1));
	const count = (of: (one: RankedShoot) => readonly [part: number, whole: number]) => {
		const parts = results.map(of);
		return `${parts.reduce((sum, one) => sum + one[0], 0)} of ${parts.reduce((sum, one) => sum + one[1], 0)}`;
	};
	const missed = results.flatMap((one) => one.missedTwins);
	const notBelow = missed.length > 0 ? ` (not: ${missed.join(', ')})` : '';
	return [
		`${seeds} made-up shoots of two to four people (recorded voices, made rooms), ${TALK_SECONDS} s each: their own microphones, a boom, a pair on the table, two cameras, a memo, a faulty copy of each kind, a dead channel.`,
		'',
		'| what | result |',
		'|---|---|',
		`| set of close microphones first, before every other set and source | ${count((one) => [Number(one.isCloseFirst), 1])} |`,
		`| own microphone first for each person | ${count((one) => [one.ownFirst, one.people])} |`,
		`| faulty copy below its clean twin | ${count((one) => [one.twins - one.missedTwins.length, one.twins])}${notBelow} |`,
		`| dead channel last | ${count((one) => [Number(one.isDeadLast), 1])} |`,
		`| Kendall's tau of points and intelligibility (STOI, Taal 2011), mean / worst | ${spread(results.map((one) => one.tau))} |`,
		`| the same without faulty copies, of which it does not hear hum, clipping and drop-outs | ${spread(results.map((one) => one.soundTau))} |`
	].join('\n');
}

/** Each core takes a share of the seeds, in a process of its own. */
async function runSeeds(seeds: readonly number[]): Promise<readonly RankedShoot[]> {
	const shards = Math.min(availableParallelism(), seeds.length);
	const results = await Promise.all(
		Array.from({ length: shards }, async (_, shard) => {
			const child = fork(resolve(import.meta.dirname, 'sources-shard.ts'), { execArgv: ['--import', 'tsx'] });
			const ranked: RankedShoot[] = [];
			child.on('message', (message: RankedShoot | 'done') => {
				if (message === 'done') return void child.disconnect();
				ranked.push(message);
				process.stderr.write(`${JSON.stringify(message)}\n`);
			});
			child.send(seeds.filter((_seed, index) => index % shards === shard));
			const [code] = (await once(child, 'exit')) as [number | null];
			if (code !== 0) throw new Error(`A share of the seeds ended with ${code}.`);
			return ranked;
		})
	);
	return results.flat();
}

const BLEEDS = [
	['far apart', 3, 3],
	['at a table', 1.5, 1.6],
	['close together', 0.9, 1]
] as const;

/** Who speaks when, of people with close microphones. */
export async function benchPeople(seeds: number, isHeld: boolean): Promise<string> {
	const fft = await fastFftProvider();
	const rows: string[] = [];
	for (const [about, apart, criticalMetres] of BLEEDS)
		for (const people of [2, 3, 4]) {
			const [errors, starts, bleeds]: number[][] = [[], [], []];
			for (let seed = 1; seed <= seeds; seed++) {
				const own = seed + (isHeld ? HELD_SEEDS : 0);
				const talk = await makeTalk(own, { people, seconds: 240, apart, criticalMetres });
				const levels = talk.people.map((person, index) => {
					const heard = addNoise(hearTalk(talk, onChest(person), own * 10 + index, fft), -62, own * 10 + index);
					return heardChannel({ deviceId: '', channel: index, name: '' }, heard, fft).track.voice;
				});
				const { stretches, model } = closeSpeech(levels);
				const found = stretches.map((one) => one.map(({ from, to }) => ({ from: from / 100, to: to / 100 })));
				const score = diarizationScore(
					talk.people.map((one) => one.spoken),
					found,
					talk.seconds
				);
				errors!.push(score.error);
				starts!.push(...score.startErrors);
				for (let a = 0; a < people; a++)
					for (let b = 0; b < people; b++) if (a !== b) bleeds!.push(10 * Math.log10(model.bleed[a * people + b]!));
			}
			const percent = (value: number) => `${(100 * value).toFixed(1)}%`;
			rows.push(
				`| ${about} | ${quantile(bleeds!, 0.5).toFixed(0)} dB | ${people} | ${percent(errors!.reduce((sum, one) => sum + one, 0) / errors!.length)} | ${percent(Math.max(...errors!))} | ${(1000 * quantile(starts!, 0.5)).toFixed(0)} / ${(1000 * quantile(starts!, 0.9)).toFixed(0)} ms |`
			);
			process.stderr.write(`${rows.at(-1)}\n`);
		}
	return [
		`Conversations of four minutes of recorded voices in made rooms, with words said into what others say, a close microphone each; ${seeds} seeds a row. Error: speech missed, false and confused over all speech, overlap counted, no collar.`,
		'',
		'| people sit | bleed, median | people | error, mean | worst | start beside the true one, median / 90% |',
		'|---|---|---|---|---|---|',
		...rows
	].join('\n');
}

function spread(values: readonly number[]): string {
	const mean = values.reduce((sum, one) => sum + one, 0) / values.length;
	return `${mean.toFixed(2)} / ${Math.min(...values).toFixed(2)}`;
}
