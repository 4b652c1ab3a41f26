/** Columns of a sound report that mean something here. */
export const REPORT_FIELDS = ['file', 'scene', 'shot', 'take', 'circled', 'note', 'channel'] as const;
export type ReportField = (typeof REPORT_FIELDS)[number];

/** What each column of a table means; nothing where it is passed over. */
export type ReportMapping = readonly (ReportField | undefined)[];

/** A line of a sound report, as far as it says anything. */
export interface ReportLine {
	readonly file: string;
	readonly scene?: string;
	readonly shot?: string;
	readonly take?: string;
	readonly circled?: boolean;
	readonly note?: string;
	/** Names of channels, from the first. */
	readonly channels: readonly string[];
}

const HEADINGS: readonly (readonly [ReportField, RegExp])[] = [
	['file', /^(file|file ?name|name|clip|clip ?name|datei|fichier|wav)$/i],
	['scene', /^(scene|sc|szene|scène|slate)$/i],
	['shot', /^(shot|setup|einstellung|plan)$/i],
	['take', /^(take|tk|t|klappe|prise)$/i],
	['circled', /^(circled|circle|circled take|good|print|ok)$/i],
	['note', /^(note|notes|comment|comments|remark|remarks|wild|bemerkung|remarque)$/i],
	['channel', /^(?:(?:ch|chan|channel|tr|trk|track|iso|mic|input|kanal|piste)[\s_.#-]*\d+.*|\d{1,2})$/i]
];

/** Finds the line that names the columns: reports begin with the day and the crew. @returns its number, and what its columns mean */
export function findHeadings(rows: readonly (readonly string[])[]): {
	readonly row: number;
	readonly mapping: ReportMapping;
} {
	let best: { row: number; mapping: ReportMapping } = { row: 0, mapping: [] };
	let most = 0;
	for (const [row, cells] of rows.slice(0, 40).entries()) {
		const mapping = mappingOf(cells);
		const known = new Set(mapping.filter(Boolean)).size;
		if (known > most) [best, most] = [{ row, mapping }, known];
	}
	return best;
}

function mappingOf(cells: readonly string[]): ReportMapping {
	const used = new Set<ReportField>();
	return cells.map((cell) => {
		const field = HEADINGS.find(
			([one, words]) => words.test(cell.trim()) && (one === 'channel' || !used.has(one))
		)?.[0];
		if (field) used.add(field);
		return field;
	});
}

const NO = /^(|0|n|no|false|-|nein|non)$/i;

/** Reads a report's lines by what its columns mean. Lines without a file's name are passed over. */
export function readReport(rows: readonly (readonly string[])[], mapping: ReportMapping): readonly ReportLine[] {
	return rows.flatMap((cells): ReportLine[] => {
		const of = (field: ReportField) => {
			const column = mapping.indexOf(field);
			return column < 0 ? undefined : (cells[column] ?? '').trim();
		};
		const file = of('file');
		if (!file) return [];
		const [scene, shot, take, circled, note] = [of('scene'), of('shot'), of('take'), of('circled'), of('note')];
		const channels = mapping.flatMap((field, column) => (field === 'channel' ? [(cells[column] ?? '').trim()] : []));
		return [
			{
				file,
				...(scene ? { scene } : {}),
				...(shot ? { shot } : {}),
				...(take ? { take } : {}),
				...(circled === undefined ? {} : { circled: !NO.test(circled) }),
				...(note ? { note } : {}),
				channels
			}
		];
	});
}

/**
 * The clip a line speaks of: the file of that name, with or without its ending, or the one file whose name begins so.
 * @param clips with the names of their files
 */
export function clipOfLine<Clip extends { readonly files: readonly string[] }>(
	line: ReportLine,
	clips: readonly Clip[]
): Clip | undefined {
	const wanted = bare(line.file);
	const named = clips.find(({ files }) => files.some((file) => bare(file) === wanted));
	if (named) return named;
	// Of a take with a file for each channel, a report names the take.
	const begun = clips.filter(({ files }) =>
		files.some((file) => bare(file).startsWith(wanted) && /^[\s_.-]/.test(bare(file).slice(wanted.length)))
	);
	return begun.length === 1 ? begun[0] : undefined;
}

function bare(path: string): string {
	const name = path.slice(path.replaceAll('\\', '/').lastIndexOf('/') + 1);
	return name.replace(/\.[a-z0-9]{2,4}$/i, '').toLowerCase();
}
