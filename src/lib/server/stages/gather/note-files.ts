import pMap from 'p-map';
import { basename } from 'node:path';
import { AccessError } from '../../access/allowed-folders';
import type { Queryable } from '../../db/database';
import { identify, type FileIdentity } from '../../media/media-cache';
import { scanFolder } from '../../media/scan-folder';
import type { Runtime } from '../../runtime';

/** Digests at once: reading two blocks waits for the disk. */
const DIGESTS_AT_ONCE = 8;
const GONE = 'The file is gone from its place. Find it again at another one.';

interface Source {
	readonly id: string;
	readonly path: string;
	readonly kind: 'folder' | 'upload';
}

/** What files that were dropped into the page are shown under, beside other folders: their own is called by the shoot's identity. */
const DROPPED_IN = 'dropped in';

interface NotedFile extends Partial<FileIdentity> {
	readonly path: string;
	readonly relativePath: string;
	readonly sourceId: string;
	/** Why it cannot be reached. */
	readonly reason?: string;
}

/**
 * Looks through a shoot's folders: new files are listed as waiting, changed ones are to be read anew, and those that are
 * no longer there are marked as missing; what is known of them stays.
 */
export async function noteFiles(runtime: Runtime, shootId: string): Promise<void> {
	const { database } = runtime;
	const sources = await database.query<Source>(
		'select id, path, kind from source where shoot_id = $1 order by position, path',
		[shootId]
	);
	const found: NotedFile[] = [];
	for (const [index, source] of sources.entries()) found.push(...(await filesOf(runtime, source, index > 0)));
	const identities = await pMap(
		found,
		(file) => (file.reason === undefined ? identify(file.path).catch(() => undefined) : Promise.resolve(undefined)),
		{ concurrency: DIGESTS_AT_ONCE }
	);
	const read = found.map((file, index): NotedFile => ({ ...file, ...identities[index] }));
	// A folder within another of the shoot's folders is looked through twice.
	const files = [...new Map(read.map((file) => [file.path, file])).values()];
	await runtime.shoots.change(shootId, async (transaction) => {
		await putFiles(transaction, shootId, files);
		const paths = files.map((file) => file.path);
		// What was never used is not missed.
		await transaction.query(
			`delete from media_file where shoot_id = $1 and not (path = any($2)) and channel_of is null
				and not exists (select from clip_part where file_id = media_file.id)`,
			[shootId, paths]
		);
		await transaction.query(
			`update media_file set state = 'missing', reason = $3 where shoot_id = $1 and not (path = any($2))`,
			[shootId, paths, GONE]
		);
	});
}

/** Files below a source; nothing when the folder is away: its files are then missing. */
async function filesOf(
	runtime: Runtime,
	{ id, path, kind }: Source,
	isFurther: boolean
): Promise<readonly NotedFile[]> {
	try {
		const folder = await runtime.folders.resolve(path);
		const shown = kind === 'upload' ? DROPPED_IN : basename(folder);
		return (await scanFolder(folder, (link) => runtime.folders.resolve(link))).map((file) => ({
			path: file.path,
			...(file.reason === undefined ? {} : { reason: file.reason }),
			relativePath: isFurther ? `${shown}/${file.relativePath}` : file.relativePath,
			sourceId: id
		}));
	} catch (error) {
		if (error instanceof AccessError && error.kind === 'missing') return [];
		throw error;
	}
}

/** A file that has changed is read anew; one that has not keeps what is known of it. */
async function putFiles(transaction: Queryable, shootId: string, files: readonly NotedFile[]): Promise<void> {
	await transaction.query(
		`insert into media_file (shoot_id, path, relative_path, source_id, size_bytes, modified_ms, identity, digest, state, reason)
		 select $1, path, "relativePath", "sourceId", coalesce("sizeBytes", 0), coalesce("modifiedMs", 0), identity, digest,
			case when reason is null then 'waiting' else 'bad' end, reason
		 from jsonb_to_recordset($2) as file (path text, "relativePath" text, "sourceId" uuid, "sizeBytes" bigint, "modifiedMs" bigint, identity text, digest text, reason text)
		 on conflict (shoot_id, path) do update set
			state = case
				when excluded.state = 'bad' then 'bad'
				when media_file.identity is distinct from excluded.identity or media_file.state = 'bad' then 'waiting'
				-- Read by a version that took the first of several sound streams for all: only the file itself tells.
				when media_file.state = 'probed' and media_file.channel_of is null and media_file.own_facts is null
					and media_file.facts ? 'audio' and not media_file.facts -> 'audio' ? 'streams' then 'waiting'
				when media_file.state = 'missing' then case when media_file.facts is null then 'waiting' else 'probed' end
				else media_file.state
			end,
			reason = case when excluded.state = 'bad' then excluded.reason when media_file.state = 'missing' then null else media_file.reason end,
			listening_samples = case when media_file.identity is distinct from excluded.identity then null else media_file.listening_samples end,
					identity = excluded.identity, digest = excluded.digest, size_bytes = excluded.size_bytes, modified_ms = excluded.modified_ms, source_id = excluded.source_id`,
		[shootId, JSON.stringify(files)]
	);
}
