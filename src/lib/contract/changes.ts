import type { ShootRows, RowTable } from '../core/shoot/rows';

/** Rows of a shoot by table: all of them, or those that have changed. */
export type RowsByTable = { readonly [Table in RowTable]?: readonly ShootRows[Table][] };

/** What undo and redo would do now, in words; null for nothing. */
export interface Steps {
	readonly undo: string | null;
	readonly redo: string | null;
}

/** The whole shoot, as it was at a revision. */
export interface Snapshot extends Steps {
	readonly revision: number;
	readonly rows: RowsByTable;
}

/** What one change made of the shoot. */
export interface Change extends Steps {
	readonly shootId: string;
	/** It leads from this revision… */
	readonly before: number;
	/** …to this one; the same where nothing was changed. A page that knows neither reads the shoot once. */
	readonly revision: number;
	/** Rows that are new or other than before. */
	readonly rows: RowsByTable;
	/** Rows that are no more, by their identities. */
	readonly gone: Readonly<Partial<Record<RowTable, readonly string[]>>>;
}
