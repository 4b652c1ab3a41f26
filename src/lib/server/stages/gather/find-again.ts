import pMap from 'p-map';
import { basename } from 'node:path';
import type { Queryable } from '../../db/database';
import { identify } from '../../media/media-cache';
import { scanFolder } from '../../media/scan-folder';
import type { Runtime } from '../../runtime';
import type { MediaFacts } from '../../../core/gather/media-facts';
import type { FoundAgain } from '../../../contract/views';
import { ShootError } from '../../shoots/shoot-error';

interface MissingFile {
	readonly id: string;
	readonly relative_path: string;
	readonly size_bytes: number;
	readonly digest: string | null;
}

/**
 * Looks for a shoot's missing files below a folder, by size and digest whatever they are called now, and links them
 * again; nothing that was decided is lost. The folder becomes one of the shoot's.
 * @returns how many were found and how many are still missing
 * @throws AccessError the folder is not an allowed one; ShootError nothing is missing, or nothing was found
 */
export async function findAgain(runtime: Runtime, shootId: string, folder: string): Promise<FoundAgain> {
	const { database } = runtime;
	const real = await runtime.folders.resolve(folder);
	const missing = await database.query<MissingFile>(
		`select id, relative_path, size_bytes, digest from media_file where shoot_id = $1 and state = 'missing'`,
		[shootId]
	);
	if (missing.length === 0) throw new ShootError('none-missing', 'No file of this shoot is missing.');
	const used = new Set(
		(
			await database.query<{ path: string }>(`select path from media_file where shoot_id = $1 and state <> 'missing'`, [
				shootId
			])
		).map((row) => row.path)
	);
	const there = (await scanFolder(real, (link) => runtime.folders.resolve(link))).filter(
		(file) => file.reason === undefined && !used.has(file.path)
	);
	const digests = await pMap(there, (file) => identify(file.path).catch(() => undefined), { concurrency: 8 });
	const links: { id: string; path: string; relativePath: string; identity: string; modifiedMs: number }[] = [];
	const taken = new Set<string>();
	for (const file of missing) {
		const alike = there
			.map((one, index) => ({ ...one, own: digests[index] }))
			.filter(({ own, path }) => own && own.digest === file.digest && !taken.has(path));
		const best = alike.find((one) => basename(one.path) === basename(file.relative_path)) ?? alike[0];
		if (!best?.own) continue;
		taken.add(best.path);
		const { identity, modifiedMs } = best.own;
		links.push({ id: file.id, path: best.path, relativePath: best.relativePath, identity, modifiedMs });
	}
	if (links.length === 0)
		throw new ShootError(
			'none-found',
			`None of the ${missing.length} missing files is in ${real}: no file there has their size and content.`
		);
	await runtime.shoots.change(shootId, async (transaction) => {
		const [{ id: sourceId }] = (await transaction.query<{ id: string }>(
			`insert into source (shoot_id, path, position) values ($1, $2, (select count(*)::int from source where shoot_id = $1))
			 on conflict (shoot_id, path) do update set path = excluded.path returning id`,
			[shootId, real]
		)) as [{ id: string }];
		await transaction.query(
			`update media_file set path = new.path, source_id = $2, modified_ms = new."modifiedMs",
				state = case when facts is null then 'waiting' else 'probed' end, reason = null,
				listening_samples = case when media_file.identity = new.identity then listening_samples end,
				identity = new.identity
			 from jsonb_to_recordset($1) as new (id uuid, path text, "relativePath" text, identity text, "modifiedMs" bigint)
			 where media_file.id = new.id`,
			[JSON.stringify(links), sourceId]
		);
		await relinkChannels(transaction, shootId);
	});
	await runtime.queue.add(shootId, 'prepare', {});
	return { found: links.length, missing: missing.length - links.length };
}

/** A take's first file names the others by their paths. */
async function relinkChannels(transaction: Queryable, shootId: string): Promise<void> {
	const firsts = await transaction.query<{ id: string; path: string; facts: MediaFacts }>(
		`select id, path, facts from media_file where shoot_id = $1 and facts->'audio'->'channelFiles' is not null`,
		[shootId]
	);
	for (const { id, path, facts } of firsts) {
		const others = await transaction.query<{ path: string }>('select path from media_file where channel_of = $1', [id]);
		const channelFiles = facts.audio!.channelFiles!.map((file, index) => {
			const name = basename(file.path);
			return index === 0
				? { ...file, path }
				: { ...file, path: others.find((one) => basename(one.path) === name)?.path ?? file.path };
		});
		await transaction.query('update media_file set facts = $2 where id = $1', [
			id,
			JSON.stringify({ ...facts, audio: { ...facts.audio, channelFiles } })
		]);
	}
}
