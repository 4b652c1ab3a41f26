import { z } from 'zod';
import { Id } from './fields';
import { HAND_OFFS, NewHandOff } from './hand-offs';

/** Ways of lining up. */
export const WAYS = ['best', 'sound', 'timecode'] as const;
export type Way = (typeof WAYS)[number];

/** Kinds of long work: what each is told, and what it is called while it runs. How it is done stands in the server's list. */
export const JOBS = {
	gather: { input: z.object({}), title: () => 'Reading the files' },
	/** Only helps: it can be paused, and goes on with what is left. */
	prepare: { input: z.object({}), title: () => 'Preparing sound and pictures', isPausable: true },
	/** Measures all sound of all line-ups that is not measured yet, or otherwise now. */
	measure: { input: z.object({}), title: () => 'Comparing the sound' },
	'line-up': {
		input: z.object({
			reference: Id.optional(),
			by: z.enum(WAYS).optional(),
			/** Leaves all that is placed where it is. */
			onlyNew: z.boolean().optional()
		}),
		title: ({ onlyNew }: { readonly onlyNew?: boolean | undefined }) =>
			onlyNew ? 'Adding to the line-up' : 'Lining up'
	},
	'hand-off': {
		input: NewHandOff,
		title: ({ kind }: NewHandOff) => `Making the ${HAND_OFFS[kind].name}`
	}
} as const;

export type JobKind = keyof typeof JOBS;

/** Whether stopping a job is a pause: what waits of its kind pauses with it, and starting it again is going on. */
export function isPausable(kind: JobKind): boolean {
	return 'isPausable' in JOBS[kind];
}

export const JOB_KINDS = Object.keys(JOBS) as readonly JobKind[];
export type JobInput<Kind extends JobKind> = z.output<(typeof JOBS)[Kind]['input']>;

/** Jobs that a page can ask for by themselves; the others come of commands and hand-offs. */
export const NewJob = z.discriminatedUnion('kind', [
	JOBS.gather.input.extend({ kind: z.literal('gather') }),
	JOBS.measure.input.extend({ kind: z.literal('measure') }),
	JOBS['line-up'].input.extend({ kind: z.literal('line-up') })
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
