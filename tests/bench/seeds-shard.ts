/** Runs seeds of one case after another and sends what came of each; a process of its own, for a core of its own. */
import { fastFftProvider } from '../../src/lib/server/engine/fast-fft';
import { CASES } from '../support/simulator/cases';
import { alignInMemory } from '../support/simulator/in-memory';
import { score, type Scored } from '../support/simulator/score';

export interface ShardResult {
	readonly name: string;
	readonly seed: number;
	readonly scored: readonly Scored[];
}

process.on('message', ({ name, seeds }: { readonly name: string; readonly seeds: readonly number[] }) => {
	void (async () => {
		const provider = await fastFftProvider();
		const one = CASES.find((known) => known.name === name)!;
		for (const seed of seeds) {
			const { result, truth } = await alignInMemory(await one.build(seed), seed, provider);
			process.send!({ name, seed, scored: score(result, truth) } satisfies ShardResult);
		}
		process.send!('done');
	})();
});
