import { basename } from 'node:path';
import { comparePaths } from '../../../core/gather/compare-paths';
import { findChannelFiles, type Take } from '../../../core/gather/channel-files';
import { deviceFolderOf } from '../../../core/gather/device-folder';
import type { MediaFacts } from '../../../core/gather/media-facts';
import { type SortableFile, sortIntoDevices } from '../../../core/gather/sort-devices';
import { joinSpanned, type Recording } from '../../../core/gather/spanned';
import { badgesFor, type Device } from '../../../core/shoot/device';
import { secondsToFlicks } from '../../../core/time/flicks';
import type { Queryable } from '../../db/database';
import { addPart } from '../../shoots/clip-rows';

interface FileRow {
	readonly id: string;
	readonly path: string;
	readonly relative_path: string;
	readonly facts: MediaFacts;
	/** Of the clip it is in, if it is in one. */
	readonly device_id: string | null;
}

interface ReadFile extends SortableFile {
	readonly fullPath: string;
}

/**
 * Sorts files that are in no clip yet: channels of one take are put together, every file gets its device, and split
 * recordings are joined. What was sorted before, or by hand, stays.
 */
export async function arrangeFiles(transaction: Queryable, shootId: string): Promise<void> {
	const files = await putTakesTogether(transaction, await readFiles(transaction, shootId));
	const devices = await putDevices(transaction, shootId, files);
	await putClips(transaction, shootId, devices);
}

async function readFiles(transaction: Queryable, shootId: string): Promise<readonly ReadFile[]> {
	const rows = await transaction.query<FileRow>(
		`select id, path, relative_path, facts,
			(select device_id from clip join clip_part on clip_id = clip.id where file_id = media_file.id limit 1) as device_id
		 from media_file where shoot_id = $1 and state = 'probed' and channel_of is null and facts is not null`,
		[shootId]
	);
	return rows.map((row) => ({
		id: row.id,
		path: row.relative_path,
		fullPath: row.path,
		facts: row.facts,
		...(row.device_id === null ? {} : { device: row.device_id })
	}));
}

/** The first file of a take stands for all its channels; the others follow it. */
async function putTakesTogether(transaction: Queryable, files: readonly ReadFile[]): Promise<readonly ReadFile[]> {
	const takes = findChannelFiles(files.filter((file) => file.device === undefined));
	const facts = new Map(takes.map((take) => [take.files[0]!.id, factsOfTake(take)]));
	for (const {
		files: [first, ...others]
	} of takes) {
		await transaction.query('update media_file set own_facts = facts, facts = $2 where id = $1', [
			first!.id,
			facts.get(first!.id)
		]);
		await transaction.query('update media_file set channel_of = $2 where id = any($1)', [
			others.map((file) => file.id),
			first!.id
		]);
	}
	const followers = new Set(takes.flatMap((take) => take.files.slice(1).map((file) => file.id)));
	return files
		.filter((file) => !followers.has(file.id))
		.map((file) => ({ ...file, facts: facts.get(file.id) ?? file.facts }));
}

function factsOfTake({ files, channelNames }: Take<ReadFile>): MediaFacts {
	const { facts } = files[0]!;
	return {
		...facts,
		durationSeconds: Math.min(...files.map((file) => file.facts.durationSeconds)),
		audio: {
			...facts.audio!,
			channels: channelNames.length,
			channelNames,
			channelFiles: files.map((file) => ({ path: file.fullPath, channels: file.facts.audio!.channels }))
		}
	};
}

interface FilesOfDevice {
	readonly deviceId: string;
	readonly files: readonly ReadFile[];
}

/** Makes the devices that are not there yet. @returns files that are in no clip, by device */
async function putDevices(
	transaction: Queryable,
	shootId: string,
	files: readonly ReadFile[]
): Promise<readonly FilesOfDevice[]> {
	const known = await transaction.query<{ id: string; kind: Device['kind']; badge: string }>(
		'select id, kind, badge from device where shoot_id = $1 order by position',
		[shootId]
	);
	const byId = new Map(files.map((file) => [file.id, file]));
	const sorted = sortIntoDevices(files).map((device) => ({
		...device,
		files: device.fileIds.map((id) => byId.get(id)!)
	}));
	const fresh = sorted.filter((one) => one.device === undefined);
	const badges = freeBadges(known, fresh);
	const order = [...badges].sort((a, b) => a.length - b.length || a.localeCompare(b));
	const out: FilesOfDevice[] = [];
	for (const one of sorted) {
		const added = one.files.filter((file) => file.device === undefined);
		if (one.device !== undefined) {
			out.push({ deviceId: one.device, files: added });
			continue;
		}
		const index = fresh.indexOf(one);
		// Cameras first, recorders after them: pictures above sound.
		const position = (one.kind === 'camera' ? 0 : 1000) + known.length + order.indexOf(badges[index]!);
		const [row] = await transaction.query<{ id: string }>(
			'insert into device (shoot_id, folder, name, badge, kind, position, reasons) values ($1, $2, $3, $4, $5, $6, $7) returning id',
			[
				shootId,
				deviceFolderOf(one.files[0]!.path),
				one.name,
				badges[index],
				one.kind,
				position,
				JSON.stringify(one.reasons)
			]
		);
		out.push({ deviceId: row!.id, files: added });
	}
	return out;
}

/** A letter that stands in a camera's name is its badge, as "Camera B"; the others follow in the order of first come. */
function freeBadges(
	known: readonly { readonly kind: Device['kind']; readonly badge: string }[],
	fresh: readonly { readonly kind: Device['kind']; readonly name: string }[]
): readonly string[] {
	const taken = new Set(known.map((device) => device.badge));
	const take = (badge: string | undefined) => {
		if (badge === undefined || taken.has(badge)) return undefined;
		taken.add(badge);
		return badge;
	};
	const own = fresh.map(({ kind, name }) => take(kind === 'camera' ? / ([A-Z])$/.exec(name)?.[1] : undefined));
	return fresh.map(({ kind }, index) => {
		if (own[index]) return own[index];
		return badgesFor(Array.from({ length: taken.size + 1 }, () => kind)).find((badge) => take(badge))!;
	});
}

async function putClips(transaction: Queryable, shootId: string, devices: readonly FilesOfDevice[]): Promise<void> {
	const recordings = joinSpanned(
		devices.flatMap(({ deviceId, files }) =>
			files.map((file) => ({ id: file.id, device: deviceId, path: file.path, facts: file.facts }))
		)
	);
	// In the order of their names, whatever device they are of.
	const sorted = [...recordings].sort((a, b) => comparePaths(a.parts[0]!.file.path, b.parts[0]!.file.path));
	const [{ next } = { next: 0 }] = await transaction.query<{ next: number }>(
		'select coalesce(max(position) + 1, 0)::int as next from clip where shoot_id = $1',
		[shootId]
	);
	for (const [index, recording] of sorted.entries())
		await putClip(transaction, shootId, recording.device, recording, next + index);
}

/** Makes a clip of a recording. @returns its identity */
export async function putClip(
	transaction: Queryable,
	shootId: string,
	deviceId: string,
	{ parts }: Recording,
	position: number
): Promise<string> {
	const { facts, path } = parts[0]!.file;
	const last = parts.at(-1)!;
	const [clip] = await transaction.query<{ id: string }>(
		'insert into clip (shoot_id, device_id, name, duration_flicks, position, scene, take, circled, note) values ($1, $2, $3, $4, $5, $6, $7, $8, $9) returning id',
		[
			shootId,
			deviceId,
			clipName(path, facts),
			secondsToFlicks(last.offsetSeconds + last.file.facts.durationSeconds),
			position,
			facts.scene ?? '',
			facts.take ?? '',
			facts.circled ?? false,
			facts.note ?? ''
		]
	);
	for (const [position, part] of parts.entries())
		await addPart(transaction, clip!.id, {
			fileId: part.file.id,
			position,
			offsetFlicks: secondsToFlicks(part.offsetSeconds)
		});
	return clip!.id;
}

/** A file's name without its ending; of a take in several files, what they share. */
function clipName(path: string, { audio }: MediaFacts): string {
	const bare = (one: string) => basename(one).replace(/\.[^.]+$/, '');
	const name = bare(path);
	const others = audio?.channelFiles?.map((file) => bare(file.path)) ?? [];
	let length = name.length;
	while (length > 1 && others.some((other) => !other.startsWith(name.slice(0, length)))) length--;
	return (
		name
			.slice(0, others.length > 1 ? length : name.length)
			.replace(/[\s_.-]+(?:tr|ch)?[\s_.-]*$/i, '')
			.slice(0, 200) || name.slice(0, 200)
	);
}
