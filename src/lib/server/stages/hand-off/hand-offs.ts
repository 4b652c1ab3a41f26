import { mkdir, rename, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Shoot } from '../../../core/shoot/shoot';
import { digestOf } from '../../media/file-digest';
import type { Runtime } from '../../runtime';
import { ShootError } from '../../shoots/shoot-error';

/** Moves a finished file among the hand-offs and notes it. */
export async function putInPlace(
	runtime: Runtime,
	shoot: Shoot,
	made: string,
	kind: 'movie' | 'otio',
	ending: string
): Promise<string> {
	const folder = join(runtime.settings.dataFolder, 'hand-offs', shoot.id);
	await mkdir(folder, { recursive: true });
	const stamp = new Date().toISOString().slice(0, 19).replace(/[:T]/g, '-');
	const name = `${safeName(shoot.name)} ${stamp}.${ending}`;
	const path = join(folder, name);
	const { size } = await stat(made);
	const sha256 = await digestOf(made);
	await rename(made, path);
	const [row] = await runtime.database.query<{ id: string }>(
		'insert into hand_off (shoot_id, kind, name, path, size_bytes, sha256) values ($1, $2, $3, $4, $5, $6) returning id',
		[shoot.id, kind, name, path, size, sha256]
	);
	runtime.queue.events.emit('event', { type: 'shoot', shootId: shoot.id });
	return row!.id;
}

function safeName(name: string): string {
	return (
		name
			.replace(/[^\p{L}\p{N} _-]+/gu, '')
			.trim()
			.slice(0, 80) || 'program'
	);
}

export interface HandOff {
	readonly id: string;
	readonly kind: 'movie' | 'otio';
	readonly name: string;
	readonly sizeBytes: number;
	readonly sha256: string;
	readonly madeAt: string;
}

export async function listHandOffs(runtime: Runtime, shootId: string): Promise<readonly HandOff[]> {
	return runtime.database.query<HandOff & Record<string, unknown>>(
		`select id, kind, name, size_bytes as "sizeBytes", sha256, to_char(made_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as "madeAt" from hand_off where shoot_id = $1 order by made_at desc`,
		[shootId]
	);
}

/** Where a hand-off lies. @throws ShootError there is none of that identity */
export async function handOffFile(
	runtime: Runtime,
	id: string
): Promise<{ readonly path: string; readonly name: string; readonly kind: 'movie' | 'otio' }> {
	const [row] = await runtime.database.query<{ path: string; name: string; kind: 'movie' | 'otio' }>(
		'select path, name, kind from hand_off where id = $1',
		[id]
	);
	if (!row) throw new ShootError('not-found', 'There is no such hand-off.');
	return row;
}
