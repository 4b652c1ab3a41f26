import { getContext, setContext, untrack } from 'svelte';
import { API } from '../../contract/endpoints';
import type { ReportedSource, SourcesReport } from '../../core/master/report';
import { heardSpeech } from '../../core/program/heard-speech';
import { mixedSound, type MixedSound } from '../../core/program/mixed-sound';
import type { Range } from '../../core/shoot/lookup';
import type { Person, Speech } from '../../core/shoot/person';
import { ask } from './request';
import type { ShootState } from './shoot-state.svelte';

const NONE: readonly never[] = [];
const SILENCE: MixedSound = { intervals: [], turns: [], order: [] };

/** What was measured of the line-up's sources, who speaks when, and what of it is chosen. */
export class SourcesState {
	report = $state.raw<SourcesReport | null>(null);
	isCurrent = $state(true);
	/** The person whose passages are gone through. */
	personId = $state<string>();
	/** Only his passages are played. */
	playsOnlyPerson = $state(false);
	/** A stretch of speech that is chosen, by its person and a moment in it. */
	chosen = $state.raw<{ readonly personId: string; readonly atFlicks: number }>();

	private lineUpId: string | undefined;

	constructor(private readonly shoot: ShootState) {}

	/** What is known of who speaks. */
	readonly heard = $derived.by(() =>
		heardSpeech(this.shoot.shoot?.people ?? NONE, this.report, this.shoot.lineUp?.corrections ?? NONE)
	);
	readonly speech: readonly Speech[] = $derived(this.heard.speech);
	/** What the audience hears, over all of the line-up: the movie is made of the same. */
	readonly mixed: MixedSound = $derived.by(() => {
		const { lineUpId, coverage, range, shoot } = this.shoot;
		return lineUpId === undefined ? SILENCE : mixedSound(shoot, lineUpId, coverage.sounds, range, this.heard);
	});
	readonly person: Person | undefined = $derived.by(
		() => this.shoot.shoot?.people.find((one) => one.id === this.personId) ?? this.shoot.shoot?.people[0]
	);
	readonly passages: readonly Speech[] = $derived(this.speech.filter((one) => one.personId === this.person?.id));
	readonly chosenSpeech: Speech | undefined = $derived(
		this.speech.find(
			(one) =>
				one.personId === this.chosen?.personId &&
				one.inFlicks <= this.chosen.atFlicks &&
				one.outFlicks > this.chosen.atFlicks
		)
	);
	/** The last comparison did not come to its end: it is not begun again by itself. */
	readonly hasFailed = $derived.by(() => {
		const last = this.shoot.jobs.find((job) => job.kind === 'measure');
		return last?.state === 'failed' || last?.state === 'stopped';
	});
	readonly job = $derived.by(() => this.shoot.runningJobs.find((job) => job.kind === 'measure'));

	/** Reads what is known of a line-up. */
	async read(lineUpId: string): Promise<void> {
		if (this.lineUpId !== lineUpId) {
			this.lineUpId = lineUpId;
			this.report = null;
		}
		await this.shoot.read(async () => {
			const { report, isCurrent } = await ask(API.sources, { id: this.shoot.shootId, lineUp: lineUpId }, undefined);
			if (this.lineUpId !== lineUpId) return;
			this.report = report;
			this.isCurrent = isCurrent;
		});
	}

	/** Measures what is not measured, or follows from something else now; nothing while that is under way. */
	async measure(): Promise<void> {
		if (untrack(() => this.job)) return;
		await this.shoot.startJob({ kind: 'measure' });
	}

	source(deviceId: string, channel: number): ReportedSource | undefined {
		return this.report?.sources.find((one) => one.deviceId === deviceId && one.channel === channel);
	}

	/** Who is heard closest on a channel. */
	personsOf(deviceId: string, channel: number): readonly Person[] {
		return this.shoot.shoot.people.filter((person) =>
			person.channels.some((one) => one.deviceId === deviceId && one.channel === channel)
		);
	}
}

/** Stretches of a range in which nothing is heard at all. */
export function gapsOf({ turns }: MixedSound, range: Range): readonly Range[] {
	const gaps: Range[] = [];
	let at = range.inFlicks;
	for (const { inFlicks, outFlicks } of turns) {
		if (Math.min(inFlicks, range.outFlicks) > at)
			gaps.push({ inFlicks: at, outFlicks: Math.min(inFlicks, range.outFlicks) });
		at = Math.max(at, outFlicks);
	}
	if (range.outFlicks > at) gaps.push({ inFlicks: at, outFlicks: range.outFlicks });
	return gaps;
}

const KEY = Symbol('sources');

export function provideSources(sources: SourcesState): void {
	setContext(KEY, sources);
}

export function useSources(): SourcesState {
	return getContext<SourcesState>(KEY);
}
