import { TOO_FAR } from '../../contract/fields';
import { MAX_LINE_UP_SECONDS } from '../../core/limits/recording';
import type { ShootRows } from '../../core/shoot/rows';
import { courseOf, type Placement } from '../../core/shoot/placement';
import { courseFrom } from '../../core/time/course';
import { secondsToFlicks } from '../../core/time/flicks';
import type { Queryable } from '../db/database';
import { ShootError } from './shoot-error';

/** A clip with the notes of another, of the same device, without files yet. @returns its identity */
export async function copyClip(
	transaction: Queryable,
	clipId: string,
	name: string,
	durationFlicks: number
): Promise<string> {
	const [row] = await transaction.query<{ id: string }>(
		`insert into clip (shoot_id, device_id, name, duration_flicks, position, scene, shot, take, circled, note)
		 select shoot_id, device_id, $2, $3, position, scene, shot, take, circled, note from clip where id = $1 returning id`,
		[clipId, name.slice(0, 200), durationFlicks]
	);
	return row!.id;
}

export async function addPart(
	transaction: Queryable,
	clipId: string,
	part: { readonly fileId: string; readonly position: number; readonly offsetFlicks: number }
): Promise<void> {
	await transaction.query(
		`insert into clip_part (shoot_id, clip_id, file_id, position, offset_flicks)
		 select shoot_id, $1, $2, $3, $4 from clip where id = $1`,
		[clipId, part.fileId, part.position, part.offsetFlicks]
	);
}

/** @throws ShootError no line-up is that long */
export function assertOnLineUp(startFlicks: number): void {
	if (!(Math.abs(startFlicks) <= secondsToFlicks(MAX_LINE_UP_SECONDS)))
		throw new ShootError('outside-line-up', TOO_FAR);
}

/** Lays a clip where another one lies. @param from where the other one's placement is to go on, if not at its beginning */
export async function copyPlacement(
	transaction: Queryable,
	fromClipId: string,
	toClipId: string,
	from?: { readonly placement: Placement; readonly mediaFlicks: number }
): Promise<void> {
	const startFlicks = from && Math.round(courseFrom(courseOf(from.placement), from.mediaFlicks).startFlicks);
	if (startFlicks !== undefined) assertOnLineUp(startFlicks);
	await transaction.query(
		`insert into placement (shoot_id, clip_id, line_up_id, start_flicks, rate_ppm, bend, method, confidence, residual_seconds, by_hand)
		 select shoot_id, $2, line_up_id, coalesce($3, start_flicks), rate_ppm,
			(select jsonb_agg(one || jsonb_build_object('ownFlicks', (one->>'ownFlicks')::int8 - $4) order by ordinality)
			 from jsonb_array_elements(bend) with ordinality as moments (one, ordinality)),
			method, confidence, residual_seconds, by_hand
		 from placement where clip_id = $1`,
		[fromClipId, toClipId, startFlicks ?? null, Math.round(from?.mediaFlicks ?? 0)]
	);
}

export type NewPlacement = Omit<ShootRows['placement'], 'id' | 'isLocked'>;

/** Gives clips places, all in one statement; what they were strays for, and where they lay before, is forgotten. */
export async function placeClips(
	transaction: Queryable,
	shootId: string,
	placements: readonly NewPlacement[]
): Promise<void> {
	for (const { startFlicks } of placements) assertOnLineUp(startFlicks);
	const ids = placements.map((one) => one.clipId);
	await transaction.query('delete from stray where clip_id = any($1)', [ids]);
	await transaction.query('delete from placement where clip_id = any($1)', [ids]);
	await transaction.query(
		`insert into placement (shoot_id, clip_id, line_up_id, start_flicks, rate_ppm, bend, method, confidence, residual_seconds, by_hand)
		 select $1, "clipId", "lineUpId", "startFlicks", "ratePpm", bend, method, confidence, "residualSeconds", "byHand"
		 from jsonb_to_recordset($2) as new ("clipId" uuid, "lineUpId" uuid, "startFlicks" bigint, "ratePpm" float8, bend jsonb,
			method text, confidence float8, "residualSeconds" float8, "byHand" boolean)`,
		[shootId, JSON.stringify(placements)]
	);
}

/** Line-ups on which nothing lies any more are none. */
export async function dropEmptyLineUps(transaction: Queryable, shootId: string): Promise<void> {
	await transaction.query(
		'delete from line_up where shoot_id = $1 and not exists (select from placement where line_up_id = line_up.id)',
		[shootId]
	);
}
