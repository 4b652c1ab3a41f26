import { decodeForAnalysis, decodeStretches, isSeekable } from '../media/decode-sound';
import { readWaveLayout } from '../media/wave-notes';
import { isReadable } from '../media/wave-sound';
import type { EnginePool } from '../compute/engine-pool';
import type { SoundSource } from './align-recordings';

/** Sound straight from media files, whose identity is their path. */
export function fileSound(pool: EnginePool, signal?: AbortSignal): SoundSource {
	return {
		isSeekable: (file) => isSeekable(file.facts),
		async read(file, stretches, channel) {
			const { facts, id: path } = file;
			if (facts.container === 'wav') {
				const layout = await readWaveLayout(path);
				if (layout && isReadable(layout)) return pool.run({ kind: 'wave', path, layout, stretches, channel }, signal);
			}
			const options = { ...(channel === undefined ? {} : { channel }), ...(signal ? { signal } : {}) };
			const seconds = facts.durationSeconds - (facts.audio?.startSeconds ?? 0);
			const [only, ...others] = stretches;
			return only && others.length === 0 && only.fromSeconds === 0 && only.toSeconds >= seconds
				? [await decodeForAnalysis(path, facts, options)]
				: decodeStretches(path, facts, stretches, options);
		}
	};
}
