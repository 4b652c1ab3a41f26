import { getContext, setContext } from 'svelte';
import type { HeardChannel } from '../playback/transport.svelte';
import type { ShootState } from './shoot-state.svelte';
import type { Stage } from './stages';

export interface Audition {
	readonly deviceId: string;
	/** Nothing for all its channels. */
	readonly channel?: number;
}

/** What the editor listens to. Listening levels never change what leaves. */
export class Listening {
	stage = $state<Stage>('gather');
	private muted = $state.raw<ReadonlySet<string>>(new Set());
	private soloed = $state.raw<ReadonlySet<string>>(new Set());
	/** In Master: the source, or one channel of it, that is tried; nothing for the master itself. */
	audition = $state.raw<Audition>();
	private touched = $state(false);
	/** In Prove: two devices, and nothing else. */
	double = $state.raw<readonly [string, string]>();
	/** One of the two in each ear; otherwise mixed. */
	inEachEar = $state(false);

	constructor(private readonly shoot: ShootState) {}

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
		return this.channels.some((one) => one.deviceId === deviceId);
	}

	get channels(): readonly HeardChannel[] {
		if (this.stage === 'master' && this.audition) return this.auditioned(this.audition);
		if (!this.hearsLanes) return this.shoot.master;
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

	private auditioned({ deviceId, channel }: Audition): readonly HeardChannel[] {
		return channel === undefined ? this.channelsOf(deviceId) : [{ deviceId, channel, gainDb: 0, pan: 0 }];
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

	private masterWords(deviceId: string): string {
		const device = this.shoot.device(deviceId);
		const names = this.shoot.master
			.filter((one) => one.deviceId === deviceId)
			.map((one) => device?.channelNames[one.channel] || `channel ${one.channel + 1}`);
		return `${device?.name ?? ''}, ${names.join(' + ')}`;
	}

	private auditionWords({ deviceId, channel }: Audition): string {
		const device = this.shoot.device(deviceId);
		const name = device?.name ?? '';
		return channel === undefined ? name : `${name}, ${device?.channelNames[channel] || `channel ${channel + 1}`}`;
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
