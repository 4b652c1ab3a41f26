import type { Clip } from '../../../core/shoot/clip';
import type { Recording } from '../../../core/gather/spanned';
import type { FixedPlace } from '../../../core/solve/clip';
import { flicksToSeconds } from '../../../core/time/flicks';
import type { JobContext } from '../../jobs/job-queue';
import type { Runtime } from '../../runtime';
import { alignRecordings } from './align-recordings';
import { recordEdit } from '../../edits/log';
import { storeAlignment } from './store-alignment';
import { storedFiles, storedSound } from './stored-sound';

/** Job: lines up all clips, or only those that have no place yet. What was set by hand stays; the result is one edit. */
export async function lineUp(runtime: Runtime, context: JobContext<'line-up'>): Promise<Record<string, unknown>> {
	const { database, pool, shoots } = runtime;
	const { shoot } = await shoots.current(context.shootId);
	const files = await storedFiles(database, context.shootId);
	// A clip with a missing file cannot be heard; it keeps its place, if it has one.
	const clips = shoot.clips.filter(({ parts }) => parts.length > 0 && parts.every((part) => files.has(part.fileId)));
	const { onlyNew = false, by = 'best', reference } = context.input;
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
		by,
		...(reference === undefined ? {} : { reference }),
		...(onlyNew ? { fixed: fixedPlaces(clips) } : {}),
		onProgress: ({ share, what }) => context.progress(share, what === '' ? 'Comparing' : `Listening to ${what}`)
	});
	context.signal.throwIfAborted();
	await recordEdit(shoots, context.shootId, { kind: 'line-up' }, (transaction) =>
		storeAlignment(transaction, context.shootId, clips, aligned, onlyNew)
	);
	// Small pictures are made ready of what has a place.
	await runtime.queue.add(context.shootId, 'prepare', {});
	await runtime.queue.add(context.shootId, 'measure', {});
	const placed = aligned.alignment.lineUps.reduce((sum, one) => sum + one.placed.length, 0);
	return {
		placed,
		strays: aligned.alignment.strays.length,
		decodeSeconds: aligned.decodeSeconds,
		alignSeconds: aligned.alignSeconds
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
