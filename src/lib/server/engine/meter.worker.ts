import { closeSync, openSync, writeSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import { createMeter, type Measured } from '../../core/measure/meter';
import { createPeakBuilder } from '../../core/signal/peaks';
import { fastFftProvider } from './fast-fft';

/** What the thread is started with. */
export interface MeterTask {
	readonly channels: number;
	/** Gets the readings. */
	readonly target: string;
}

/** Interleaved samples at 48 kHz; nothing where there are no more. */
export type MeterRequest = Float32Array<ArrayBuffer> | undefined;

export type MeterAnswer =
	{ readonly kind: 'taken' } | ({ readonly kind: 'done'; readonly peaks: Int16Array<ArrayBuffer> } & Measured);

/** Takes a sound in and writes what is read of it, in a thread that ends with it. */
async function run({ channels, target }: MeterTask): Promise<void> {
	const file = openSync(target, 'w');
	const meter = createMeter(channels, await fastFftProvider(), (records) => {
		writeSync(file, records);
	});
	const peaks = createPeakBuilder(channels);
	let shorts = new Int16Array();
	parentPort!.on('message', (samples: MeterRequest) => {
		if (samples) {
			meter.add(samples);
			if (shorts.length < samples.length) shorts = new Int16Array(samples.length);
			toShorts(samples, shorts);
			peaks.add(shorts.subarray(0, samples.length));
			parentPort!.postMessage({ kind: 'taken' } satisfies MeterAnswer);
			return;
		}
		const measured = meter.finish();
		closeSync(file);
		const { peaks: levels } = peaks.finish();
		const answer: MeterAnswer = { kind: 'done', ...measured, peaks: levels as Int16Array<ArrayBuffer> };
		parentPort!.postMessage(answer, [answer.peaks.buffer]);
		parentPort!.close();
	});
}

function toShorts(samples: Float32Array, shorts: Int16Array): void {
	for (let i = 0; i < samples.length; i++) {
		const value = Math.round(samples[i]! * 32_768);
		shorts[i] = value > 32_767 ? 32_767 : value < -32_768 ? -32_768 : value;
	}
}

await run((workerData as { task: MeterTask }).task);
