import type { MediaFacts } from '../../../core/gather/media-facts';
import type { JoinableFile } from '../../../core/gather/spanned';
import type { HeardTimecode } from '../../../core/shoot/clip';
import type { Queryable } from '../../db/database';
import { readAnalysis } from '../../media/prepare-file';
import { layoutInPlace } from '../../media/wave-sound';
import { soundKeyOf } from '../../media/sound-inputs';
import type { Runtime } from '../../runtime';
import type { SoundSource } from './align-recordings';
import { fileSound } from './file-sound';

/** A file of a shoot, as its sound is read. */
export interface StoredFile {
	readonly id: string;
	readonly path: string;
	/** Key of what was made of its sound. */
	readonly identity: string;
	readonly facts: MediaFacts;
	readonly heard_timecode: HeardTimecode | Record<string, never> | null;
}

/** A shoot's readable files. */
export async function storedFiles(database: Queryable, shootId: string): Promise<ReadonlyMap<string, StoredFile>> {
	const rows = await database.query<StoredFile>(
		`select id, path, identity, facts, heard_timecode from media_file where shoot_id = $1 and state = 'probed'`,
		[shootId]
	);
	return new Map(
		rows.map((file) => [
			file.id,
			{ ...file, identity: soundKeyOf(file.identity, file.facts), facts: withHeardTimecode(file) }
		])
	);
}

/** Timecode that was recorded as sound counts where the file tells none. */
function withHeardTimecode({ facts, heard_timecode: heard }: StoredFile): MediaFacts {
	if (!heard || !('channel' in heard) || facts.clockSeconds !== undefined) return facts;
	const { seconds, daySeconds, frameSeconds } = heard as HeardTimecode;
	return { ...facts, clockSeconds: seconds, clockDaySeconds: daySeconds, clockFrameSeconds: frameSeconds };
}

/** Sound of the shoot's files: what has been prepared is taken from there, anything else is decoded as it is needed. */
export function storedSound(
	{ cache, pool }: Runtime,
	files: ReadonlyMap<string, StoredFile>,
	signal?: AbortSignal
): SoundSource {
	const direct = fileSound(pool, signal);
	const inPlace = (file: JoinableFile): JoinableFile => ({ ...file, id: files.get(file.id)!.path });
	// What can be read in place always is: another low pass would give places some microseconds off.
	const isPrepared = async (file: JoinableFile) => {
		const { path, identity, facts } = files.get(file.id)!;
		return (await cache.has(identity, 'analysis.s16')) && !(await layoutInPlace(path, facts));
	};
	return {
		jumping: (file) => direct.jumping(file),
		isBetterTogether: (file) => direct.isBetterTogether(inPlace(file)),
		findTimecode: (file) => direct.findTimecode(inPlace(file)),
		async read(file, stretches, channel) {
			return channel === undefined && (await isPrepared(file))
				? readAnalysis(cache, files.get(file.id)!.identity, stretches)
				: direct.read(inPlace(file), stretches, channel);
		},
		async readTogether(some) {
			const prepared = await Promise.all(some.map(isPrepared));
			const decoded = await direct.readTogether(some.filter((_, index) => !prepared[index]).map(inPlace));
			let next = 0;
			return Promise.all(
				some.map(async (file, index) => {
					if (!prepared[index]) return decoded[next++]!;
					const whole = { fromSeconds: 0, toSeconds: Math.ceil(file.facts.durationSeconds) };
					return (await readAnalysis(cache, files.get(file.id)!.identity, [whole]))[0]!;
				})
			);
		}
	};
}
