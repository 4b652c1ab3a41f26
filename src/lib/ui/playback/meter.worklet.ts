import { createLoudnessMeter, type LoudnessMeter } from '../../core/measure/loudness';
import { TRUE_PEAK_REACH, truePeak } from '../../core/measure/true-peak';
import type { MeterReading } from './meter-messages';

/** 100 ms at 48 kHz: four of them are a momentary loudness. */
const BLOCK_SAMPLES = 4800;

/** Declared by the browser in its audio thread only. */
declare const registerProcessor: (name: string, processor: unknown) => void;
declare class AudioWorkletProcessor {
	readonly port: MessagePort;
}

/** One side of what is heard. */
class Side {
	/** What the true peak reaches back for, then the block. */
	readonly held = new Float32Array(2 * TRUE_PEAK_REACH + BLOCK_SAMPLES);
	readonly energy = new Float32Array(1);
	private readonly loudness: LoudnessMeter = createLoudnessMeter();

	/** @returns greatest magnitude of the block, as late as the filter reaches */
	read(): number {
		this.loudness.add(this.held.subarray(2 * TRUE_PEAK_REACH), this.energy);
		const peak = truePeak(this.held, TRUE_PEAK_REACH, TRUE_PEAK_REACH + BLOCK_SAMPLES);
		this.held.copyWithin(0, BLOCK_SAMPLES);
		return peak;
	}
}

/** Measures what is heard, ten times a second. */
class MeterProcessor extends AudioWorkletProcessor {
	private readonly sides = [new Side(), new Side()];
	private filled = 0;

	process(inputs: readonly (readonly Float32Array[])[]): boolean {
		const [input] = inputs;
		const length = input?.[0]?.length ?? 128;
		for (let i = 0; i < length; i++) {
			for (const [index, side] of this.sides.entries())
				side.held[2 * TRUE_PEAK_REACH + this.filled] = input?.[index]?.[i] ?? 0;
			if (++this.filled < BLOCK_SAMPLES) continue;
			this.filled = 0;
			const peaks = this.sides.map((side) => side.read());
			const reading: MeterReading = {
				energy: this.sides.reduce((sum, side) => sum + side.energy[0]!, 0),
				peak: Math.max(...peaks)
			};
			this.port.postMessage(reading);
		}
		return true;
	}
}

registerProcessor('meter', MeterProcessor);
