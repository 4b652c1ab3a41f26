import type { HeardChannel } from '../../src/lib/core/master/heard-channel';
import { createReadingsCollector } from '../../src/lib/core/measure/channel-readings';
import { createMeter } from '../../src/lib/core/measure/meter';
import { FRAMES_A_SECOND, READINGS_RATE, readingAt } from '../../src/lib/core/measure/readings';
import { measureSound } from '../../src/lib/core/measure/sound-measures';
import type { FftProvider } from '../../src/lib/core/signal/fft';
import { SCENE_RATE } from './simulator/sounds';

/** A made-up channel as the engine hears it, on a stretch as long as it is. @param samples at `SCENE_RATE` */
export function heardChannel(
	channel: Pick<HeardChannel, 'deviceId' | 'channel' | 'name'>,
	samples: Float32Array,
	provider: FftProvider
): HeardChannel {
	const seconds = Math.floor(samples.length / SCENE_RATE);
	const collector = createReadingsCollector(seconds * FRAMES_A_SECOND, seconds);
	let second = 0;
	const meter = createMeter(1, provider, (records) => {
		collector.add(readingAt(records, 0), second * FRAMES_A_SECOND, (second + 1) * FRAMES_A_SECOND);
		second++;
	});
	meter.add(upsampled(samples.subarray(0, seconds * SCENE_RATE)));
	meter.finish();
	const { track, readings } = collector.finish();
	return { ...channel, coverage: 1, track, sound: measureSound(track, readings) };
}

/** Straight lines between samples: what that adds above 8 kHz is 20 dB softer and lies above all that speech is told by. */
function upsampled(samples: Float32Array): Float32Array {
	const factor = READINGS_RATE / SCENE_RATE;
	return Float32Array.from({ length: factor * samples.length }, (_, i) => {
		const at = Math.floor(i / factor);
		const share = (i % factor) / factor;
		return (1 - share) * samples[at]! + share * (samples[at + 1] ?? samples[at]!);
	});
}
