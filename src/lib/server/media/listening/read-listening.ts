import { open } from 'node:fs/promises';
import { LRUCache } from 'lru-cache';
import type { Level, Precedence } from '../../jobs/precedence';
import type { MediaCache } from '../media-cache';
import { LISTENING_SAMPLE_RATE, silence } from './listening-format';
import { openListeningPieces, PIECE_SAMPLES, type PiecedSound } from './listening-pieces';
import { readWaveFrames, type WaveSource, waveSources } from './wave-frames';

export interface ListeningSource {
	/**
	 * Samples `[from, to)` of some channels, interleaved: straight from wave files, from a copy where there is one, else
	 * decoded a piece at a time. Silent beyond the end of the sound.
	 * @throws MediaError it cannot be read
	 */
	read(sound: PiecedSound, from: number, to: number, channels: readonly number[]): Promise<Int16Array | Int32Array>;
}

/** Sounds whose layout is remembered. */
const MAX_LAYOUTS = 2000;

/** @param level of the decoding: who listens waits for it */
export function openListeningSource(cache: MediaCache, precedence: Precedence, level?: Level): ListeningSource {
	const pieces = openListeningPieces(precedence, level);
	const layouts = new LRUCache<string, { readonly sources: readonly WaveSource[] | undefined }>({ max: MAX_LAYOUTS });

	async function layoutOf({ path, key, facts }: PiecedSound): Promise<readonly WaveSource[] | undefined> {
		const name = `${key} ${path}`;
		const known = layouts.get(name);
		if (known) return known.sources;
		const sources = await waveSources(path, facts);
		layouts.set(name, { sources });
		return sources;
	}

	async function fromPieces(
		sound: PiecedSound,
		from: number,
		to: number,
		channels: readonly number[],
		out: Int16Array | Int32Array
	): Promise<void> {
		const first = Math.floor(from / PIECE_SAMPLES);
		const last = Math.floor((to - 1) / PIECE_SAMPLES);
		const all = sound.facts.audio!.channels;
		for (let index = first; index <= last; index++) {
			const begins = index * PIECE_SAMPLES;
			const samples = await pieces.piece(sound, index);
			const start = Math.max(from, begins);
			const end = Math.min(to, begins + PIECE_SAMPLES);
			for (const [place, channel] of channels.entries())
				for (let frame = start; frame < end; frame++)
					out[(frame - from) * channels.length + place] = samples[(frame - begins) * all + channel]!;
		}
		// Whoever listens goes on: what comes next is there in time.
		if ((last + 1) * PIECE_SAMPLES < sound.facts.durationSeconds * LISTENING_SAMPLE_RATE)
			void pieces.piece(sound, last + 1).catch(() => undefined);
	}

	return {
		async read(sound, from, to, channels) {
			const out = silence(sound.facts, (to - from) * channels.length);
			const sources = await layoutOf(sound);
			if (sources) await readWaveFrames(sources, from, to, channels, out);
			else if (!(await readCopy(cache, sound, from, to, channels, out)))
				await fromPieces(sound, from, to, channels, out);
			return out;
		}
	};
}

/** @returns whether there is a copy */
async function readCopy(
	cache: MediaCache,
	{ key, facts }: PiecedSound,
	from: number,
	to: number,
	channels: readonly number[],
	out: Int16Array | Int32Array
): Promise<boolean> {
	const path = cache.path(key, facts.audio!.isDeep ? 'listening.s32' : 'listening.s16');
	const file = await open(path, 'r').catch(() => undefined);
	if (!file) return false;
	try {
		const all = facts.audio!.channels;
		const samples = silence(facts, (to - from) * all);
		const bytes = new Uint8Array(samples.buffer);
		await file.read(bytes, 0, bytes.length, from * all * samples.BYTES_PER_ELEMENT);
		for (const [place, channel] of channels.entries())
			for (let frame = 0; frame < to - from; frame++)
				out[frame * channels.length + place] = samples[frame * all + channel]!;
		return true;
	} finally {
		await file.close();
	}
}
