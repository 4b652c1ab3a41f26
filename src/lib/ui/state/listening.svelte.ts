import { getContext, setContext } from 'svelte';
import { matchingGainDb } from '../../core/master/loudness-of';
import type { MasterChannel } from '../../core/shoot/decisions';
import { signedDecibels } from '../controls/words';
import { MIX } from '../playback/sound-messages';
import type { HeardChannel } from '../playback/transport.svelte';
import type { ShootState } from './shoot-state.svelte';
import type { SourcesState } from './sources-state.svelte';
import type { Stage } from './stages';

/** A source that is tried: one channel, all of a device, or several that stand together. */
export interface Audition {
	readonly channels: readonly MasterChannel[];
}

/** What the audience hears is mixed already. */
const THE_MIX: readonly HeardChannel[] = [
	{ deviceId: MIX, channel: 0, gainDb: 0, pan: -1 },
	{ deviceId: MIX, channel: 1, gainDb: 0, pan: 1 }
];
const NOTHING: readonly HeardChannel[] = [];
const MATCHES_KEY = 'open-choir.matched-loudness';

/** What the editor listens to. Listening levels never change what leaves. */
export class Listening {
	stage = $state<Stage>('gather');
	private muted = $state.raw<ReadonlySet<string>>(new Set());
	private soloed = $state.raw<ReadonlySet<string>>(new Set());
	/** In Master: what is tried; nothing for the master itself. */
	audition = $state.raw<Audition>();
	/** What was heard before: one key goes back and forth between the two. */
	private before = $state.raw<Audition>();
	/** What is tried is as loud as the master. */
	matches = $state(localStorage.getItem(MATCHES_KEY) !== 'no');
	private touched = $state(false);
	/** In Prove: two devices, and nothing else. */
	double = $state.raw<readonly [string, string]>();
	/** One of the two in each ear; otherwise mixed. */
	inEachEar = $state(false);

	constructor(
		private readonly shoot: ShootState,
		private readonly sources: SourcesState
	) {}

	isMuted(deviceId: string): boolean {
		return this.muted.has(deviceId);
	}

	isSoloed(deviceId: string): boolean {
		return this.soloed.has(deviceId);
	}

	toggleMute(deviceId: string): void {
		this.muted = toggled(this.muted, deviceId);
		this.touched = true;
	}

	toggleSolo(deviceId: string): void {
		this.soloed = toggled(this.soloed, deviceId);
		this.touched = true;
	}

	/** Hears two devices over each other, or no longer. */
	toggleDouble(a: string | undefined, b: string | undefined): void {
		this.double = this.double || a === undefined || b === undefined ? undefined : [a, b];
	}

	/** Tries something else; nothing for the master. */
	listenTo(audition: Audition | undefined): void {
		if (isSame(audition, this.audition)) return;
		this.before = this.audition;
		this.audition = audition;
	}

	/** What was heard before, and back again. */
	listenInTurn(): void {
		[this.before, this.audition] = [this.audition, this.before];
	}

	isTried(audition: Audition): boolean {
		return this.audition !== undefined && isSame(audition, this.audition);
	}

	toggleMatching(): void {
		this.matches = !this.matches;
		localStorage.setItem(MATCHES_KEY, this.matches ? 'yes' : 'no');
	}

	/** By how much what is tried is louder for the ear than it is, in dB. */
	get matchingDb(): number {
		if (!this.audition || !this.matches) return 0;
		return matchingGainDb(this.audition.channels, this.shoot.master, this.sources.report?.sources ?? []);
	}

	/** Back to the master. */
	hearMaster(): void {
		this.muted = new Set();
		this.soloed = new Set();
		this.touched = false;
		this.audition = undefined;
		this.double = undefined;
	}

	/** Whether lanes, not the master, are heard: in Prove, once the editor has chosen lanes. */
	get hearsLanes(): boolean {
		return this.stage === 'prove' && (this.touched || this.double !== undefined);
	}

	/** Whether a lane sounds at the moment. */
	isHeard(deviceId: string): boolean {
		const { channels } = this;
		return (channels === THE_MIX ? this.shoot.master : channels).some((one) => one.deviceId === deviceId);
	}

	get channels(): readonly HeardChannel[] {
		if (this.stage === 'master' && this.audition) {
			const { matchingDb } = this;
			return this.audition.channels.map((one) => ({ ...one, gainDb: one.gainDb + matchingDb }));
		}
		if (!this.hearsLanes) return this.shoot.master.length > 0 ? THE_MIX : NOTHING;
		if (this.double) return this.double.flatMap((deviceId, side) => this.inEar(deviceId, side));
		const sounding = this.shoot.shoot.devices.filter((device) =>
			this.soloed.size > 0 ? this.soloed.has(device.id) : !this.muted.has(device.id)
		);
		return sounding.flatMap((device) => this.channelsOf(device.id));
	}

	/** A device in the left ear or the right, or in the middle. */
	private inEar(deviceId: string, side: number): readonly HeardChannel[] {
		const pan = this.inEachEar ? (side === 0 ? -1 : 1) : 0;
		return this.channelsOf(deviceId).map((channel) => ({ ...channel, pan }));
	}

	/** All channels of a device: two are a left and a right, any other number plays in the middle. */
	channelsOf(deviceId: string): readonly HeardChannel[] {
		const count = channelCount(this.shoot, deviceId);
		return Array.from({ length: count }, (_, channel) => ({
			deviceId,
			channel,
			gainDb: count > 2 ? -3 : 0,
			pan: count === 2 ? (channel === 0 ? -1 : 1) : 0
		}));
	}

	/** In words, what sounds now. */
	get words(): string {
		if (this.stage === 'master' && this.audition) return `You try: ${this.auditionWords(this.audition)}`;
		if (this.hearsLanes && this.double) {
			const [a, b] = this.double.map((id) => this.shoot.device(id)?.badge);
			return this.inEachEar
				? `You hear ${a} in the left ear, ${b} in the right`
				: `You hear ${a} and ${b} over each other`;
		}
		if (this.hearsLanes) {
			const names = [...new Set(this.channels.map((one) => one.deviceId))].map((id) => this.shoot.device(id)?.badge);
			return names.length > 0 ? `You hear lanes ${names.join(', ')}` : 'You hear nothing: all lanes are muted';
		}
		const { master } = this.shoot;
		if (master.length === 0) return 'The audience hears nothing yet: no master is chosen';
		const devices = [...new Set(master.map((one) => one.deviceId))];
		return `The audience hears: ${devices.map((id) => this.masterWords(id)).join('; ')}`;
	}

	/** The same at a moment: the master may have a gap there. */
	wordsAt(flicks: number): string {
		const { mixed } = this.sources;
		if (this.channels !== THE_MIX) return this.words;
		const turn = mixed.turns.findLast((one) => one.inFlicks <= flicks && one.outFlicks > flicks)?.turn;
		if (turn === 0) return this.words;
		if (turn === undefined) return 'The audience hears nothing here: the master has a gap';
		return `The audience hears, in a gap of the master: ${this.auditionWords({ channels: mixed.order[turn]! }, 0)}`;
	}

	private masterWords(deviceId: string): string {
		const device = this.shoot.device(deviceId);
		const names = this.shoot.master
			.filter((one) => one.deviceId === deviceId)
			.map((one) => device?.channelNames[one.channel] || `channel ${one.channel + 1}`);
		return `${device?.name ?? ''}, ${names.join(' + ')}`;
	}

	private auditionWords({ channels }: Audition, gainDb = this.matchingDb): string {
		const devices = [...new Set(channels.map((one) => one.deviceId))];
		const words = devices.map((deviceId) => {
			const device = this.shoot.device(deviceId);
			const own = channels.filter((one) => one.deviceId === deviceId);
			const names = own.map(({ channel }) => device?.channelNames[channel] || `channel ${channel + 1}`);
			return own.length === channelCount(this.shoot, deviceId)
				? (device?.name ?? '')
				: `${device?.name ?? ''}, ${names.join(' + ')}`;
		});
		const level = Math.abs(gainDb) < 0.05 ? '' : `, ${signedDecibels(gainDb)} to be as loud`;
		return `${words.join('; ')}${level}`;
	}
}

export function channelCount(shoot: ShootState, deviceId: string): number {
	return Math.max(
		0,
		...shoot.shoot.clips
			.filter((clip) => clip.deviceId === deviceId)
			.flatMap((clip) => clip.parts.map((part) => part.sound?.channels ?? 0))
	);
}

function isSame(a: Audition | undefined, b: Audition | undefined): boolean {
	return JSON.stringify(a?.channels) === JSON.stringify(b?.channels);
}

function toggled(set: ReadonlySet<string>, one: string): ReadonlySet<string> {
	const next = new Set(set);
	if (!next.delete(one)) next.add(one);
	return next;
}

const KEY = Symbol('listening');

export function provideListening(listening: Listening): void {
	setContext(KEY, listening);
}

export function useListening(): Listening {
	return getContext<Listening>(KEY);
}
