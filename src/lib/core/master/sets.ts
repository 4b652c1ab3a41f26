import type { HeardChannel, SpeakingPerson } from './heard-channel';

/** Channels that the audience could hear together. */
export interface SetOfChannels {
	/** `close`: everybody's own microphone; `device`: what else one device has. */
	readonly kind: 'close' | 'device';
	/** By their places in the list of channels. */
	readonly channels: readonly number[];
}

/** Sets that are worth comparing: the close microphones together, and each device's channels that are no person's. */
export function setsOf(channels: readonly HeardChannel[], people: readonly SpeakingPerson[]): readonly SetOfChannels[] {
	const isUsable = (index: number) => !channels[index]!.sound.isDead && channels[index]!.sameAs === undefined;
	const close = people.flatMap((person) => person.channels.slice(0, 1)).filter(isUsable);
	const devices = [...new Set(channels.map((one) => one.deviceId))];
	const others = devices.map((deviceId) =>
		[...channels.keys()].filter(
			(index) => channels[index]!.deviceId === deviceId && !close.includes(index) && isUsable(index)
		)
	);
	return [
		...(close.length > 0 ? [{ kind: 'close' as const, channels: close }] : []),
		...others.filter((own) => own.length > 1).map((own) => ({ kind: 'device' as const, channels: own }))
	];
}
