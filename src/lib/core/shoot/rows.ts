import type { Rational } from '../time/rational';
import type { StrayReason } from '../solve/system/line-ups';
import type { ClipPart, HeardTimecode, NewFile, SyncPoint } from './clip';
import type { MasterChannel, Mix } from './decisions';
import type { Device } from './device';
import type { HandOff } from './hand-off';
import type { Bend } from '../time/course';
import type { Marker, PairNote, ShootLineUp, Signature } from './line-up';
import type { SpeechCorrection } from './person';
import type { PlacementMethod } from './placement';

/**
 * The rows that a shoot is made of, as the server sends them and the page keeps them: all of them once, then only those
 * that have changed. Every row has an identity of its own.
 */
export interface ShootRows {
	readonly shoot: {
		readonly id: string;
		readonly name: string;
		readonly folder: string;
		readonly mainCameraId: string | null;
		readonly rate: Rational | null;
		readonly width: number | null;
		readonly height: number | null;
		readonly airCelsius: number;
	};
	readonly source: {
		readonly id: string;
		readonly path: string;
		readonly kind: 'folder' | 'upload';
		readonly position: number;
	};
	readonly device: Pick<
		Device,
		'id' | 'folder' | 'name' | 'badge' | 'kind' | 'reasons' | 'airMetres' | 'correctsDrift'
	> & {
		readonly position: number;
		/** Names given by hand to channels, by their numbers from 0. */
		readonly channelNames: Readonly<Record<string, string>>;
	};
	readonly media_file: {
		readonly id: string;
		readonly relativePath: string;
		readonly sizeBytes: number;
		readonly state: 'waiting' | 'probed' | 'bad' | 'missing';
		readonly reason: string | null;
		/** It holds a channel of another file's take. */
		readonly isChannel: boolean;
		/** What it tells, once it is read. */
		readonly part: Omit<ClipPart, 'offsetFlicks'> | null;
		readonly time: FileTime;
		readonly channelNames: readonly string[];
		readonly sharpSounds: readonly number[];
		readonly heardTimecode: HeardTimecode | null;
	};
	readonly clip: {
		readonly id: string;
		readonly deviceId: string;
		readonly name: string;
		readonly durationFlicks: number;
		readonly position: number;
		readonly scene: string;
		readonly shot: string;
		readonly take: string;
		readonly circled: boolean;
		readonly note: string;
		readonly inFlicks: number | null;
		readonly outFlicks: number | null;
	};
	readonly clip_part: {
		readonly id: string;
		readonly clipId: string;
		readonly fileId: string;
		readonly position: number;
		readonly offsetFlicks: number;
	};
	readonly line_up: Pick<ShootLineUp, 'id' | 'referenceDeviceId' | 'clocks'> & {
		readonly position: number;
		readonly evidence: readonly PairNote[];
	};
	readonly placement: {
		readonly id: string;
		readonly clipId: string;
		readonly lineUpId: string;
		readonly startFlicks: number;
		readonly ratePpm: number;
		readonly bend?: Bend | null;
		readonly method: PlacementMethod;
		readonly confidence: number;
		readonly residualSeconds: number;
		readonly byHand: boolean;
		readonly isLocked: boolean;
	};
	readonly stray: {
		readonly id: string;
		readonly clipId: string;
		readonly reason: StrayReason;
		readonly detail: string;
	};
	readonly sync_point: SyncPoint;
	readonly marker: Marker;
	readonly signature: Signature & { readonly signedAt: string };
	readonly master_channel: MasterChannel & { readonly id: string; readonly lineUpId: string; readonly turn: number };
	readonly mix: Mix & { readonly id: string; readonly lineUpId: string };
	readonly person: { readonly id: string; readonly name: string; readonly mark: number; readonly position: number };
	readonly person_channel: {
		readonly id: string;
		readonly personId: string;
		readonly deviceId: string;
		readonly channel: number;
		readonly position: number;
	};
	readonly speech_correction: SpeechCorrection & {
		readonly id: string;
		readonly lineUpId: string;
		readonly position: number;
	};
	readonly program: {
		readonly id: string;
		readonly lineUpId: string;
		readonly inFlicks: number;
		readonly outFlicks: number;
	};
	readonly program_call: {
		readonly id: string;
		readonly lineUpId: string;
		readonly atFlicks: number;
		readonly deviceId: string;
	};
	readonly hand_off: HandOff;
}

export type RowTable = keyof ShootRows;

/** What a file tells of when and by what it was recorded. */
export type FileTime = Pick<NewFile, 'timecode' | 'clockSeconds'> & {
	readonly timecodeWords?: string;
	readonly date?: string;
	readonly recordedAt?: string;
	readonly maker?: string;
};

/** All rows of a shoot, by table and identity. A table that has changed is another map; rows that have not are the same. */
export type RowStore = { readonly [Table in RowTable]: ReadonlyMap<string, ShootRows[Table]> };

export const ROW_TABLES = [
	'shoot',
	'source',
	'device',
	'media_file',
	'clip',
	'clip_part',
	'line_up',
	'placement',
	'stray',
	'sync_point',
	'marker',
	'signature',
	'master_channel',
	'mix',
	'person',
	'person_channel',
	'speech_correction',
	'program',
	'program_call',
	'hand_off'
] as const satisfies readonly RowTable[];

type Rows = { readonly [Table in RowTable]?: readonly ShootRows[Table][] };
type Gone = Readonly<Partial<Record<RowTable, readonly string[]>>>;

/** A store of all the rows of a shoot. */
export function storeRows(rows: Rows): RowStore {
	const rowsOf = (table: RowTable): readonly { readonly id: string }[] => rows[table] ?? [];
	return Object.fromEntries(ROW_TABLES.map((table) => [table, byId(rowsOf(table))])) as unknown as RowStore;
}

/** The store after a change: rows that are new or other, and rows that are gone. */
export function changeRows(store: RowStore, rows: Rows, gone: Gone): RowStore {
	const changed: Partial<Record<RowTable, ReadonlyMap<string, unknown>>> = {};
	for (const table of ROW_TABLES) {
		const news: readonly { readonly id: string }[] = rows[table] ?? [];
		const lost = gone[table] ?? [];
		if (news.length === 0 && lost.length === 0) continue;
		const map = new Map<string, unknown>(store[table]);
		for (const id of lost) map.delete(id);
		for (const row of news) map.set(row.id, row);
		changed[table] = map;
	}
	return { ...store, ...changed } as RowStore;
}

function byId<Row extends { readonly id: string }>(rows: readonly Row[]): ReadonlyMap<string, Row> {
	return new Map(rows.map((row) => [row.id, row]));
}
