import { type MicrophoneLag, microphoneLags } from '../../core/measure/microphone-lag';
import { correctClock } from '../../core/signal/clock-correction';
import type { FftProvider } from '../../core/signal/fft';

/** What a device recorded about a stretch, interleaved, and where the stretch lies in it. */
export interface RecordedStretch {
	readonly pcm: Int16Array | Int32Array;
	readonly channels: number;
	/** Of the stretch's first sample, among those of a channel. */
	readonly position: number;
	/** From one sample of the line-up to the next. */
	readonly step: number;
}

export interface MicrophonePlace {
	/** By its place in the list. */
	readonly device: number;
	readonly channel: number;
}

/** One stretch in which one person speaks alone, as several devices have it. */
export interface MicrophoneTask {
	readonly devices: readonly RecordedStretch[];
	readonly close: MicrophonePlace;
	readonly others: readonly MicrophonePlace[];
	readonly samples: number;
	readonly sampleRate: number;
}

/** How microphones hear somebody against a close one, clock errors taken out. @returns one for each of the others */
export function compareMicrophones(
	{ devices, close, others, samples, sampleRate }: MicrophoneTask,
	provider: FftProvider
): readonly (MicrophoneLag | undefined)[] {
	const rows = devices.map(({ pcm, channels, position, step }) => {
		const fullScale = pcm instanceof Int16Array ? 2 ** 15 : 2 ** 31;
		const own = Array.from({ length: channels }, () => new Float32Array(samples));
		correctClock(
			Float32Array.from(pcm, (value) => value / fullScale),
			own,
			position,
			step,
			0,
			samples
		);
		return own;
	});
	const rowOf = ({ device, channel }: MicrophonePlace) => rows[device]![channel]!;
	return microphoneLags(rowOf(close), others.map(rowOf), sampleRate, provider);
}
