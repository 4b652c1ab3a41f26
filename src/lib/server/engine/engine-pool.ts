import { availableParallelism } from 'node:os';
import { Piscina } from 'piscina';
import type { EngineAnswer, EngineResults, EngineTask } from './engine.worker';
import { workerScript } from '../threads/worker-script';

/** The engine's worker threads. */
export interface EnginePool {
	/** How many there are. */
	readonly threads: number;
	run<Task extends EngineTask>(task: Task, signal?: AbortSignal): Promise<EngineResults[Task['kind']]>;
	/** Seconds that threads have been at each kind of work. */
	spent(): ReadonlyMap<EngineTask['kind'], number>;
	close(): Promise<void>;
}

export function createEnginePool(): EnginePool {
	const script = workerScript('engine/engine.worker');
	const threads = Math.max(1, availableParallelism());
	const pool = new Piscina<EngineTask, EngineAnswer>({
		filename: script.filename,
		workerData: script.workerData,
		maxThreads: threads,
		minThreads: 1,
		idleTimeout: 10_000
	});
	const spent = new Map<EngineTask['kind'], number>();
	return {
		threads,
		async run<Task extends EngineTask>(task: Task, signal?: AbortSignal) {
			const { result, seconds } = await pool.run(task, signal ? { signal } : {});
			spent.set(task.kind, (spent.get(task.kind) ?? 0) + seconds);
			return result as EngineResults[Task['kind']];
		},
		spent: () => spent,
		close: () => pool.destroy()
	};
}
