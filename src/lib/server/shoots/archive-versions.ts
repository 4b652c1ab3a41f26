type Row = Record<string, unknown>;
interface VersionedArchive {
	readonly version: 1 | 2 | 3 | 4 | 5 | 6 | 7;
	readonly tables: Record<string, Row[]>;
}

/** Brings an archive of an older version to the newest form, as the migrations do with the database. */
export function upgradeArchive<Archive extends VersionedArchive>(archive: Archive): Archive {
	const second = archive.version === 1 ? toSecond(archive) : archive;
	const third = second.version === 2 ? toThird(second) : second;
	const fourth = third.version === 3 ? toFourth(third) : third;
	const fifth = fourth.version === 4 ? toFifth(fourth) : fourth;
	// Up to version 5 nobody had a name: what is left out is empty.
	const sixth: Archive = fifth.version === 5 ? { ...fifth, version: 6 } : fifth;
	return sixth.version === 6 ? toSeventh(sixth) : sixth;
}

/** Clips of version 1 knew no shots, and noted something that nothing asks for. */
function toSecond<Archive extends VersionedArchive>(archive: Archive): Archive {
	const tables = mapRows(archive.tables, 'clip', ({ is_apart: _, ...row }) => ({ shot: '', ...row }));
	return { ...archive, version: 2, tables };
}

const ADDED_WITHOUT_A_NUMBER: Readonly<Record<string, Row>> = {
	media_file: { proxy_seconds: 0 },
	placement: { locked: false },
	clip: { in_flicks: null, out_flicks: null },
	device: { air_metres: 0, corrects_drift: true },
	sync_point: { sense: 'heard' }
};

/** Version 2 knew one master for all line-ups, and parts did not tell of which shoot they were. */
function toThird<Archive extends VersionedArchive>(archive: Archive): Archive {
	const shootId = archive.tables['shoot']?.[0]?.['id'];
	const lineUps = [...(archive.tables['line_up'] ?? [])].sort((a, b) => Number(a['position']) - Number(b['position']));
	const lineUpId = lineUps[0]?.['id'] ?? lastLineUp(archive.tables['edit_change'] ?? []);
	let tables = mapRows(archive.tables, 'clip_part', (row) => ({ shoot_id: shootId, ...row }));
	tables = mapRows(tables, 'device', ({ people, ...row }) => ({ channel_names: people ?? {}, ...row }));
	tables = mapRows(tables, 'master_channel', (row) => ({ line_up_id: lineUpId, ...row }));
	const master = lineUps.flatMap(({ id }, index) =>
		(tables['master_channel'] ?? []).map((row) => ({
			...row,
			line_up_id: id,
			id: index === 0 ? row['id'] : crypto.randomUUID()
		}))
	);
	// What migration 005 had added, though the archive's number stayed the same.
	for (const [table, defaults] of Object.entries(ADDED_WITHOUT_A_NUMBER))
		tables = mapRows(tables, table, (row) => ({ ...defaults, ...row }));
	tables = { ...tables, shoot: (tables['shoot'] ?? []).map((row) => ({ air_celsius: 20, ...row })) };
	const isOfLineUp = (row: Row) => row['table_name'] !== 'master_channel' || lineUpId !== undefined;
	return {
		...archive,
		version: 3,
		tables: { ...tables, master_channel: master, edit_change: (tables['edit_change'] ?? []).filter(isOfLineUp) }
	};
}

/** Version 3 knew no clocks that bend. */
function toFourth<Archive extends VersionedArchive>(archive: Archive): Archive {
	return { ...archive, version: 4, tables: mapRows(archive.tables, 'placement', (row) => ({ bend: null, ...row })) };
}

/** Up to version 4 a file knew how much of its small picture was made. */
function toFifth<Archive extends VersionedArchive>(archive: Archive): Archive {
	const tables = mapRows(
		archive.tables,
		'media_file',
		({ proxy_ready: _ready, proxy_seconds: _seconds, ...row }) => row
	);
	return { ...archive, version: 5, tables };
}

/** Up to version 6 a channel of the master had a level and a side. */
function toSeventh<Archive extends VersionedArchive>(archive: Archive): Archive {
	const more = { turn: 0, is_inverted: false, low_cut_hz: 0, shift_flicks: 0 };
	const tables = mapRows(archive.tables, 'master_channel', (row) => ({ ...more, ...row }));
	return { ...archive, version: 7, tables };
}

function lastLineUp(changes: readonly Row[]): unknown {
	return changes
		.filter((row) => row['table_name'] === 'line_up')
		.sort((a, b) => Number(b['id']) - Number(a['id']))[0]?.['row_id'];
}

/** Changes the rows of a table, and what the history says of such rows. */
function mapRows(tables: Record<string, Row[]>, table: string, change: (row: Row) => Row): Record<string, Row[]> {
	const changed = (row: unknown) => (row !== null && typeof row === 'object' ? change(row as Row) : row);
	return {
		...tables,
		[table]: (tables[table] ?? []).map(change),
		edit_change: (tables['edit_change'] ?? []).map((row) =>
			row['table_name'] === table ? { ...row, before: changed(row['before']), after: changed(row['after']) } : row
		)
	};
}
