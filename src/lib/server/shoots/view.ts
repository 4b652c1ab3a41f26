import { basename } from 'node:path';
import type { RowsByTable, Snapshot, Steps } from '../../contract/changes';
import type { ShootSummary } from '../../contract/views';
import { beyondLimits } from '../../core/gather/beyond-limits';
import type { MediaFacts } from '../../core/gather/media-facts';
import { assembleShoot, type AssembledShoot } from '../../core/shoot/assemble';
import type { ClipPart, HeardTimecode } from '../../core/shoot/clip';
import { type FileTime, type ShootRows, storeRows } from '../../core/shoot/rows';
import type { Shoot } from '../../core/shoot/shoot';
import { shownSize } from '../../core/gather/picture-facts';
import { secondsToFlicks } from '../../core/time/flicks';
import { rateInWords } from '../../core/time/rational';
import type { Queryable } from '../db/database';
import { rowsOfShoot, type TableEntry, tableEntry, TABLES } from '../db/tables';
import { reckonedSamples } from '../media/listening/listening-format';
import { soundKeyOf } from '../media/sound-inputs';
import { ShootError } from './shoot-error';
import { KEPT_DAYS } from './kept-days';

export async function listShoots(database: Queryable): Promise<readonly ShootSummary[]> {
	return database.query<ShootSummary & Record<string, unknown>>(
		`select id, name, folder, is_demo as "isDemo", (select count(*)::int from clip where clip.shoot_id = shoot.id) as clips,
			to_char(deleted_at + make_interval(days => $1), 'YYYY-MM-DD') as "endsAt"
		 from shoot order by created_at`,
		[KEPT_DAYS]
	);
}

/** @throws ShootError there is none of that identity, or it is deleted */
export async function revisionOf(database: Queryable, shootId: string): Promise<number> {
	const [row] = await database.query<{ revision: number }>(
		'select revision from shoot where id = $1 and deleted_at is null',
		[shootId]
	);
	if (!row) throw new ShootError('no-such-shoot', 'There is no such shoot.');
	return row.revision;
}

/** All rows of a shoot, as pages see them. @throws ShootError there is none of that identity */
export async function readSnapshot(database: Queryable, shootId: string): Promise<Snapshot> {
	const revision = await revisionOf(database, shootId);
	const rows: Record<string, unknown> = {};
	for (const table of TABLES)
		if ('seen' in table) rows[table.name] = await readRows(database, table, rowsOfShoot(table), [shootId]);
	return { revision, rows: rows as RowsByTable, ...(await readSteps(database, shootId)) };
}

/** Rows by their identities. */
export async function readRowsById(
	database: Queryable,
	table: string,
	ids: readonly string[]
): Promise<readonly { readonly id: string }[]> {
	return readRows(database, tableEntry(table), 'id = any($1)', [ids]);
}

async function readRows(
	database: Queryable,
	{ name, seen }: TableEntry,
	condition: string,
	values: readonly unknown[]
): Promise<readonly { readonly id: string }[]> {
	// As one text: thousands of rows, taken apart and sent between threads one by one, take three times as long.
	const [all] = await database.query<{ rows: string }>(
		`select coalesce(json_agg(row), '[]')::text as rows from (select ${seen} from ${name} where ${condition}) as row`,
		values
	);
	const rows = JSON.parse(all!.rows) as readonly { readonly id: string }[];
	return name === 'media_file' ? rows.map((row) => fileRow(row as unknown as StoredFileRow)) : rows;
}

/** What undo and redo would do. */
export async function readSteps(database: Queryable, shootId: string): Promise<Steps> {
	const [steps] = await database.query<Steps & Record<string, unknown>>(
		`select (select label from edit where shoot_id = $1 and state = 'done' order by id desc limit 1) as undo,
			(select label from edit where shoot_id = $1 and state = 'undone' order by id limit 1) as redo`,
		[shootId]
	);
	return steps!;
}

/** The shoot as it stands in the database now, put together anew. @throws ShootError there is none of that identity */
export async function loadShoot(database: Queryable, shootId: string): Promise<Shoot> {
	return assembled(await readSnapshot(database, shootId)).shoot;
}

export function assembled({ rows, ...steps }: Snapshot): AssembledShoot {
	return assembleShoot(storeRows(rows), steps);
}

interface StoredFileRow {
	readonly id: string;
	readonly path: string;
	readonly relative_path: string;
	readonly size_bytes: number;
	readonly identity: string | null;
	readonly state: ShootRows['media_file']['state'];
	readonly channel_of: string | null;
	readonly reason: string | null;
	readonly facts: MediaFacts | null;
	readonly listening_samples: number | null;
	readonly sharp_sounds: readonly number[];
	readonly heard_timecode: HeardTimecode | Record<string, never> | null;
}

/** A file as pages see it: what it says of itself, in the terms of a clip. */
function fileRow(row: StoredFileRow): ShootRows['media_file'] {
	const heard = row.heard_timecode;
	const beyond = row.facts ? beyondLimits(row.facts) : undefined;
	// An older version believed it.
	if (beyond !== undefined) return fileRow({ ...row, facts: null, state: 'bad', reason: beyond });
	return {
		id: row.id,
		relativePath: row.relative_path,
		sizeBytes: row.size_bytes,
		state: row.state,
		reason: row.reason,
		isChannel: row.channel_of !== null,
		part: row.facts && filePart(row, row.facts),
		time: row.facts ? timeOf(row.facts) : {},
		channelNames: row.facts?.audio?.channelNames ?? [],
		sharpSounds: row.sharp_sounds,
		heardTimecode: heard && 'channel' in heard ? (heard as HeardTimecode) : null
	};
}

function filePart(file: StoredFileRow, facts: MediaFacts): Omit<ClipPart, 'offsetFlicks'> {
	const { audio, video } = facts;
	return {
		fileId: file.id,
		identity: soundKeyOf(file.identity ?? '', facts),
		path: file.path,
		relativePath: file.relative_path,
		sizeBytes: file.size_bytes,
		...(file.state === 'missing' ? { isMissing: true } : {}),
		durationFlicks: secondsToFlicks(facts.durationSeconds),
		container: facts.container,
		...(facts.clockSeconds === undefined ? {} : { clockSeconds: facts.clockSeconds }),
		...(audio
			? {
					sound: {
						codec: audio.codec,
						sampleRate: audio.sampleRate,
						channels: audio.channels,
						streams: audio.streams ?? 1,
						...(audio.isDeep ? { isDeep: true } : {}),
						...(audio.channelFiles ? { channelFiles: audio.channelFiles.map((one) => basename(one.path)) } : {}),
						startFlicks: secondsToFlicks(audio.startSeconds),
						samples: file.listening_samples ?? reckonedSamples(facts),
						...(file.listening_samples === null ? {} : { listeningSamples: file.listening_samples })
					}
				}
			: {}),
		...(video
			? {
					picture: {
						codec: video.codec,
						rate: video.rate,
						width: video.width,
						height: video.height,
						shown: shownSize(video),
						...(video.rotation ? { rotation: video.rotation } : {}),
						...(video.interlaced ? { interlaced: video.interlaced } : {}),
						...(video.colour ? { colour: video.colour } : {}),
						startFlicks: secondsToFlicks(video.startSeconds),
						ownStartSeconds: facts.containerStartSeconds + video.startSeconds,
						isVariableRate: facts.isVariableRate ?? false
					}
				}
			: {})
	};
}

function timeOf({ timecode, timecodeRate, dropFrame, clockSeconds, creationTime, ...facts }: MediaFacts): FileTime {
	const maker = [facts.make, facts.model, facts.serial && `number ${facts.serial}`].filter(Boolean).join(' ');
	return {
		...(timecode ? { timecode } : {}),
		...(timecodeRate ? { timecodeWords: `${rateInWords(timecodeRate)}${dropFrame ? ' drop-frame' : ''}` } : {}),
		...(clockSeconds === undefined ? {} : { clockSeconds }),
		...(creationTime && /^\d{4}-\d\d-\d\d/.test(creationTime)
			? { date: creationTime.slice(0, 10), recordedAt: creationTime }
			: {}),
		...(maker ? { maker } : {})
	};
}
