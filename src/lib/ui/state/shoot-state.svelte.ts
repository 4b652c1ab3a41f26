import { getContext, setContext } from 'svelte';
import { anglesOf, shotsOf } from '../../core/program/program';
import type { StoredProgram } from '../../core/shoot/decisions';
import type { Device } from '../../core/shoot/device';
import { lineUpRange, placedClips } from '../../core/shoot/lookup';
import type { PlacedClip } from '../../core/shoot/clip';
import type { Shoot } from '../../core/shoot/shoot';
import { request } from './request';

/** A job as the server tells it. */
export interface Job {
	readonly id: string;
	readonly shootId: string;
	readonly kind: 'gather' | 'prepare' | 'line-up' | 'render';
	readonly title: string;
	readonly state: 'waiting' | 'running' | 'done' | 'failed' | 'stopped';
	readonly share: number;
	readonly message: string;
	readonly secondsLeft: number | null;
	readonly error: string | null;
}

type ServerEvent = { readonly type: 'job'; readonly job: Job } | { readonly type: 'shoot'; readonly shootId: string };

/** The page's view of one shoot: read from the server, never changed here but by asking the server. */
export class ShootState {
	shoot = $state.raw<Shoot>()!;
	jobs = $state.raw<readonly Job[]>([]);
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
	readonly range = $derived(this.lineUpId ? lineUpRange(this.shoot, this.lineUpId) : { inFlicks: 0, outFlicks: 0 });
	readonly program: StoredProgram | undefined = $derived(
		this.shoot?.programs.find((one) => one.lineUpId === this.lineUpId)
	);
	readonly shots = $derived(this.program ? shotsOf(this.program) : []);
	readonly angles: readonly Device[] = $derived(
		this.lineUpId ? anglesOf(this.shoot, this.lineUpId).map((id) => this.device(id)!) : []
	);
	/** The device whose clock counts as true. */
	readonly reference = $derived(
		this.device(this.shoot?.lineUps.find((one) => one.id === this.lineUpId)?.referenceDeviceId ?? '')
	);
	readonly strays = $derived(this.shoot?.clips.filter((clip) => clip.stray) ?? []);
	readonly selectedClip = $derived(this.shoot?.clips.find((clip) => clip.id === this.selectedClipId));
	readonly runningJobs = $derived(this.jobs.filter((job) => job.state === 'running' || job.state === 'waiting'));

	private events: EventSource | undefined;
	private refreshing = false;
	private again = false;
	private lastChange: Promise<unknown> = Promise.resolve();

	constructor(readonly shootId: string) {}

	/** Reads the shoot and listens for changes. @throws RequestError */
	async open(): Promise<void> {
		[this.shoot, this.jobs] = await Promise.all([
			request<Shoot>(`/api/shoots/${this.shootId}`),
			request<Job[]>(`/api/shoots/${this.shootId}/jobs`)
		]);
		this.events = new EventSource('/api/events');
		this.events.onmessage = (message: MessageEvent<string>) => this.hear(JSON.parse(message.data) as ServerEvent);
		// After a lost connection the page may have missed something.
		this.events.onopen = () => void this.refresh();
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

	chooseLineUp(id: string): void {
		this.chosenLineUp = id;
	}

	/**
	 * Asks for a change; what cannot be done is said in `problem`. Changes are sent one after another: the next one
	 * sees what the last one did.
	 * @param command or what makes one of the state at its turn; nothing for no change
	 */
	edit(command: object | (() => object | undefined)): Promise<boolean> {
		return this.inTurn(async () => {
			const wanted = typeof command === 'function' ? (command as () => object | undefined)() : command;
			if (wanted) this.accept(await request<Shoot>(`/api/shoots/${this.shootId}/edits`, wanted));
		});
	}

	async undo(): Promise<void> {
		await this.inTurn(async () => this.accept(await request<Shoot>(`/api/shoots/${this.shootId}/undo`, {})));
	}

	async redo(): Promise<void> {
		await this.inTurn(async () => this.accept(await request<Shoot>(`/api/shoots/${this.shootId}/redo`, {})));
	}

	async startJob(job: object): Promise<void> {
		await this.attempt(async () => void (await request(`/api/shoots/${this.shootId}/jobs`, job)));
	}

	async changeJob(jobId: string, action: 'stop' | 'retry'): Promise<void> {
		await this.attempt(async () => void (await request(`/api/jobs/${jobId}`, { action })));
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

	private accept(shoot: Shoot): void {
		// Answers may overtake each other; the newest wins.
		if (!this.shoot || shoot.revision >= this.shoot.revision) this.shoot = shoot;
	}

	private hear(event: ServerEvent): void {
		if (event.type === 'shoot') {
			if (event.shootId === this.shootId) void this.refresh();
			return;
		}
		if (event.job.shootId !== this.shootId) return;
		const others = this.jobs.filter((job) => job.id !== event.job.id);
		this.jobs = [event.job, ...others];
	}

	private async refresh(): Promise<void> {
		if (this.refreshing) {
			this.again = true;
			return;
		}
		this.refreshing = true;
		await this.read(async () => {
			do {
				this.again = false;
				this.accept(await request<Shoot>(`/api/shoots/${this.shootId}`));
				this.jobs = await request<Job[]>(`/api/shoots/${this.shootId}/jobs`);
			} while (this.again);
		});
		this.refreshing = false;
	}
}

const KEY = Symbol('shoot');

export function provideShoot(state: ShootState): void {
	setContext(KEY, state);
}

export function useShoot(): ShootState {
	return getContext<ShootState>(KEY);
}
