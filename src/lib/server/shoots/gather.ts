import { basename } from 'node:path';
import type { MediaFacts } from '../../core/devices/media-facts';
import { joinSpanned } from '../../core/devices/spanned';
import { badgesFor, type Device } from '../../core/shoot/shoot';
import { secondsToFlicks } from '../../core/time/flicks';
import { inParallel } from '../../core/tasks/in-parallel';
import type { Queryable } from '../db/database';
import type { JobContext } from '../jobs/job-queue';
import { identify } from '../media/media-cache';
import { MediaError } from '../media/media-error';
import { probeFile } from '../media/probe';
import { type FoundFile, scanFolder } from '../media/scan-folder';
import type { Runtime } from '../runtime';

/** Makes a shoot of a folder and begins to read it. @throws AccessError the folder is not an allowed one */
export async function createShoot(runtime: Runtime, name: string, folder: string, isDemo = false): Promise<string> {
	const real = await runtime.folders.resolve(folder);
	const [row] = await runtime.database.query<{ id: string }>(
		'insert into shoot (name, folder, is_demo) values ($1, $2, $3) returning id',
		[name, real, isDemo]
	);
	await runtime.queue.add(row!.id, 'gather', 'Reading the files');
	return row!.id;
}

/** Probes at once: ffprobe waits for the disk more than it computes. */
const PROBES_AT_ONCE = 4;

/** Job: finds and reads all files of the shoot's folder, and sorts what is new into devices and clips. */
export async function gather(runtime: Runtime, context: JobContext): Promise<void> {
	const { database } = runtime;
	const [shoot] = await database.query<{ folder: string }>('select folder from shoot where id = $1', [context.shootId]);
	const folder = await runtime.folders.resolve(shoot!.folder);
	const found = await scanFolder(folder);
	await noteFiles(runtime, context.shootId, found);
	const waiting = await database.query<{ id: string; path: string }>(
		`select id, path from media_file where shoot_id = $1 and state = 'waiting' order by relative_path`,
		[context.shootId]
	);
	let done = 0;
	await inParallel(waiting, PROBES_AT_ONCE, async (file) => {
		context.signal.throwIfAborted();
		await readOne(runtime, file.id, file.path, context.signal);
		done++;
		context.progress(done / waiting.length, `${done} of ${waiting.length} files`);
	});
	await database.transaction((transaction) => arrange(transaction, context.shootId));
	await runtime.queue.add(context.shootId, 'prepare', 'Preparing sound and pictures');
}

async function noteFiles(runtime: Runtime, shootId: string, found: readonly FoundFile[]): Promise<void> {
	const { database } = runtime;
	const identities = await inParallel(found, PROBES_AT_ONCE, (file) => identify(file.path).catch(() => undefined));
	await database.transaction(async (transaction) => {
		for (const [index, file] of found.entries()) {
			const identity = identities[index];
			// A file that has changed is read anew; one that has not keeps what is known of it.
			await transaction.query(
				`insert into media_file (shoot_id, path, relative_path, device_folder, size_bytes, modified_ms, identity)
				 values ($1, $2, $3, $4, $5, $6, $7)
				 on conflict (shoot_id, path) do update set
				   state = case when media_file.identity is distinct from excluded.identity or media_file.state = 'bad' then 'waiting' else media_file.state end,
				   identity = excluded.identity, size_bytes = excluded.size_bytes, modified_ms = excluded.modified_ms`,
				[
					shootId,
					file.path,
					file.relativePath,
					file.device,
					identity?.sizeBytes ?? 0,
					identity?.modifiedMs ?? 0,
					identity?.identity ?? null
				]
			);
		}
		await transaction.query(
			`update media_file set state = 'bad', reason = 'The file is gone.' where shoot_id = $1 and not (path = any($2))`,
			[shootId, found.map((file) => file.path)]
		);
	});
}

async function readOne(runtime: Runtime, fileId: string, path: string, signal: AbortSignal): Promise<void> {
	try {
		const facts = await probeFile(path, signal);
		await runtime.database.query(`update media_file set state = 'probed', facts = $2, reason = null where id = $1`, [
			fileId,
			facts
		]);
	} catch (error) {
		if (!(error instanceof MediaError) || error.kind === 'tool-missing') throw error;
		await runtime.database.query(`update media_file set state = 'bad', reason = $2, facts = null where id = $1`, [
			fileId,
			error.message
		]);
	}
}

interface ArrangedFile {
	id: string;
	relative_path: string;
	device_folder: string;
	facts: MediaFacts;
}

/** Sorts files that are in no clip yet: a folder is a device, split recordings are joined. */
async function arrange(transaction: Queryable, shootId: string): Promise<void> {
	const files = await transaction.query<ArrangedFile>(
		`select id, relative_path, device_folder, facts from media_file
		 where shoot_id = $1 and state = 'probed' and not exists (select from clip_part where file_id = media_file.id)`,
		[shootId]
	);
	const recordings = joinSpanned(
		files.map((file) => ({ id: file.id, device: file.device_folder, path: file.relative_path, facts: file.facts }))
	);
	const kinds = new Map<string, Device['kind']>();
	for (const { device, parts } of recordings) {
		if (parts.some((part) => part.file.facts.video)) kinds.set(device, 'camera');
		else if (!kinds.has(device)) kinds.set(device, 'recorder');
	}
	await addDevices(transaction, shootId, kinds);
	const devices = new Map(
		(
			await transaction.query<{ id: string; folder: string }>('select id, folder from device where shoot_id = $1', [
				shootId
			])
		).map((row) => [row.folder, row.id])
	);
	const [{ next } = { next: 0 }] = await transaction.query<{ next: number }>(
		'select coalesce(max(position) + 1, 0)::int as next from clip where shoot_id = $1',
		[shootId]
	);
	for (const [index, { device, parts }] of recordings.entries()) {
		const last = parts.at(-1)!;
		const name = basename(parts[0]!.file.path).replace(/\.[^.]+$/, '');
		const [clip] = await transaction.query<{ id: string }>(
			'insert into clip (shoot_id, device_id, name, duration_flicks, position) values ($1, $2, $3, $4, $5) returning id',
			[
				shootId,
				devices.get(device),
				name,
				secondsToFlicks(last.offsetSeconds + last.file.facts.durationSeconds),
				next + index
			]
		);
		for (const [position, part] of parts.entries()) {
			await transaction.query(
				'insert into clip_part (clip_id, file_id, position, offset_flicks) values ($1, $2, $3, $4)',
				[clip!.id, part.file.id, position, secondsToFlicks(part.offsetSeconds)]
			);
		}
	}
	await transaction.query('update shoot set revision = revision + 1 where id = $1', [shootId]);
}

async function addDevices(
	transaction: Queryable,
	shootId: string,
	kinds: ReadonlyMap<string, Device['kind']>
): Promise<void> {
	const known = await transaction.query<{ folder: string; kind: Device['kind']; badge: string }>(
		'select folder, kind, badge from device where shoot_id = $1 order by position',
		[shootId]
	);
	const fresh = [...kinds].filter(([folder]) => !known.some((device) => device.folder === folder));
	// Badges in the order of first come; those that were changed by hand stay taken.
	const badges = badgesFor([...known.map((device) => device.kind), ...fresh.map(([, kind]) => kind)]).slice(
		known.length
	);
	const taken = new Set(known.map((device) => device.badge));
	// Cameras first, recorders after them: pictures above sound.
	for (const [index, [folder, kind]] of fresh.entries()) {
		let badge = badges[index]!;
		while (taken.has(badge)) badge = kind === 'camera' ? nextLetter(badge) : `${Number(badge) + 1}`;
		taken.add(badge);
		const position = (kind === 'camera' ? 0 : 1000) + known.length + index;
		await transaction.query(
			'insert into device (shoot_id, folder, name, badge, kind, position) values ($1, $2, $3, $4, $5, $6)',
			[shootId, folder, deviceName(folder), badge, kind, position]
		);
	}
}

function nextLetter(badge: string): string {
	return badge < 'Z' ? String.fromCharCode(badge.charCodeAt(0) + 1) : `${badge}A`;
}

/** "camera-a" is written "Camera A"; the editor gives the real name. */
function deviceName(folder: string): string {
	const words = (folder.replace(/[-_]+/g, ' ').trim() || folder).replace(/(?<= )\p{L}$/u, (letter) =>
		letter.toUpperCase()
	);
	return (words.charAt(0).toUpperCase() + words.slice(1)).slice(0, 100);
}
