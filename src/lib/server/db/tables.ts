import type { Queryable } from './database';

/**
 * Every table that holds something of a shoot, each after those it refers to. From its entry follow the trigger that notes
 * what changes, what undo puts back and in which order, what goes into an archive, and what pages are told.
 */
export interface TableEntry {
	readonly name: string;
	/** Which of its columns are an editor's decisions: they are noted, and can be undone. */
	readonly decisions: 'all' | 'none' | readonly string[];
	/** Whether it goes into an archive of the shoot. */
	readonly isArchived: boolean;
	/** What pages see of a row, as a list of SQL columns; nothing for tables that are asked for otherwise. */
	readonly seen?: string;
}

export const TABLES = [
	{
		name: 'shoot',
		decisions: ['name', 'main_camera_id', 'rate', 'width', 'height', 'air_celsius'],
		isArchived: true,
		seen: 'id, name, folder, main_camera_id as "mainCameraId", rate, width, height, air_celsius as "airCelsius"'
	},
	{ name: 'source', decisions: 'none', isArchived: true, seen: 'id, path, kind, position' },
	{
		name: 'device',
		decisions: 'all',
		isArchived: true,
		seen: 'id, folder, name, badge, kind, reasons, position, channel_names as "channelNames", air_metres as "airMetres", corrects_drift as "correctsDrift"'
	},
	{
		name: 'media_file',
		decisions: ['own_facts', 'channel_of'],
		isArchived: true,
		seen: 'id, path, relative_path, size_bytes, identity, state, channel_of, reason, facts, listening_samples, sharp_sounds, heard_timecode'
	},
	{
		name: 'clip',
		decisions: 'all',
		isArchived: true,
		seen: 'id, device_id as "deviceId", name, duration_flicks as "durationFlicks", position, scene, shot, take, circled, note, in_flicks as "inFlicks", out_flicks as "outFlicks"'
	},
	{
		name: 'clip_part',
		decisions: 'all',
		isArchived: true,
		seen: 'id, clip_id as "clipId", file_id as "fileId", position, offset_flicks as "offsetFlicks"'
	},
	{
		name: 'line_up',
		decisions: 'all',
		isArchived: true,
		seen: 'id, reference_device_id as "referenceDeviceId", position, evidence, clocks'
	},
	{
		name: 'placement',
		decisions: 'all',
		isArchived: true,
		seen: 'id, clip_id as "clipId", line_up_id as "lineUpId", start_flicks as "startFlicks", rate_ppm as "ratePpm", bend, method, confidence, residual_seconds as "residualSeconds", by_hand as "byHand", locked as "isLocked"'
	},
	{ name: 'stray', decisions: 'all', isArchived: true, seen: 'id, clip_id as "clipId", reason, detail' },
	{
		name: 'sync_point',
		decisions: 'all',
		isArchived: true,
		seen: 'id, clip_id as "clipId", name, media_flicks as "mediaFlicks", sense'
	},
	{
		name: 'marker',
		decisions: 'all',
		isArchived: true,
		seen: 'id, line_up_id as "lineUpId", at_flicks as "atFlicks", name'
	},
	{ name: 'pair_moments', decisions: 'all', isArchived: true },
	{
		name: 'signature',
		decisions: 'all',
		isArchived: true,
		seen: `id, line_up_id as "lineUpId", signed_by as "signedBy", to_char(signed_on, 'YYYY-MM-DD') as "signedOn", remark, digest, to_char(signed_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"') as "signedAt"`
	},
	{
		name: 'master_channel',
		decisions: 'all',
		isArchived: true,
		seen: 'id, line_up_id as "lineUpId", turn, device_id as "deviceId", channel, gain_db as "gainDb", pan, is_inverted as "isInverted", low_cut_hz as "lowCutHz", shift_flicks as "shiftFlicks"'
	},
	{
		name: 'mix',
		decisions: 'all',
		isArchived: true,
		seen: 'id, line_up_id as "lineUpId", opens_by_speech as "opensBySpeech", closed_db as "closedDb", covers_gaps as "coversGaps"'
	},
	{ name: 'person', decisions: 'all', isArchived: true, seen: 'id, name, mark, position' },
	{
		name: 'person_channel',
		decisions: 'all',
		isArchived: true,
		seen: 'id, person_id as "personId", device_id as "deviceId", channel, position'
	},
	{
		name: 'speech_correction',
		decisions: 'all',
		isArchived: true,
		seen: 'id, line_up_id as "lineUpId", person_id as "personId", in_flicks as "inFlicks", out_flicks as "outFlicks", speaks, position'
	},
	{ name: 'judgement', decisions: 'none', isArchived: false },
	{
		name: 'program',
		decisions: 'all',
		isArchived: true,
		seen: 'id, line_up_id as "lineUpId", in_flicks as "inFlicks", out_flicks as "outFlicks"'
	},
	{
		name: 'program_call',
		decisions: 'all',
		isArchived: true,
		seen: 'id, line_up_id as "lineUpId", at_flicks as "atFlicks", device_id as "deviceId"'
	},
	{
		name: 'hand_off',
		decisions: 'none',
		isArchived: false,
		seen: `id, kind, line_up_id as "lineUpId", name, size_bytes as "sizeBytes", sha256, to_char(made_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as "madeAt"`
	}
] as const satisfies readonly TableEntry[];

export type TableName = (typeof TABLES)[number]['name'];

const BY_NAME: ReadonlyMap<string, TableEntry> = new Map(TABLES.map((table) => [table.name, table]));

/** @throws Error no table of a shoot is called so */
export function tableEntry(name: string): TableEntry {
	const entry = BY_NAME.get(name);
	if (!entry) throw new Error(`${name} is no table of a shoot.`);
	return entry;
}

/** How a shoot's rows of a table are found. @param parameter that is the shoot */
export function rowsOfShoot({ name }: TableEntry, parameter = '$1'): string {
	return name === 'shoot' ? `id = ${parameter}` : `shoot_id = ${parameter}`;
}

/**
 * Gives every table the trigger that its entry asks for. Done at each start: an entry that is new or other needs nothing
 * else.
 */
export async function installTriggers(database: Queryable): Promise<void> {
	for (const { name, decisions } of TABLES) {
		const columns = typeof decisions === 'string' ? [decisions] : decisions;
		await database.query(
			`create or replace trigger note_change after insert or update or delete on ${name} for each row
			 execute function note_change(${columns.map((column) => `'${column}'`).join(', ')})`
		);
	}
}
