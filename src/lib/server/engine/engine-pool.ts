import { availableParallelism } from 'node:os';
import { Piscina } from 'piscina';
import type { EngineResults, EngineTask } from './engine.worker';
import { workerScript } from '../threads/worker-script';

/** The engine's worker threads. */
export interface EnginePool {
	/** How many there are. */
	readonly threads: number;
	run<Task extends EngineTask>(task: Task, signal?: AbortSignal): Promise<EngineResults[Task['kind']]>;
	close(): Promise<void>;
}

export function createEnginePool(): EnginePool {
	const script = workerScript('engine/engine.worker');
	const threads = Math.max(1, availableParallelism());
	const pool = new Piscina<EngineTask, EngineResults[EngineTask['kind']]>({
		filename: script.filename,
		workerData: script.workerData,
		maxThreads: threads,
		minThreads: 1,
		idleTimeout: 10_000
	});
	return {
		threads,
		run: <Task extends EngineTask>(task: Task, signal?: AbortSignal) =>
			pool.run(task, signal ? { signal } : {}) as Promise<EngineResults[Task['kind']]>,
		close: () => pool.destroy()
	};
}
