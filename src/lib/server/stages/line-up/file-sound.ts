import { decodeForAnalysis, decodePieces, isSeekable } from '../../media/decode-sound';
import { soundFilesOf } from '../../media/sound-inputs';
import { isReadableRate, layoutInPlace } from '../../media/wave-sound';
import type { MediaFacts } from '../../../core/gather/media-facts';
import type { JoinableFile } from '../../../core/gather/spanned';
import type { EnginePool } from '../../engine/engine-pool';
import type { SoundSource } from './align-recordings';

/** Up to this length a decoder's start counts. */
const SHORT_SECONDS = 300;

/** Sound straight from media files, whose identity is their path. */
export function fileSound(pool: EnginePool, signal?: AbortSignal): SoundSource {
	const abort = signal ? { signal } : {};
	return {
		jumping: ({ facts }) => (isInPlace(facts) ? 'free' : isSeekable(facts) ? 'costly' : 'never'),
		isBetterTogether: ({ facts }) => facts.container !== 'wav' && facts.durationSeconds <= SHORT_SECONDS,
		async read(file, stretches, channel) {
			const { facts, id: path } = file;
			const own = channel === undefined ? {} : { channel };
			const layout = await layoutInPlace(path, facts);
			if (layout) return pool.run({ kind: 'wave', path, layout, stretches, channel }, signal);
			const [only, ...others] = stretches;
			return only && others.length === 0 && only.fromSeconds === 0 && only.toSeconds >= lengthOf(file)
				? [await decodeForAnalysis(path, facts, { ...own, ...abort })]
				: decodePieces(
						stretches.map((stretch) => ({ path, facts, stretch, ...own })),
						abort
					);
		},
		findTimecode: ({ id: path, facts }) =>
			facts.audio
				? pool.run({ kind: 'timecode', files: soundFilesOf(path, facts), channels: facts.audio.channels }, signal)
				: Promise.resolve(undefined),
		readTogether: (files) =>
			decodePieces(
				files.map((file) => ({
					path: file.id,
					facts: file.facts,
					stretch: { fromSeconds: 0, toSeconds: Math.ceil(lengthOf(file)) }
				})),
				abort
			)
	};
}

/** Whether a file's sound can be read in place, by what it tells of itself; its layout has the last word. */
function isInPlace({ container, audio }: MediaFacts): boolean {
	const isPlain = container === 'wav' && audio !== undefined && !audio.channelFiles;
	return isPlain && IN_PLACE_CODECS.includes(audio.codec) && isReadableRate(audio.sampleRate);
}

const IN_PLACE_CODECS: readonly string[] = ['pcm_s16le', 'pcm_s24le', 'pcm_s32le', 'pcm_f32le'];

function lengthOf({ facts }: JoinableFile): number {
	return facts.durationSeconds - (facts.audio?.startSeconds ?? 0);
}
