import { Worker } from 'node:worker_threads';
import type { Measured } from '../../core/measure/meter';
import { workerScript } from '../threads/worker-script';
import type { MeterAnswer, MeterRequest, MeterTask } from './meter.worker';

/** A sound that is measured while it comes, in a thread of its own. */
export interface SoundMeter {
	/** Resolves when more may come: what waits is bounded. @param samples interleaved, at 48 kHz; it is given away */
	add(samples: Float32Array<ArrayBuffer>): Promise<void>;
	finish(): Promise<MeasuredSound>;
	/** To be called in the end, whatever came of it. */
	close(): Promise<void>;
}

export interface MeasuredSound extends Measured {
	/** A peak file. */
	readonly peaks: Int16Array;
}

/** Blocks that may be under way. */
const MAX_UNDER_WAY = 8;

/** @param target gets the readings (see core/measure/readings) */
export function openSoundMeter(task: MeterTask): SoundMeter {
	const { filename, workerData } = workerScript('engine/meter.worker');
	const worker = new Worker(filename, { workerData: { ...workerData, task } });
	let underWay = 0;
	let fault: Error | undefined;
	let wake: (() => void) | undefined;
	let done: MeasuredSound | undefined;
	const changed = () => {
		wake?.();
		wake = undefined;
	};
	worker.on('message', (answer: MeterAnswer) => {
		if (answer.kind === 'taken') underWay--;
		else done = answer;
		changed();
	});
	worker.on('error', (error) => {
		fault = error;
		changed();
	});
	worker.on('exit', () => {
		fault ??= done ? undefined : new Error('The thread that measures sound has ended.');
		changed();
	});
	const until = async (isTrue: () => boolean) => {
		while (!isTrue()) {
			if (fault) throw fault;
			await new Promise<void>((resolve) => (wake = resolve));
		}
		if (fault) throw fault;
	};
	const send = (request: MeterRequest) => worker.postMessage(request, request ? [request.buffer] : []);
	return {
		async add(samples) {
			underWay++;
			send(samples);
			await until(() => underWay < MAX_UNDER_WAY);
		},
		async finish() {
			send(undefined);
			await until(() => done !== undefined);
			return done!;
		},
		async close() {
			await worker.terminate();
		}
	};
}
