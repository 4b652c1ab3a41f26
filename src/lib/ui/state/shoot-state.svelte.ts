import { getContext, setContext } from 'svelte';
import { compile, coverLineUp } from '../../core/program/compile';
import { anglesOf, type Shot, shotsOf } from '../../core/program/program';
import type { MasterChannel, StoredProgram } from '../../core/shoot/decisions';
import type { Device } from '../../core/shoot/device';
import { placedClips, rangeOf } from '../../core/shoot/lookup';
import type { PlacedClip } from '../../core/shoot/clip';
import type { Change } from '../../contract/changes';
import type { CommandInput } from '../../contract/commands/commands';
import { API } from '../../contract/endpoints';
import type { ServerEvent } from '../../contract/events';
import type { JobAction, JobView, NewJob } from '../../contract/jobs';
import { assembleShoot, type AssembledShoot } from '../../core/shoot/assemble';
import { changeRows, storeRows } from '../../core/shoot/rows';
import { LiveShoot } from './live-shoot.svelte';
import { onceMoreAfter } from './once-more-after';
import { ask } from './request';

/**
 * The page's view of one shoot: read once from the server, then changed by what the server says has changed, be it the
 * answer to a request of this page or an event. Whoever missed something reads once more.
 */
export class ShootState {
	shoot = $state.raw<LiveShoot>()!;
	jobs = $state.raw<readonly JobView[]>([]);
	/** The last change that could not be made, in a sentence; it stands until it is closed or another change is made. */
	problem = $state<string>();
	/** Why the server cannot be read at the moment. */
	lost = $state<string>();
	/** Which line-up is looked at. */
	private chosenLineUp = $state<string>();
	selectedClipId = $state<string>();
	selectedCallId = $state<string>();
	/** Files that the bench shows: they are prepared before others. */
	onScreen = $state.raw<readonly string[]>([]);

	readonly lineUpId = $derived(
		this.shoot?.lineUps.find((one) => one.id === this.chosenLineUp)?.id ?? this.shoot?.lineUps[0]?.id
	);
	readonly placed: readonly PlacedClip[] = $derived(this.lineUpId ? placedClips(this.shoot, this.lineUpId) : []);
	readonly range = $derived(rangeOf(this.placed));
	/** What there is to see and to hear; a call changes nothing of it. */
	readonly coverage = $derived(coverLineUp(this.placed));
	readonly lineUp = $derived(this.shoot?.lineUps.find((one) => one.id === this.lineUpId));
	/** What the audience of the line-up hears. */
	readonly master: readonly MasterChannel[] = $derived(this.lineUp?.master ?? []);
	readonly program: StoredProgram | undefined = $derived(
		this.shoot?.programs.find((one) => one.lineUpId === this.lineUpId)
	);
	/** What the audience sees and hears: the one plan that the movie and the exchange files are made of as well. */
	readonly plan = $derived(this.program ? compile(this.shoot, this.program, undefined, this.coverage) : undefined);
	readonly shots = $derived(this.keepSame(this.program ? shotsOf(this.program) : []));
	readonly angles: readonly Device[] = $derived(
		this.lineUpId ? anglesOf(this.shoot, this.lineUpId).map((id) => this.device(id)!) : []
	);
	/** The device whose clock counts as true. */
	readonly reference = $derived(this.device(this.lineUp?.referenceDeviceId ?? ''));
	readonly strays = $derived(this.shoot?.clips.filter((clip) => clip.stray) ?? []);
	readonly selectedClip = $derived(this.shoot?.clips.find((clip) => clip.id === this.selectedClipId));
	readonly runningJobs = $derived(this.jobs.filter((job) => job.state === 'running' || job.state === 'waiting'));

	private events: EventSource | undefined;
	private lastShots: ReadonlyMap<string, Shot> = new Map();
	private known: AssembledShoot | undefined;
	private lastChange: Promise<unknown> = Promise.resolve();

	constructor(readonly shootId: string) {}

	/** Reads the shoot and listens for changes. @throws RequestError */
	async open(): Promise<void> {
		await this.readAll();
		this.chosenLineUp = localStorage.getItem(this.lineUpKey) ?? undefined;
		this.events = new EventSource('/api/events');
		this.events.onmessage = (message: MessageEvent<string>) => this.hear(JSON.parse(message.data) as ServerEvent);
		// Between the reading and the connection, and whenever that was lost, something may have been missed.
		this.events.onopen = () => void this.readAgain();
	}

	close(): void {
		this.events?.close();
	}

	device(id: string): Device | undefined {
		return this.shoot?.devices.find((one) => one.id === id);
	}

	/** Place of a device among all, for its hue. */
	hue(deviceId: string): string {
		return `var(--hue-${this.shoot.devices.findIndex((one) => one.id === deviceId) % 8})`;
	}

	/** Looks at another line-up; what was selected belongs to the one before. */
	chooseLineUp(id: string): void {
		this.chosenLineUp = id;
		this.selectedClipId = undefined;
		this.selectedCallId = undefined;
		localStorage.setItem(this.lineUpKey, id);
	}

	private get lineUpKey(): string {
		return `open-choir.line-up.${this.shootId}`;
	}

	/**
	 * Asks for a change; what cannot be done is said in `problem`. Changes are sent one after another: the next one
	 * sees what the last one did.
	 * @param command or what makes one of the state at its turn; nothing for no change
	 */
	edit(command: CommandInput | (() => CommandInput | undefined)): Promise<boolean> {
		return this.inTurn(async () => {
			const wanted = typeof command === 'function' ? command() : command;
			if (wanted) this.apply(await ask(API.edit, { id: this.shootId }, wanted));
		});
	}

	/** Asks for a change of the line-up that is looked at, where there is one. */
	editLineUp(command: (lineUpId: string) => CommandInput | undefined): Promise<boolean> {
		return this.edit(() => (this.lineUpId === undefined ? undefined : command(this.lineUpId)));
	}

	async undo(): Promise<void> {
		await this.inTurn(async () => this.apply(await ask(API.undo, { id: this.shootId }, undefined)));
	}

	async redo(): Promise<void> {
		await this.inTurn(async () => this.apply(await ask(API.redo, { id: this.shootId }, undefined)));
	}

	async startJob(job: NewJob): Promise<void> {
		await this.attempt(async () => void (await ask(API.newJob, { id: this.shootId }, job)));
	}

	async changeJob(jobId: string, action: JobAction['action']): Promise<void> {
		await this.attempt(async () => void (await ask(API.jobAction, { id: jobId }, { action })));
	}

	/** Shots that are as they were stay the same objects: of hundreds in the program lane only those that changed are drawn. */
	private keepSame(shots: readonly Shot[]): readonly Shot[] {
		const old = this.lastShots;
		this.lastShots = new Map(
			shots.map((shot) => {
				const before = old.get(shot.callId);
				return [shot.callId, before && isSameShot(before, shot) ? before : shot];
			})
		);
		return [...this.lastShots.values()];
	}

	private inTurn(work: () => Promise<void>): Promise<boolean> {
		const result = this.lastChange.then(() => this.attempt(work));
		this.lastChange = result;
		return result;
	}

	/** Reads from the server; what fails is said in `lost` until it succeeds again. */
	async read(work: () => Promise<void>): Promise<void> {
		try {
			await work();
			this.lost = undefined;
		} catch (error) {
			this.lost = error instanceof Error ? error.message : String(error);
		}
	}

	async attempt(work: () => Promise<void>): Promise<boolean> {
		try {
			await work();
			this.problem = undefined;
			return true;
		} catch (error) {
			this.problem = error instanceof Error ? error.message : String(error);
			return false;
		}
	}

	/** Takes over a change. One that is known already is nothing; one that leads from elsewhere means that some are missing. */
	private apply(change: Change): void {
		const { known } = this;
		if (!known || change.revision <= known.shoot.revision) return;
		if (change.before === known.shoot.revision)
			this.show(assembleShoot(changeRows(known.rows, change.rows, change.gone), change, known));
		else void this.readAgain();
	}

	private show(assembled: AssembledShoot): void {
		this.known = assembled;
		if (this.shoot) this.shoot.become(assembled.shoot);
		else this.shoot = new LiveShoot(assembled.shoot);
	}

	private hear(event: ServerEvent): void {
		switch (event.type) {
			case 'change':
				if (event.change.shootId === this.shootId) this.apply(event.change);
				return;
			case 'job':
				if (event.job.shootId !== this.shootId) return;
				this.jobs = [event.job, ...this.jobs.filter((job) => job.id !== event.job.id)];
				return;
			case 'shoots':
				// It may have been deleted elsewhere.
				void this.readAgain();
		}
	}

	private async readAll(): Promise<void> {
		const [{ rows, ...steps }, jobs] = await Promise.all([
			ask(API.shoot, { id: this.shootId }, undefined),
			ask(API.jobs, { id: this.shootId }, undefined)
		]);
		// A change may have overtaken the reading.
		if (!this.known || steps.revision >= this.known.shoot.revision) this.show(assembleShoot(storeRows(rows), steps));
		this.jobs = jobs;
	}

	/** Reads all once more; for whoever asks meanwhile once after that, as the reading that runs may be older than what it missed. */
	private readonly readAgain = onceMoreAfter(() => this.read(() => this.readAll()));
}

function isSameShot(a: Shot, b: Shot): boolean {
	return a.deviceId === b.deviceId && a.inFlicks === b.inFlicks && a.outFlicks === b.outFlicks;
}

const KEY = Symbol('shoot');

export function provideShoot(state: ShootState): void {
	setContext(KEY, state);
}

export function useShoot(): ShootState {
	return getContext<ShootState>(KEY);
}
