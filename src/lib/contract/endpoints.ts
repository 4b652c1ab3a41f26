import { z } from 'zod';
import type { LensView } from '../core/proof/lens-view';
import type { PairMoments } from '../core/proof/drift';
import type { SignedReport } from '../core/proof/report';
import type { Change, Snapshot } from './changes';
import { type Command, type CommandInput, parseCommand } from './commands/commands';
import { Id } from './fields';
import { type BegunHandOff, NewHandOff } from './hand-offs';
import { JobAction, type JobView, NewJob } from './jobs';
import {
	type Before,
	type EditEntry,
	type Folders,
	type FoundAgain,
	LensRequest,
	NewShoot,
	NewSource,
	type ShootSummary,
	type Sources,
	StorageAction,
	type StorageUse,
	type UnfinishedUpload,
	Watched
} from './views';

/** What reads something that was sent. `sent` is a type only: what may be sent, defaults left out. */
export interface Reader<Sent, Read> {
	parse(sent: unknown): Read;
	readonly sent?: Sent;
}

/** One thing that a page can ask of the server. */
export interface Endpoint<Params, Sent, Read, Answer> {
	readonly method: 'GET' | 'POST' | 'DELETE';
	/** What stands in the address, checked. */
	readonly params: Reader<Params, Params>;
	readonly address: (params: Params) => string;
	/** What is sent; nothing where nothing is. */
	readonly input: Reader<Sent, Read>;
	/** A type only. */
	readonly answer?: Answer;
}

const Nothing: Reader<void, void> = { parse: () => undefined };
const NoParams: Reader<Record<never, never>, Record<never, never>> = { parse: () => ({}) };
const OfShoot = z.object({ id: Id });
type OfShoot = z.infer<typeof OfShoot>;

function reader<Schema extends z.ZodType>(schema: Schema): Reader<z.input<Schema>, z.output<Schema>> {
	return { parse: (sent) => schema.parse(sent) };
}

function get<Answer>() {
	return <Params>(
		params: Reader<Params, Params>,
		address: (params: Params) => string
	): Endpoint<Params, void, void, Answer> => ({ method: 'GET', params, address, input: Nothing });
}

function post<Answer>() {
	return <Params, Sent, Read>(
		params: Reader<Params, Params>,
		address: (params: Params) => string,
		input: Reader<Sent, Read>
	): Endpoint<Params, Sent, Read, Answer> => ({ method: 'POST', params, address, input });
}

function remove<Params>(
	params: Reader<Params, Params>,
	address: (params: Params) => string
): Endpoint<Params, void, void, void> {
	return { method: 'DELETE', params, address, input: Nothing };
}

const shoot = ({ id }: OfShoot) => `/api/shoots/${id}`;
const below = (name: string) => (params: OfShoot) => `${shoot(params)}/${name}`;

const OfMoments = z.object({ id: Id, lineUp: Id, clip: Id });
const OfLineUp = z.object({ id: Id, lineUp: Id });
const OfReport = z.object({ id: Id, lineUp: Id.optional() });
const OfFolders = z.object({ path: z.string().max(4096).optional() });

/** An address's questions; what is not asked is left out. */
function query(values: Readonly<Record<string, string | undefined>>): string {
	const asked = Object.entries(values).filter((one): one is [string, string] => one[1] !== undefined);
	return asked.length === 0 ? '' : `?${new URLSearchParams(asked)}`;
}

/** Everything that is asked in JSON, both ways. Files, uploads and events have routes of their own. */
export const API = {
	shoots: get<readonly ShootSummary[]>()(NoParams, () => '/api/shoots'),
	newShoot: post<{ readonly id: string }>()(NoParams, () => '/api/shoots', reader(NewShoot)),
	shoot: get<Snapshot>()(OfShoot, shoot),
	deleteShoot: remove(OfShoot, shoot),
	bringBack: post<void>()(OfShoot, below('bring-back'), Nothing),
	duplicate: post<{ readonly id: string }>()(OfShoot, below('duplicate'), Nothing),

	edits: get<readonly EditEntry[]>()(OfShoot, below('edits')),
	edit: post<Change>()(OfShoot, below('edits'), { parse: parseCommand } as Reader<CommandInput, Command>),
	undo: post<Change>()(OfShoot, below('undo'), Nothing),
	redo: post<Change>()(OfShoot, below('redo'), Nothing),

	jobs: get<readonly JobView[]>()(OfShoot, below('jobs')),
	newJob: post<{ readonly id: string }>()(OfShoot, below('jobs'), reader(NewJob)),
	jobAction: post<void>()(z.object({ id: Id }), ({ id }) => `/api/jobs/${id}`, reader(JobAction)),

	addSource: post<void>()(OfShoot, below('sources'), reader(NewSource)),
	findAgain: post<FoundAgain>()(OfShoot, below('find-again'), reader(NewSource)),
	uploads: get<readonly UnfinishedUpload[]>()(OfShoot, below('uploads')),
	dropUploads: remove(OfShoot, below('uploads')),
	watch: post<void>()(OfShoot, below('watched'), reader(Watched)),

	lens: post<LensView>()(OfShoot, below('lens'), reader(LensRequest)),
	before: get<Before>()(OfShoot, below('before')),
	moments: get<readonly PairMoments[]>()(
		OfMoments,
		({ id, lineUp, clip }) => `${shoot({ id })}/moments${query({ lineUp, clip })}`
	),
	sources: get<Sources>()(OfLineUp, ({ id, lineUp }) => `${shoot({ id })}/sources-report${query({ lineUp })}`),
	report: get<SignedReport>()(OfReport, ({ id, lineUp }) => `${shoot({ id })}/report${query({ lineUp })}`),

	handOff: post<BegunHandOff>()(OfShoot, below('hand-offs'), reader(NewHandOff)),

	folders: get<Folders>()(OfFolders, ({ path }) => `/api/folders${query({ path })}`),
	storage: get<StorageUse>()(NoParams, () => '/api/storage'),
	storageAction: post<StorageUse>()(NoParams, () => '/api/storage', reader(StorageAction))
} as const;
