import type { MediaFacts } from '../../core/devices/media-facts';
import type { Clip, HeardTimecode } from '../../core/shoot/shoot';
import type { JoinableFile, Recording } from '../../core/devices/spanned';
import type { FixedPlace } from '../../core/solve/clip';
import { flicksToSeconds } from '../../core/time/flicks';
import type { JobContext } from '../jobs/job-queue';
import { readAnalysis } from '../media/prepare-file';
import { soundKeyOf } from '../media/sound-inputs';
import type { Runtime } from '../runtime';
import { alignRecordings, type SoundSource, WAYS } from './align-recordings';
import { recordEdit } from './edit-log';
import { fileSound } from './file-sound';
import { loadShoot } from './load-shoot';
import { storeAlignment } from './store-alignment';

/** Job: lines up all clips, or only those that have no place yet. What was set by hand stays; the result is one edit. */
export async function lineUp(runtime: Runtime, context: JobContext): Promise<Record<string, unknown>> {
	const { database, pool } = runtime;
	const shoot = await loadShoot(database, context.shootId);
	const files = new Map(
		(
			await database.query<StoredFile>(
				`select id, path, identity, facts, heard_timecode from media_file where shoot_id = $1 and state = 'probed'`,
				[context.shootId]
			)
		).map((file) => [
			file.id,
			{ ...file, identity: soundKeyOf(file.identity, file.facts), facts: withHeardTimecode(file) }
		])
	);
	// A clip with a missing file cannot be heard; it keeps its place, if it has one.
	const clips = shoot.clips.filter((clip) => clip.parts.every((part) => files.has(part.fileId)));
	const onlyNew = context.input['onlyNew'] === true;
	const recordings = clips.map((clip): Recording => ({
		device: clip.deviceId,
		durationSeconds: flicksToSeconds(clip.durationFlicks),
		parts: clip.parts.map((part) => ({
			offsetSeconds: flicksToSeconds(part.offsetFlicks),
			file: { id: part.fileId, device: clip.deviceId, path: part.relativePath, facts: files.get(part.fileId)!.facts }
		}))
	}));
	const aligned = await alignRecordings(recordings, storedSound(runtime, files, context.signal), pool, {
		signal: context.signal,
		by: WAYS.find((way) => way === context.input['by']) ?? 'best',
		...(typeof context.input['reference'] === 'string' ? { reference: context.input['reference'] } : {}),
		...(onlyNew ? { fixed: fixedPlaces(clips) } : {}),
		onProgress: ({ share, what }) => context.progress(share, what === '' ? 'Comparing' : `Listening to ${what}`)
	});
	context.signal.throwIfAborted();
	await recordEdit(database, context.shootId, { kind: 'line-up' }, (transaction) =>
		storeAlignment(transaction, context.shootId, clips, aligned, onlyNew)
	);
	const placed = aligned.alignment.lineUps.reduce((sum, one) => sum + one.placed.length, 0);
	return {
		placed,
		strays: aligned.alignment.strays.length,
		decodeSeconds: aligned.decodeSeconds,
		alignSeconds: aligned.alignSeconds
	};
}

interface StoredFile {
	readonly id: string;
	readonly path: string;
	readonly identity: string;
	readonly facts: MediaFacts;
	readonly heard_timecode: HeardTimecode | Record<string, never> | null;
}

/** Timecode that was recorded as sound counts where the file tells none. */
function withHeardTimecode({ facts, heard_timecode: heard }: StoredFile): MediaFacts {
	if (!heard || !('channel' in heard) || facts.clockSeconds !== undefined) return facts;
	const { seconds, daySeconds, frameSeconds } = heard as HeardTimecode;
	return { ...facts, clockSeconds: seconds, clockDaySeconds: daySeconds, clockFrameSeconds: frameSeconds };
}

/** Sound of the shoot's files: what has been prepared is taken from there, anything else is decoded as it is needed. */
function storedSound(
	{ cache, pool }: Runtime,
	files: ReadonlyMap<string, { readonly path: string; readonly identity: string; readonly facts: MediaFacts }>,
	signal: AbortSignal
): SoundSource {
	const direct = fileSound(pool, signal);
	const inPlace = (file: JoinableFile): JoinableFile => ({ ...file, id: files.get(file.id)!.path });
	const isPrepared = (file: JoinableFile) => cache.has(files.get(file.id)!.identity, 'analysis.s16');
	return {
		isSeekable: (file) => direct.isSeekable(file),
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

/** What is placed already, by its place in the list. */
function fixedPlaces(clips: readonly Clip[]): ReadonlyMap<number, FixedPlace> {
	return new Map(
		clips.flatMap(({ placement }, index) =>
			placement
				? [
						[
							index,
							{
								lineUp: placement.lineUpId,
								startSeconds: flicksToSeconds(placement.startFlicks),
								ratePpm: placement.ratePpm
							}
						] as const
					]
				: []
		)
	);
}
