import { link, mkdir, stat, unlink } from 'node:fs/promises';
import { join } from 'node:path';
import { HAND_OFFS, type HandOffKind } from '../../../contract/hand-offs';
import type { Shoot } from '../../../core/shoot/shoot';
import { digestOf } from '../../media/file-digest';
import type { Runtime } from '../../runtime';
import { ShootError } from '../../shoots/shoot-error';

const STAMP = new Intl.DateTimeFormat('sv-SE', { dateStyle: 'short', timeStyle: 'medium' });

/** Moves a finished file among the hand-offs and notes it. @returns its identity */
export async function putInPlace(
	runtime: Runtime,
	shoot: Shoot,
	lineUpId: string,
	made: string,
	kind: HandOffKind
): Promise<string> {
	const folder = join(runtime.settings.dataFolder, 'hand-offs', shoot.id);
	await mkdir(folder, { recursive: true });
	const id = crypto.randomUUID();
	const { size } = await stat(made);
	const sha256 = await digestOf(made);
	const name = await moveToFreeName(made, folder, nameOf(shoot, lineUpId), HAND_OFFS[kind].extension);
	const path = join(folder, name);
	await runtime.shoots.change(shoot.id, (transaction) =>
		transaction.query(
			'insert into hand_off (id, shoot_id, line_up_id, kind, name, path, size_bytes, sha256) values ($1, $2, $3, $4, $5, $6, $7, $8)',
			[id, shoot.id, lineUpId, kind, name, path, size, sha256]
		)
	);
	return id;
}

/** Two of one second are told apart by a number, even where both look at the same moment: a link never replaces a file. */
async function moveToFreeName(made: string, folder: string, base: string, extension: string): Promise<string> {
	for (let count = 1; ; count++) {
		const name = `${base}${count === 1 ? '' : ` (${count})`}.${extension}`;
		try {
			await link(made, join(folder, name));
			await unlink(made);
			return name;
		} catch (error) {
			if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
		}
	}
}

function nameOf(shoot: Shoot, lineUpId: string): string {
	// By the clock of the place: whoever looks for it knows when it was made there.
	const stamp = STAMP.format(new Date()).replace(/[: ]/g, '-');
	const number = shoot.lineUps.findIndex((one) => one.id === lineUpId) + 1;
	const lineUp = shoot.lineUps.length > 1 ? ` line-up ${number}` : '';
	return `${safeName(shoot.name)}${lineUp} ${stamp}`;
}

function safeName(name: string): string {
	return (
		name
			.replace(/[^\p{L}\p{N} _-]+/gu, '')
			.trim()
			.slice(0, 80) || 'program'
	);
}

/** Where a hand-off lies. @throws ShootError there is none of that identity */
export async function handOffFile(
	runtime: Runtime,
	id: string
): Promise<{ readonly path: string; readonly name: string; readonly mediaType: string }> {
	const [row] = await runtime.database.query<{ path: string; name: string; kind: string }>(
		'select path, name, kind from hand_off where id = $1',
		[id]
	);
	if (!row) throw new ShootError('no-such-hand-off', 'There is no such hand-off.');
	const known = HAND_OFFS[row.kind as HandOffKind] as (typeof HAND_OFFS)[HandOffKind] | undefined;
	return { path: row.path, name: row.name, mediaType: known?.mediaType ?? 'application/octet-stream' };
}
