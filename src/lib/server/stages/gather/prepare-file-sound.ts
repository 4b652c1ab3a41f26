import type { MediaFacts } from '../../../core/gather/media-facts';
import type { SharpSound } from '../../../core/features/sharp-sounds';
import { secondsToFlicks } from '../../../core/time/flicks';
import { prepareSound, type PreparedSound } from '../../media/prepare-file';
import { soundFilesOf, soundKeyOf } from '../../media/sound-inputs';
import type { Runtime } from '../../runtime';

/** A file with sound, as far as preparing it goes. */
export interface FileWithSound {
	readonly id: string;
	readonly path: string;
	readonly identity: string;
	readonly facts: MediaFacts;
	readonly listening_samples: number | null;
	readonly heard_timecode: object | null;
}

export interface FileSoundOptions {
	readonly signal: AbortSignal;
	/** Seconds that are done. */
	readonly onProgress?: (seconds: number) => void;
}

/** Whether all that is made of a file's sound is there, what it tells of itself too. */
export async function isSoundPrepared(
	{ cache }: Runtime,
	{ identity, facts, listening_samples }: FileWithSound
): Promise<boolean> {
	// What older versions prepared has no readings.
	return listening_samples !== null && (await cache.has(soundKeyOf(identity, facts), 'readings.u8'));
}

/** Makes what is made of a file's sound, as far as it is not there, and notes what it tells; other work goes first. */
export async function prepareFileSound(
	runtime: Runtime,
	file: FileWithSound,
	{ signal, onProgress }: FileSoundOptions
): Promise<PreparedSound> {
	const { cache, pool, precedence } = runtime;
	const { id, path, identity, facts } = file;
	const isNoted = await isSoundPrepared(runtime, file);
	return precedence.run('background', async (turn) => {
		const prepared = await prepareSound(cache, path, soundKeyOf(identity, facts), facts, {
			signal,
			pausing: turn,
			...(onProgress ? { onProgress } : {}),
			async findSharpSounds(analysisPath) {
				await precedence.myTurn('background', signal);
				return pool.run({ kind: 'sharp', path: analysisPath }, signal);
			}
		});
		if (isNoted) return prepared;
		await noteListening(runtime, id, prepared.samples, inMediaTime(prepared.sharpSounds, facts));
		await listenForTimecode(runtime, file, signal);
		return prepared;
	});
}

/** Where a file tells no clock time, one of its channels may. */
async function listenForTimecode({ database, pool }: Runtime, file: FileWithSound, signal: AbortSignal): Promise<void> {
	if (file.facts.clockSeconds !== undefined || file.heard_timecode !== null) return;
	const found = await pool.run(
		{ kind: 'timecode', files: soundFilesOf(file.path, file.facts), channels: file.facts.audio!.channels },
		signal
	);
	// Of media time 0, not of the first sample.
	const day = found?.daySeconds ?? 1;
	const heard = found && { ...found, seconds: (found.seconds - file.facts.audio!.startSeconds + day) % day };
	await database.query('update media_file set heard_timecode = $2 where id = $1', [
		file.id,
		JSON.stringify(heard ?? {})
	]);
}

function inMediaTime(sounds: readonly SharpSound[], facts: MediaFacts): readonly number[] {
	return sounds.map((sound) => secondsToFlicks(sound.seconds + facts.audio!.startSeconds));
}

/** Notes that a file's listening sound is there, and where it is sharp. */
async function noteListening(
	{ database }: Runtime,
	fileId: string,
	listeningSamples: number,
	sharpSounds: readonly number[]
): Promise<void> {
	await database.query('update media_file set listening_samples = $2, sharp_sounds = $3 where id = $1', [
		fileId,
		listeningSamples,
		sharpSounds
	]);
}
