import type { ChannelKey } from '../../../core/master/report';
import { type MasterChannel, type Mix, USUAL_MIX } from '../../../core/shoot/decisions';
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

export function chooseMaster(shoot: ShootState, channels: readonly MasterChannel[]): void {
	changeMaster(shoot, () => channels);
}

/** @param change of the master as it is when its turn comes: what was asked for before may still be under way */
export function changeMaster(
	shoot: ShootState,
	change: (master: readonly MasterChannel[]) => readonly MasterChannel[] | undefined
): void {
	void shoot.editLineUp((lineUpId) => {
		const channels = change(shoot.master);
		return channels && { kind: 'set-master', lineUpId, channels };
	});
}

/** Changes how the channels become what the audience hears. */
export function setMix(shoot: ShootState, part: Partial<Mix>): void {
	void shoot.editLineUp((lineUpId) => ({
		...(shoot.lineUp?.mix ?? USUAL_MIX),
		...part,
		kind: 'set-mix',
		lineUpId
	}));
}

/** What channels are called together: their device, with their names unless it is all of it. */
export function titleOf(shoot: ShootState, channels: readonly ChannelKey[]): string {
	const devices = [...new Set(channels.map((one) => one.deviceId))];
	return devices
		.map((deviceId) => {
			const own = channels.filter((one) => one.deviceId === deviceId);
			const name = shoot.device(deviceId)?.name ?? '';
			return own.length === channelCount(shoot, deviceId)
				? name
				: `${name}: ${own.map((one) => channelWords(shoot, one)).join(' + ')}`;
		})
		.join('; ');
}

/** What a channel is called: its name, or its number. */
export function channelWords(shoot: ShootState, { deviceId, channel }: ChannelKey): string {
	return shoot.device(deviceId)?.channelNames[channel] || `channel ${channel + 1}`;
}
