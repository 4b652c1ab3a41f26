import { z } from 'zod';
import { Id } from './fields';

/** Who a hand-off is for. */
export const RECEIVERS = ['audience', 'picture editor'] as const;
export type Receiver = (typeof RECEIVERS)[number];

export interface HandOffDescription {
	/** What it is called, as in "Write OpenTimelineIO". */
	readonly name: string;
	readonly receiver: Receiver;
	/** What it is and holds, in a sentence or two. */
	readonly holds: string;
	/** What it cannot hold; empty for nothing worth saying. */
	readonly lacks: string;
	readonly extension: string;
	readonly mediaType: string;
	/** It takes long: a job makes it. */
	readonly isLong: boolean;
	/** Without a master it would be silent, and is not made. */
	readonly needsMaster: boolean;
	/** The browser plays it. */
	readonly isPlayable: boolean;
}

/** Everything that can be handed off. How each is written stands under the same name in the server's hand-off stage. */
export const HAND_OFFS = {
	movie: {
		name: 'movie',
		receiver: 'audience',
		holds: 'A movie of the program: MP4 with H.264 and AAC, drift corrected, with the master audio.',
		lacks: '',
		extension: 'mp4',
		mediaType: 'video/mp4',
		isLong: true,
		needsMaster: true,
		isPlayable: true
	},
	otio: {
		name: 'OpenTimelineIO',
		receiver: 'picture editor',
		holds:
			'The program with its sound, and every device as a track of its own, with names, clocks and original timecode.',
		lacks:
			'Levels and pans of the master go along as notes, and held pictures are gaps: the format has no fields for them.',
		extension: 'otio',
		mediaType: 'application/json',
		isLong: false,
		needsMaster: false,
		isPlayable: false
	},
	shots: {
		name: 'list of shots',
		receiver: 'picture editor',
		holds:
			'Every shot with its times, angle, clip and file as a table (CSV), with what is heard, what stands in and what is held.',
		lacks: '',
		extension: 'csv',
		mediaType: 'text/csv; charset=utf-8',
		isLong: false,
		needsMaster: false,
		isPlayable: false
	}
} as const satisfies Readonly<Record<string, HandOffDescription>>;

export type HandOffKind = keyof typeof HAND_OFFS;
export const HAND_OFF_KINDS = Object.keys(HAND_OFFS) as readonly HandOffKind[];

export const NewHandOff = z.object({
	kind: z.enum(HAND_OFF_KINDS as [HandOffKind, ...HandOffKind[]]),
	lineUpId: Id
});
export type NewHandOff = z.infer<typeof NewHandOff>;

/** A hand-off that is asked for: there already, or made by a job. */
export interface BegunHandOff {
	readonly handOffId: string | null;
	readonly jobId: string | null;
}
