import { getContext, setContext } from 'svelte';
import type { PlaceBefore } from '../../core/proof/last-change';
import type { LensView } from '../../core/proof/lens-view';
import { withoutDrift } from '../../core/shoot/placement';
import type { PlacedClip } from '../../core/shoot/clip';
import { asSound } from '../../core/shoot/air-delay';
import type { Loop } from '../playback/play-course';
import { API } from '../../contract/endpoints';
import { ask } from './request';
import type { ShootState } from './shoot-state.svelte';

/** What a move is about. */
export const SCOPES = ['clip', 'device', 'left', 'right'] as const;
export type Scope = (typeof SCOPES)[number];

/** With which places one listens. */
export const PLACES = ['now', 'without drift correction', 'before the last change'] as const;
export type Places = (typeof PLACES)[number];

/** What an editor is proving at the moment: which two clips, how they are heard, what is moved. It changes nothing itself. */
export class ProofState {
	/** The clip that the selected one is held against, where it was chosen. */
	chosenOntoId = $state<string>();
	scope = $state<Scope>('clip');
	snaps = $state(true);
	/** Whether clips are dragged in the score; otherwise the playhead is. */
	drags = $state(false);
	/** Width of the lens, in seconds. */
	lensSeconds = $state(2);
	/** How far lags are looked for, to either side, in seconds. */
	reachSeconds = $state(0.25);
	finding = $state.raw<LensView>();
	/** What the finding is of; an older one counts for nothing. */
	findingKey = $state('');
	fault = $state<string>();
	places = $state<Places>('now');
	loop = $state.raw<Loop>();
	/** The angle that is shown large. */
	largeDeviceId = $state<string>();
	/** Measurements that were asked for so far. */
	private measured = 0;
	private before = $state.raw<readonly PlaceBefore[]>([]);
	beforeLabel = $state<string>();

	constructor(private readonly shoot: ShootState) {}

	/** Clips that sound while the selected one does, the reference's first. */
	readonly partners = $derived.by((): readonly PlacedClip[] => {
		const clip = this.clip;
		if (!clip) return [];
		const end = (one: PlacedClip) => one.placement.startFlicks + one.durationFlicks;
		return this.shoot.placed
			.filter(
				(one) =>
					one.id !== clip.id &&
					one.placement.startFlicks < end(clip) &&
					end(one) > clip.placement.startFlicks &&
					one.deviceId !== clip.deviceId
			)
			.sort((a, b) => this.rank(a) - this.rank(b));
	});
	readonly onto = $derived(this.partners.find((one) => one.id === this.chosenOntoId) ?? this.partners[0]);

	/** The selected clip, if it has a place on the line-up that is looked at. */
	get clip(): PlacedClip | undefined {
		return this.shoot.placed.find((one) => one.id === this.shoot.selectedClipId);
	}

	private rank(clip: PlacedClip): number {
		return (clip.parts[0]?.sound ? 0 : 2) + (clip.deviceId === this.shoot.reference?.id ? 0 : 1);
	}

	/** Clips that a move is about, told by the scope and the playhead. Locked ones stay where they are. */
	movedIds(playheadFlicks: number): readonly string[] {
		const { clip } = this;
		const moved = this.shoot.placed.filter((one) => {
			switch (this.scope) {
				case 'clip':
					return one.id === clip?.id;
				case 'device':
					return one.deviceId === clip?.deviceId;
				case 'left':
					return one.placement.startFlicks < playheadFlicks;
				case 'right':
					return one.placement.startFlicks >= playheadFlicks;
			}
		});
		return moved.filter((one) => this.scope === 'clip' || !one.placement.isLocked).map((one) => one.id);
	}

	/** Moves what the scope says. */
	async shift(byFlicks: number, playheadFlicks: number): Promise<void> {
		await this.shoot.edit(() => {
			const clipIds = this.movedIds(playheadFlicks);
			return clipIds.length > 0 ? { kind: 'shift-clips', clipIds, byFlicks: Math.round(byFlicks) } : undefined;
		});
	}

	/** Has the engine measure the lag of the two clips at the playhead. An answer that a later question has overtaken is dropped. */
	async measure(atFlicks: number): Promise<void> {
		const { clip, onto } = this;
		if (!clip || !onto) return;
		const key = this.keyOf(atFlicks);
		const turn = ++this.measured;
		let finding: LensView | undefined;
		let fault: string | undefined;
		try {
			const passage = {
				clipId: clip.id,
				ontoClipId: onto.id,
				atFlicks: Math.round(atFlicks),
				seconds: this.lensSeconds,
				reachSeconds: this.reachSeconds
			};
			finding = await ask(API.lens, { id: this.shoot.shootId }, passage);
		} catch (error) {
			fault = error instanceof Error ? error.message : String(error);
		}
		if (turn !== this.measured) return;
		this.finding = finding;
		this.fault = fault;
		this.findingKey = key;
	}

	/** Of the passage and the places that a finding is of. */
	keyOf(atFlicks: number): string {
		const { clip, onto } = this;
		const place = (one: PlacedClip | undefined) => [one?.id, one?.placement.startFlicks, one?.placement.ratePpm];
		return JSON.stringify([...place(clip), ...place(onto), Math.round(atFlicks), this.lensSeconds, this.reachSeconds]);
	}

	/** Moves the selected clip so that a lag is gone. */
	async fit(byFlicks: number): Promise<void> {
		const { clip, onto } = this;
		if (!clip || !onto) return;
		await this.shoot.edit({ kind: 'fit-clip', clipId: clip.id, ontoClipId: onto.id, byFlicks: Math.round(byFlicks) });
	}

	/** Listens with other places, or with those that are. */
	async listenWith(places: Places): Promise<void> {
		if (places === 'before the last change') {
			const { change } = await ask(API.before, { id: this.shoot.shootId }, undefined);
			this.before = change?.places ?? [];
			this.beforeLabel = change?.label;
		}
		this.places = places;
	}

	async nextPlaces(): Promise<void> {
		await this.listenWith(PLACES[(PLACES.indexOf(this.places) + 1) % PLACES.length]!);
	}

	/** Where the sound of all clips lies, as it is listened to. */
	heardPlaces(placed: readonly PlacedClip[]): readonly PlacedClip[] {
		const sounding = placed.map(asSound);
		if (this.places === 'now') return sounding;
		const before = new Map(this.before.map((one) => [one.clipId, one]));
		return sounding.map((clip) => {
			const { placement } = clip;
			if (this.places === 'without drift correction') return { ...clip, placement: withoutDrift(placement) };
			const old = before.get(clip.id);
			return old ? { ...clip, placement: { ...placement, startFlicks: old.startFlicks, ratePpm: old.ratePpm } } : clip;
		});
	}
}

const KEY = Symbol('proof');

export function provideProof(proof: ProofState): void {
	setContext(KEY, proof);
}

export function useProof(): ProofState {
	return getContext<ProofState>(KEY);
}
