import { Piscina } from 'piscina';
import type { MixTask } from './mix.worker';
import { workerScript } from '../threads/worker-script';

/** Mixes in a thread of its own, which ends with the work. */
export async function mixSound(task: MixTask, signal: AbortSignal): Promise<void> {
	const script = workerScript('engine/mix.worker');
	const pool = new Piscina<MixTask, void>({ filename: script.filename, workerData: script.workerData, maxThreads: 1 });
	try {
		await pool.run(task, { signal });
	} finally {
		await pool.destroy();
	}
}
