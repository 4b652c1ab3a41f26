import type { Placed } from '../../../core/solve/alignment';
import type { Clip } from '../../../core/shoot/clip';
import { flicksToSeconds, secondsToFlicks } from '../../../core/time/flicks';
import type { Queryable } from '../../db/database';
import { addPart, copyClip } from '../../shoots/clip-rows';

/** A clip to be placed, and where. Starts are of its own media time 0, in seconds. */
export interface ClipStretch {
	readonly clipId: string;
	readonly startSeconds: number;
	/** Where it begins in the clip that it was taken from. */
	readonly fromSeconds: number;
}

/**
 * Takes a clip apart where samples were lost in it: each stretch becomes a clip of its own, of the same files.
 * @returns the stretches in order; the clip itself where nothing was lost
 */
export async function splitAtLosses(
	transaction: Queryable,
	shootId: string,
	clip: Clip,
	placed: Placed
): Promise<readonly ClipStretch[]> {
	if (placed.parts.length < 2) return [{ clipId: clip.id, startSeconds: placed.startSeconds, fromSeconds: 0 }];
	const factor = 1 + placed.ratePpm * 1e-6;
	const stretches: ClipStretch[] = [];
	for (const [index, part] of placed.parts.entries()) {
		const fromFlicks = secondsToFlicks(part.fromSeconds);
		const next = placed.parts[index + 1];
		const toFlicks = next ? secondsToFlicks(next.fromSeconds) : clip.durationFlicks;
		const clipId =
			index === 0
				? await shorten(transaction, clip, toFlicks)
				: await continuation(transaction, shootId, clip, `${clip.name} (${index + 1})`, fromFlicks, toFlicks);
		stretches.push({
			clipId,
			startSeconds: part.startSeconds + flicksToSeconds(fromFlicks) * factor,
			fromSeconds: part.fromSeconds
		});
	}
	return stretches;
}

async function shorten(transaction: Queryable, clip: Clip, toFlicks: number): Promise<string> {
	await transaction.query('update clip set duration_flicks = $2 where id = $1', [clip.id, toFlicks]);
	await transaction.query('delete from clip_part where clip_id = $1 and offset_flicks >= $2', [clip.id, toFlicks]);
	return clip.id;
}

async function continuation(
	transaction: Queryable,
	shootId: string,
	clip: Clip,
	name: string,
	fromFlicks: number,
	toFlicks: number
): Promise<string> {
	const copyId = await copyClip(transaction, clip.id, name, toFlicks - fromFlicks);
	const own = clip.parts.filter(
		(part) => part.offsetFlicks < toFlicks && part.offsetFlicks + part.durationFlicks > fromFlicks
	);
	for (const [position, { fileId, offsetFlicks }] of own.entries())
		await addPart(transaction, copyId, { fileId, position, offsetFlicks: offsetFlicks - fromFlicks });
	await transaction.query(
		'update sync_point set clip_id = $2, media_flicks = media_flicks - $3 where shoot_id = $4 and clip_id = $1 and media_flicks >= $3 and media_flicks < $5',
		[clip.id, copyId, fromFlicks, shootId, toFlicks]
	);
	return copyId;
}
