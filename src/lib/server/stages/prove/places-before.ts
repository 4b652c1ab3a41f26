import type { LastChange, PlaceBefore } from '../../../core/proof/last-change';
import type { Queryable } from '../../db/database';

/** Where clips lay before the last change that moved any of them; nothing where none was moved. */
export async function placesBefore(database: Queryable, shootId: string): Promise<LastChange | null> {
	const [edit] = await database.query<{ id: number; label: string }>(
		`select id::int, label from edit where shoot_id = $1 and state = 'done' and exists (
			select from edit_change where edit_id = edit.id and table_name = 'placement' and before is not null
		 ) order by id desc limit 1`,
		[shootId]
	);
	if (!edit) return null;
	const places = await database.query<PlaceBefore & Record<string, unknown>>(
		`select distinct on (before->>'clip_id') before->>'clip_id' as "clipId",
			(before->>'start_flicks')::int8 as "startFlicks", (before->>'rate_ppm')::float8 as "ratePpm"
		 from edit_change where edit_id = $1 and table_name = 'placement' and before is not null
		 order by before->>'clip_id', id`,
		[edit.id]
	);
	return { label: edit.label, places };
}
