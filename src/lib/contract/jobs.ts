import { z } from 'zod';
import { Id } from './fields';

/** Ways of lining up. */
export const WAYS = ['best', 'sound', 'timecode'] as const;
export type Way = (typeof WAYS)[number];

/** Kinds of long work, with what each is told. */
export const JOBS = {
	/** Finds and reads a shoot's files. */
	gather: z.object({}),
	/** Makes waveforms, listening sound and small pictures. */
	prepare: z.object({}),
	'line-up': z.object({
		reference: Id.optional(),
		by: z.enum(WAYS).optional(),
		/** Leaves all that is placed where it is. */
		onlyNew: z.boolean().optional()
	}),
	/** Renders a program to a movie. */
	render: z.object({ lineUpId: Id })
} as const;

export type JobKind = keyof typeof JOBS;
export const JOB_KINDS = Object.keys(JOBS) as readonly JobKind[];
export type JobInput<Kind extends JobKind> = z.output<(typeof JOBS)[Kind]>;

/** Jobs that a page can ask for by themselves; the others come of commands and hand-offs. */
export const NewJob = z.discriminatedUnion('kind', [
	JOBS.gather.extend({ kind: z.literal('gather') }),
	JOBS['line-up'].extend({ kind: z.literal('line-up') })
]);
export type NewJob = z.infer<typeof NewJob>;

export const JobAction = z.object({ action: z.enum(['stop', 'retry']) });
export type JobAction = z.infer<typeof JobAction>;

/** A piece of long work as the page sees it. */
export interface JobView {
	readonly id: string;
	readonly shootId: string;
	readonly kind: JobKind;
	readonly title: string;
	readonly state: 'waiting' | 'running' | 'done' | 'failed' | 'stopped';
	/** 0 to 1. */
	readonly share: number;
	readonly message: string;
	readonly secondsLeft: number | null;
	readonly error: string | null;
}
