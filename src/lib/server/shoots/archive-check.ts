import { z } from 'zod';
import { beyondLimits } from '../../core/gather/beyond-limits';
import type { MediaFacts } from '../../core/gather/media-facts';
import { MAX_BEND_MOMENTS, MAX_CHANNELS, MAX_CLIP_SECONDS, MAX_LINE_UP_SECONDS } from '../../core/limits/recording';
import { isUsableBend } from '../../core/time/course';
import { secondsToFlicks } from '../../core/time/flicks';
import type { Queryable } from '../db/database';
import { TABLES } from '../db/tables';
import { ShootError } from './shoot-error';

/** Rows of an archive as they were read: nothing is known of them yet. */
export type UnknownRow = Readonly<Record<string, unknown>>;
export type UnknownTables = Readonly<Record<string, readonly UnknownRow[]>>;

/** What rows of the archived tables are made of, as the database itself tells. */
export interface TableShapes {
	readonly columns: ReadonlyMap<string, ReadonlyMap<string, Column>>;
	/** Parent table by "table.column". */
	readonly references: ReadonlyMap<string, string>;
}
interface Column {
	readonly type: string;
	readonly nullable: boolean;
}

const ARCHIVED: ReadonlySet<string> = new Set(TABLES.filter((table) => table.isArchived).map((table) => table.name));
/** Tables whose rows an edit may change. */
const EDITED: ReadonlySet<string> = new Set(
	TABLES.filter((table) => table.isArchived && table.decisions !== 'none').map((table) => table.name)
);
const HISTORY = ['edit', 'edit_change'];

export async function readTableShapes(database: Queryable): Promise<TableShapes> {
	const tables = [...ARCHIVED, ...HISTORY];
	const columns = await database.query<{
		table_name: string;
		column_name: string;
		data_type: string;
		is_nullable: string;
	}>(
		`select table_name, column_name, data_type, is_nullable from information_schema.columns
		 where table_schema = 'public' and table_name = any($1)`,
		[tables]
	);
	const references = await database.query<{ child: string; column: string; parent: string }>(
		`select child.relname as child, attname as column, parent.relname as parent from pg_constraint
		 join pg_class child on child.oid = conrelid join pg_class parent on parent.oid = confrelid
		 join pg_attribute on attrelid = conrelid and attnum = conkey[1] where contype = 'f' and child.relname = any($1)`,
		[tables]
	);
	const byTable = new Map(tables.map((table) => [table, new Map<string, Column>()]));
	for (const one of columns)
		byTable.get(one.table_name)!.set(one.column_name, { type: one.data_type, nullable: one.is_nullable === 'YES' });
	return {
		columns: byTable,
		references: new Map([
			...references.map((one) => [`${one.child}.${one.column}`, one.parent] as const),
			// No constraint says so: a device may go while it is the main camera.
			['shoot.main_camera_id', 'device'] as const
		])
	};
}

/**
 * Believes nothing of an archive before each of its rows was looked at: tables, columns, types, sizes, and that every identity
 * it names is one of its own. Its history is looked at likewise, as undo would put it into the same tables.
 * @throws ShootError with a sentence, at the first thing that is wrong
 */
export function checkArchive(tables: UnknownTables, shapes: TableShapes): void {
	for (const table of Object.keys(tables))
		if (!ARCHIVED.has(table) && !HISTORY.includes(table))
			refuse(`It has a table ${quoted(table)}, which no shoot has.`);
	const [shoot, ...others] = tables['shoot'] ?? [];
	if (!shoot || others.length > 0) refuse('It holds not one shoot.');
	const shootId = shoot['id'];
	const known = knownIdentities(tables);
	for (const table of ARCHIVED)
		for (const row of tables[table] ?? []) checkRow({ table, row, shapes, shootId, known: known.rows });
	const edits = new Set<unknown>();
	for (const row of tables['edit'] ?? []) {
		checkEdit(row, shootId);
		if (edits.has(row['id'])) refuse('Two changes of its history have one number.');
		edits.add(row['id']);
	}
	for (const row of tables['edit_change'] ?? []) checkChange(row, { edits, shapes, shootId, known: known.all });
}

type Identities = ReadonlyMap<string, ReadonlySet<unknown>>;

/** Identities by table: of rows that are there, and of those that ever were. @throws ShootError one is there twice */
function knownIdentities(tables: UnknownTables): { readonly rows: Identities; readonly all: Identities } {
	const rows = new Map<string, Set<unknown>>();
	const seen = new Set<unknown>();
	for (const table of ARCHIVED) {
		const ids = new Set<unknown>();
		for (const { id } of tables[table] ?? []) {
			if (seen.has(id)) refuse('Two of its rows have one identity.');
			seen.add(id);
			ids.add(id);
		}
		rows.set(table, ids);
	}
	const all = new Map([...rows].map(([table, ids]) => [table, new Set(ids)]));
	for (const { table_name: table, row_id: id } of tables['edit_change'] ?? []) all.get(String(table))?.add(id);
	return { rows, all };
}

interface RowToCheck {
	readonly table: string;
	readonly row: UnknownRow;
	readonly shapes: TableShapes;
	readonly shootId: unknown;
	readonly known: Identities;
}

function checkRow({ table, row, shapes, shootId, known }: RowToCheck): void {
	const columns = shapes.columns.get(table)!;
	for (const name of Object.keys(row))
		if (!columns.has(name)) refuse(`A row of ${table} has ${quoted(name)}, which none has.`);
	for (const [name, column] of columns) {
		const value = row[name];
		const where = `${table}.${name}`;
		if (value === null || value === undefined) {
			// Counts of changes are the database's own, and are not noted in the history.
			if (!column.nullable && name !== 'revision') refuse(`A row of ${table} lacks its ${quoted(name)}.`);
			continue;
		}
		checkValue(where, column.type, value);
		const parent = shapes.references.get(where);
		if (parent !== undefined && !known.get(parent)?.has(value))
			refuse(`A row of ${table} belongs to something that is not in the archive.`);
	}
	if ((table === 'shoot' ? row['id'] : row['shoot_id']) !== shootId)
		refuse(`A row of ${table} belongs to another shoot.`);
}

const EditRow = z.strictObject({
	id: z.number().int().min(0).max(Number.MAX_SAFE_INTEGER),
	shoot_id: z.unknown(),
	at: z.string().max(40).refine(isDate),
	label: z.string().max(1000).refine(isText),
	command: z.record(z.string(), z.unknown()),
	state: z.enum(['done', 'undone', 'dropped'])
});

function checkEdit(row: UnknownRow, shootId: unknown): void {
	if (!EditRow.safeParse(row).success || row['shoot_id'] !== shootId) refuse('A change of its history is not whole.');
}

const ChangeRow = z.strictObject({
	id: z.number().int().min(0).max(Number.MAX_SAFE_INTEGER),
	edit_id: z.number(),
	table_name: z.string(),
	row_id: z.uuid(),
	before: z.record(z.string(), z.unknown()).nullable(),
	after: z.record(z.string(), z.unknown()).nullable()
});

interface HistoryContext extends Omit<RowToCheck, 'table' | 'row'> {
	readonly edits: ReadonlySet<unknown>;
}

function checkChange(row: UnknownRow, { edits, ...context }: HistoryContext): void {
	const read = ChangeRow.safeParse(row);
	if (!read.success || !edits.has(read.data.edit_id)) refuse('A change of its history is not whole.');
	const { table_name: table, row_id: id, before, after } = read.data;
	if (!EDITED.has(table)) refuse(`Its history changes ${quoted(table)}, which no edit does.`);
	for (const side of [before, after]) {
		if (!side) continue;
		if (side['id'] !== id) refuse('A change of its history is of another row than it says.');
		checkRow({ ...context, table, row: side });
	}
}

const MAX_TEXT = 20_000;
const MAX_FLICKS = secondsToFlicks(MAX_LINE_UP_SECONDS);

function checkValue(where: string, type: string, value: unknown): void {
	if (!isOfType(where, type, value)) refuse(`It has a ${quoted(where)} that none can be.`);
}

function isOfType(where: string, type: string, value: unknown): boolean {
	switch (type) {
		case 'uuid':
			return z.uuid().safeParse(value).success;
		case 'text':
			return typeof value === 'string' && value.length <= MAX_TEXT && isText(value);
		case 'boolean':
			return typeof value === 'boolean';
		case 'integer':
			return Number.isInteger(value) && Math.abs(value as number) < 2 ** 31;
		case 'bigint':
			return Number.isSafeInteger(value) && (!where.endsWith('_flicks') || Math.abs(value as number) <= MAX_FLICKS);
		case 'double precision':
			return typeof value === 'number' && Number.isFinite(value);
		case 'date':
		case 'timestamp with time zone':
			return typeof value === 'string' && value.length <= 40 && isDate(value);
		case 'jsonb':
			return JSON_COLUMNS[where]?.safeParse(value).success ?? false;
		default:
			return false;
	}
}

/** What PostgreSQL takes for text: no NUL, no half of a surrogate pair. */
function isText(value: string): boolean {
	return !value.includes('\0') && value.isWellFormed();
}

function isDate(value: string): boolean {
	return !Number.isNaN(Date.parse(value));
}

const Text = z.string().max(MAX_TEXT).refine(isText);
const Rate = z.object({ num: z.number().positive(), den: z.number().positive() });
const Seconds = z.number().min(-MAX_CLIP_SECONDS).max(MAX_CLIP_SECONDS);

/** Facts are taken as they are, as long as what is computed with is a number that can be. */
const Facts = z
	.looseObject({
		container: Text,
		durationSeconds: z.number(),
		containerStartSeconds: z.number().optional(),
		clockSeconds: z.number().optional(),
		creationTime: Text.optional(),
		timecode: Text.optional(),
		audio: z
			.looseObject({
				codec: Text,
				sampleRate: z.number().int(),
				channels: z.number().int(),
				startSeconds: z.number(),
				channelNames: z.array(Text).max(MAX_CHANNELS),
				streamChannels: z.array(z.number().int().min(1).max(MAX_CHANNELS)).max(MAX_CHANNELS).optional(),
				channelFiles: z
					.array(z.object({ path: Text, channels: z.number().int().min(1).max(MAX_CHANNELS) }))
					.max(MAX_CHANNELS)
					.optional()
			})
			.optional(),
		video: z
			.looseObject({
				codec: Text,
				width: z.number().int(),
				height: z.number().int(),
				rate: Rate,
				startSeconds: z.number(),
				pixelShape: Rate.optional(),
				colour: z.record(z.string(), Text).optional()
			})
			.optional()
	})
	.refine((facts) => beyondLimits(facts as unknown as MediaFacts) === undefined);

const PairNote = z.object({
	a: z.uuid(),
	b: z.uuid(),
	lagSeconds: z.number(),
	overlapSeconds: z.number(),
	residualSeconds: z.number(),
	windows: z.number(),
	agreeing: z.number(),
	strength: z.number(),
	offSeconds: z.number().optional(),
	isInverted: z.boolean().optional()
});

const Bend = z
	.array(z.object({ ownFlicks: z.number().int(), laterFlicks: z.number().int() }))
	.min(1)
	.max(MAX_BEND_MOMENTS)
	.refine(isUsableBend);

/** What JSON columns hold. One that is not here cannot be in an archive. */
const JSON_COLUMNS: Readonly<Record<string, z.ZodType>> = {
	'shoot.rate': Rate,
	'device.reasons': z.array(Text).max(1000),
	'device.channel_names': z.record(z.string().regex(/^\d{1,2}$/), Text),
	'media_file.facts': Facts,
	'media_file.own_facts': Facts,
	'media_file.sharp_sounds': z.array(z.number().int().min(-MAX_FLICKS).max(MAX_FLICKS)).max(1_000_000),
	'media_file.heard_timecode': z.union([
		z.object({
			channel: z.number().int().min(0).max(63),
			quality: z.number(),
			seconds: Seconds,
			daySeconds: z.number().positive(),
			frameSeconds: z.number().positive()
		}),
		z.strictObject({})
	]),
	'placement.bend': Bend.nullable(),
	'line_up.evidence': z.array(PairNote).max(1_000_000),
	'line_up.clocks': z.array(z.object({ deviceId: z.uuid(), words: Text })).max(1000),
	'pair_moments.moments': z.array(z.number()).max(10_000_000)
};

function quoted(name: string): string {
	return `“${name.slice(0, 60)}”`;
}

function refuse(what: string): never {
	throw new ShootError(
		'not-an-archive',
		`This archive is damaged, or not from Open Choir. ${what} Nothing was imported.`
	);
}
