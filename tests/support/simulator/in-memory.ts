import { createDecimator } from '../../../src/lib/core/signal/decimate';
import type { FftProvider } from '../../../src/lib/core/signal/fft';
import { FULL_SCALE } from '../../../src/lib/core/features/band-features';
import { align } from '../../../src/lib/core/solve/align';
import type { Alignment, Placed } from '../../../src/lib/core/solve/alignment';
import type { AlignableClip } from '../../../src/lib/core/solve/clip';
import { plainComparer } from '../../../src/lib/core/solve/links/comparer';
import type { PlacedFile } from '../../../src/lib/server/stages/line-up/align-folder';
import type { ScoredResult } from './score';
import { recordShoot, type RecordedFile, type SimulatedShoot, type TrueFile } from './simulator';

/** Lines a simulated shoot up without files, encoders and decoders: for many seeds. */
export async function alignInMemory(
	shoot: SimulatedShoot,
	seed: number,
	provider: FftProvider
): Promise<{ readonly result: ScoredResult; readonly truth: readonly TrueFile[]; readonly alignment: Alignment }> {
	const truth: TrueFile[] = [];
	const clips: AlignableClip[] = [];
	const sounds: (readonly Int16Array[])[] = [];
	for (const file of recordShoot(shoot, seed, provider)) {
		clips.push(clipOf(file));
		// The mix first, then each channel.
		const mix = file.channels[0]!.map(
			(_, i) => file.channels.reduce((sum, one) => sum + one[i]!, 0) / file.channels.length
		);
		sounds.push([mix, ...(file.channels.length > 1 ? file.channels : [])].map((one) => analysisSound(one, provider)));
		truth.push(file.truth);
	}
	const comparer = plainComparer(
		({ clip, channel }) => sounds[clip]![channel === undefined ? 0 : channel + 1]!,
		provider
	);
	const alignment = await align(clips, comparer, { atOnce: 1 });
	return {
		truth,
		alignment,
		result: {
			groups: alignment.lineUps.map((lineUp) => ({
				reference: lineUp.referenceDevice,
				clips: lineUp.placed.map((placed) => placedFile(truth[placed.clip]!, placed))
			})),
			unplaced: alignment.strays.map(({ clip }) => ({ path: truth[clip]!.path }))
		}
	};
}

function clipOf({ device, truth, channels }: RecordedFile): AlignableClip {
	return {
		id: truth.path,
		device: device.folder,
		hasPicture: /mp4|mov|mkv|webm/.test(device.codec),
		channels: channels.length,
		durationSeconds: truth.seconds,
		soundStartSeconds: 0,
		soundSeconds: truth.seconds
	};
}

function placedFile({ path, device }: TrueFile, placed: Placed): PlacedFile {
	const { startSeconds, ratePpm, confidence, parts } = placed;
	return {
		path,
		device,
		start: startSeconds,
		ratePpm,
		confidence,
		method: 'audio',
		...(parts.length > 0
			? { parts: parts.map((part) => ({ mediaFrom: part.fromSeconds, start: part.startSeconds, ratePpm })) }
			: {}),
		...(placed.bend
			? { bend: placed.bend.map(({ mediaSeconds, laterSeconds }) => ({ media: mediaSeconds, later: laterSeconds })) }
			: {})
	};
}

/** From the scenes' 16 kHz to 16 bits at the engine's rate. */
export function analysisSound(samples: Float32Array, provider: FftProvider): Int16Array {
	const decimator = createDecimator(2, provider);
	const out = new Int16Array(Math.floor(samples.length / 2));
	const input = new Float32Array(decimator.inputSamples);
	for (let at = 0; at < out.length; at += decimator.outputSamples) {
		const first = 2 * at - decimator.marginSamples;
		for (let i = 0; i < input.length; i++) input[i] = (samples[first + i] ?? 0) * FULL_SCALE;
		const part = decimator.run(input);
		for (let i = 0; i < part.length && at + i < out.length; i++)
			out[at + i] = Math.max(-FULL_SCALE, Math.min(FULL_SCALE - 1, Math.round(part[i]!)));
	}
	return out;
}
