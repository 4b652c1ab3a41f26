import { z } from 'zod';
import type { SourcesReport } from '../core/master/report';
import type { LastChange } from '../core/proof/last-change';
import { Flicks, FolderPath, Id } from './fields';

/** A shoot in the list of shoots. */
export interface ShootSummary {
	readonly id: string;
	readonly name: string;
	readonly folder: string;
	readonly clips: number;
	readonly isDemo: boolean;
	/** Deleted; it can be brought back until this day, yyyy-mm-dd. */
	readonly endsAt: string | null;
}

export const NewShoot = z.object({
	name: z.string().trim().min(1, 'Give the shoot a name.').max(200),
	/** Without one, files are dropped into the page. */
	folder: FolderPath.optional()
});
export type NewShoot = z.input<typeof NewShoot>;

export const NewSource = z.object({ folder: FolderPath });

/** A change that was made, in the list of changes. */
export interface EditEntry {
	readonly id: number;
	/** When, as ISO 8601 writes it, in UTC. */
	readonly at: string;
	readonly label: string;
	readonly undone: boolean;
}

/** An upload that has begun and is not whole. */
export interface UnfinishedUpload {
	readonly id: string;
	readonly relativePath: string;
	readonly sizeBytes: number;
	readonly doneBytes: number;
}

/** How many missing files were found again, and how many were not. */
export interface FoundAgain {
	readonly found: number;
	readonly missing: number;
}

/** Folders below `path`; without one, those that may be read. */
export interface Folders {
	readonly path: string | null;
	readonly folders: readonly string[];
}

/** What takes room on the disk, in bytes. */
export interface StorageUse {
	/** Waveforms, listening sound, small pictures: they can be made again. */
	readonly cacheBytes: number;
	/** Of them, what no shoot uses any more. */
	readonly unusedBytes: number;
	readonly limitBytes: number;
	readonly uploadBytes: number;
	readonly handOffBytes: number;
	readonly freeBytes: number;
}

export const StorageAction = z.discriminatedUnion('action', [
	z.object({ action: z.literal('clean-up') }),
	z.object({ action: z.literal('set-limit'), limitBytes: z.number().int().min(1e9).max(1e15) })
]);
export type StorageAction = z.infer<typeof StorageAction>;

/** What the editor looks at: files, and a moment of a line-up. */
export const Watched = z.object({
	fileIds: z.array(Id).max(1000),
	at: z.object({ lineUpId: Id, flicks: Flicks }).optional()
});
export type Watched = z.infer<typeof Watched>;

/** Which passage of which two clips is looked at. */
export const LensRequest = z.object({
	clipId: Id,
	ontoClipId: Id,
	atFlicks: Flicks,
	seconds: z.number().min(0.2).max(20),
	reachSeconds: z.number().min(0.01).max(1)
});
export type LensRequest = z.infer<typeof LensRequest>;

/** What was measured and found of a line-up's sources; whether that still follows from what is there. */
export interface Sources {
	readonly report: SourcesReport | null;
	readonly isCurrent: boolean;
}

/** Where clips lay before the last change; null when nothing was changed. */
export interface Before {
	readonly change: LastChange | null;
}
