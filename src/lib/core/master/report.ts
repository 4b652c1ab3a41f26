import type { JudgedSource } from './judge';
import type { Points } from './rank';

/** A channel of a device, from 0. */
export interface ChannelKey {
	readonly deviceId: string;
	readonly channel: number;
}

export function isSameChannel(a: ChannelKey, b: ChannelKey): boolean {
	return a.deviceId === b.deviceId && a.channel === b.channel;
}

/** A stretch of a line-up in which a channel has a fault. */
export interface FaultyStretch {
	readonly inFlicks: number;
	readonly outFlicks: number;
}

/** A source as it was judged, its faults at their times of the line-up; its name is the device's to tell. */
export interface ReportedSource extends Omit<
	JudgedSource,
	'name' | 'clipped' | 'droppedOut' | 'loudestHumFrame' | 'loudestRumbleFrame'
> {
	readonly clipped: readonly FaultyStretch[];
	readonly droppedOut: readonly FaultyStretch[];
	readonly loudestHumFlicks?: number;
	readonly loudestRumbleFlicks?: number;
}

export interface ReportedSet extends Points {
	/** `close`: everybody's own microphone; `device`: what else one device has. */
	readonly kind: 'close' | 'device';
	readonly channels: readonly ChannelKey[];
	readonly coverage: number;
	readonly sentence: string;
}

/** What was measured and found on a line-up. */
export interface SourcesReport {
	/** Best first. */
	readonly sets: readonly ReportedSet[];
	readonly sources: readonly ReportedSource[];
	/** Whose figures the sources have, in their order. */
	readonly personIds: readonly string[];
	/** For each person, of what the comparison of microphones follows from; left out until that is done. */
	readonly microphones?: Readonly<Record<string, string>>;
	readonly speech: readonly {
		readonly personId: string;
		readonly inFlicks: number;
		readonly outFlicks: number;
		readonly confidence: number;
	}[];
}
