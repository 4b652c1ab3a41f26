import { AS_RECORDED, type MasterChannel } from '../shoot/decisions';
import type { ChannelKey, ReportedSet } from './report';

/** Channels of one device as a master: two are left and right, any other number plays on both sides. */
export function asMaster(channels: readonly ChannelKey[]): readonly MasterChannel[] {
	const isPair = channels.length === 2;
	return channels.map(({ deviceId, channel }, index) => ({
		...AS_RECORDED,
		deviceId,
		channel,
		pan: isPair ? (index === 0 ? -1 : 1) : 0
	}));
}

/** A set as a master: the close microphones of people are no left and right, even if there are two. */
export function setAsMaster({ kind, channels }: Pick<ReportedSet, 'kind' | 'channels'>): readonly MasterChannel[] {
	return kind === 'device'
		? asMaster(channels)
		: channels.map(({ deviceId, channel }) => ({ ...AS_RECORDED, deviceId, channel }));
}
