import { LRUCache } from 'lru-cache';
import type { MediaFacts } from '../../../core/gather/media-facts';
import type { Level, Precedence } from '../../jobs/precedence';
import { DECODER_STALL_SECONDS, runTool } from '../run-tool';
import { stretchInputs } from '../sound-inputs';
import { LISTENING_SAMPLE_RATE, silence } from './listening-format';

/** Short enough to come at once, long enough that starting a decoder does not count. */
const PIECE_SECONDS = 10;
export const PIECE_SAMPLES = PIECE_SECONDS * LISTENING_SAMPLE_RATE;
/** Half an hour of one camera, some minutes of many. */
const MAX_BYTES = 256 * 2 ** 20;

export interface PiecedSound {
	readonly path: string;
	/** Key of the sound in the caches. */
	readonly key: string;
	readonly facts: MediaFacts;
}

/** Pieces of coded sounds, decoded as they are asked for and kept in memory for a while. */
export interface ListeningPieces {
	/** All channels of the piece of that number, interleaved; silent beyond the end of the sound. @throws MediaError */
	piece(sound: PiecedSound, index: number): Promise<Int16Array | Int32Array>;
}

/** @param level of the decoding: who listens waits for it */
export function openListeningPieces(precedence: Precedence, level: Level = 'at once'): ListeningPieces {
	const kept = new LRUCache<string, Int16Array | Int32Array, PieceAsked>({
		maxSize: MAX_BYTES,
		sizeCalculation: (samples) => Math.max(1, samples.byteLength),
		// Whoever asks meanwhile waits for the same work; it is given to them though much else has come since.
		ignoreFetchAbort: true,
		allowStaleOnFetchAbort: true,
		fetchMethod: (_name, _stale, { context: { sound, index } }) =>
			precedence.run(level, () => decodePiece(sound, index))
	});
	return {
		piece: (sound, index) => kept.forceFetch(`${sound.key} ${index}`, { context: { sound, index } })
	};
}

interface PieceAsked {
	readonly sound: PiecedSound;
	readonly index: number;
}

async function decodePiece({ path, facts }: PiecedSound, index: number): Promise<Int16Array | Int32Array> {
	const audio = facts.audio!;
	const stretch = { fromSeconds: index * PIECE_SECONDS, toSeconds: (index + 1) * PIECE_SECONDS };
	const { args, chains, label, cut } = stretchInputs(path, facts, stretch);
	const filters = `aresample=${LISTENING_SAMPLE_RATE},${cut(LISTENING_SAMPLE_RATE)}`;
	const depth = audio.isDeep ? 's32le' : 's16le';
	const samples = silence(facts, PIECE_SAMPLES * audio.channels);
	const bytes = new Uint8Array(samples.buffer);
	let filled = 0;
	await runTool(
		'ffmpeg',
		[
			...['-v', 'error', '-nostdin', ...args],
			...['-filter_complex', `${chains}${label}${filters}[out]`, '-map', '[out]'],
			...['-flush_packets', '0', '-c:a', `pcm_${depth}`, '-f', depth, 'pipe:1']
		],
		{
			stallSeconds: DECODER_STALL_SECONDS,
			onOutput(block) {
				const part = block.subarray(0, bytes.length - filled);
				bytes.set(part, filled);
				filled += part.length;
			}
		}
	);
	return samples;
}
