import { availableParallelism } from 'node:os';
import { Piscina } from 'piscina';
import type { Listening, PairMatch } from '../../core/match/match-pair';
import type { EngineTask, Listened } from './engine.worker';
import { workerScript } from './worker-script';

/** The engine's worker threads. */
export interface EnginePool {
	listen(samples: Float32Array, signal?: AbortSignal): Promise<Listened>;
	match(a: Listening, keyA: string, b: Listening, keyB: string, signal?: AbortSignal): Promise<PairMatch>;
	close(): Promise<void>;
}

export function createEnginePool(): EnginePool {
	const script = workerScript('compute/engine.worker');
	const pool = new Piscina<EngineTask, Listened | PairMatch>({
		filename: script.filename,
		workerData: script.workerData,
		maxThreads: Math.max(1, availableParallelism()),
		minThreads: 1,
		idleTimeout: 10_000
	});
	const run = (task: EngineTask, signal?: AbortSignal) => pool.run(task, signal ? { signal } : {});
	return {
		listen: (samples, signal) => run({ kind: 'listen', samples }, signal) as Promise<Listened>,
		match: (a, keyA, b, keyB, signal) => run({ kind: 'match', a, keyA, b, keyB }, signal) as Promise<PairMatch>,
		close: () => pool.destroy()
	};
}
