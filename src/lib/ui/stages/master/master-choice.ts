import type { ChannelKey } from '../../../core/master/report';
import type { MasterChannel } from '../../../core/shoot/decisions';
import { channelCount } from '../../state/listening.svelte';
import type { ShootState } from '../../state/shoot-state.svelte';

/** Whether the master is of these channels, whatever their levels. */
export function isMasterOf(master: readonly MasterChannel[], channels: readonly ChannelKey[]): boolean {
	return (
		master.length === channels.length &&
		channels.every((one) => master.some((own) => own.deviceId === one.deviceId && own.channel === one.channel))
	);
}

/** Every channel of every device that has sound on the line-up, device by device. */
export function allChannels(shoot: ShootState): readonly ChannelKey[] {
	return shoot.shoot.devices
		.filter((device) =>
			shoot.placed.some((clip) => clip.deviceId === device.id && clip.parts.some((part) => part.sound))
		)
		.flatMap((device) =>
			Array.from({ length: channelCount(shoot, device.id) }, (_, channel) => ({ deviceId: device.id, channel }))
		);
}

export function chooseMaster(shoot: ShootState, channels: readonly MasterChannel[]): Promise<boolean> {
	return shoot.editLineUp((lineUpId) => ({ kind: 'set-master', lineUpId, channels }));
}

/** What a channel is called: its name, or its number. */
export function channelWords(shoot: ShootState, { deviceId, channel }: ChannelKey): string {
	return shoot.device(deviceId)?.channelNames[channel] || `channel ${channel + 1}`;
}
