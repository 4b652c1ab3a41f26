import { lufsOf } from '../../core/measure/loudness';
import type { MeterReading } from './meter-messages';
import meterAddress from './meter.worklet?worker&url';

/** Momentary loudness is that of 400 ms (EBU Tech 3341). */
const MOMENTARY_READINGS = 4;
/** A peak is held so long. */
const HELD_READINGS = 15;

/** How loud what is heard is, while it plays. */
export class HeardMeter {
	/** LUFS over 400 ms; nothing in silence. */
	momentaryLufs = $state<number>();
	/** dBTP, the greatest of the last moments. */
	truePeakDbtp = $state<number>();
	private readings: readonly MeterReading[] = [];
	private meter: AudioWorkletNode | undefined;
	private source: AudioNode | undefined;
	private isWatched = false;

	/** Measures a node's output while somebody looks. What cannot be measured is heard all the same. */
	async attach(context: AudioContext, node: AudioNode): Promise<void> {
		await context.audioWorklet.addModule(meterAddress);
		this.meter = new AudioWorkletNode(context, 'meter', {
			numberOfOutputs: 0,
			channelCount: 2,
			channelCountMode: 'explicit'
		});
		this.meter.port.onmessage = ({ data }: MessageEvent<MeterReading>) => this.take(data);
		this.source = node;
		if (this.isWatched) node.connect(this.meter);
	}

	/** Somebody looks. @returns the end of it */
	watch(): () => void {
		this.isWatched = true;
		if (this.meter) this.source?.connect(this.meter);
		return () => {
			this.isWatched = false;
			if (this.meter) this.source?.disconnect(this.meter);
		};
	}

	private take(reading: MeterReading): void {
		this.readings = [...this.readings.slice(1 - HELD_READINGS), reading];
		const latest = this.readings.slice(-MOMENTARY_READINGS);
		const energy = latest.reduce((sum, one) => sum + one.energy, 0) / MOMENTARY_READINGS;
		const peak = Math.max(...this.readings.map((one) => one.peak));
		this.momentaryLufs = energy > 1e-9 ? lufsOf(energy) : undefined;
		this.truePeakDbtp = peak > 1e-5 ? 20 * Math.log10(peak) : undefined;
	}
}
