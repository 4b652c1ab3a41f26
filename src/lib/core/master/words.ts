import type { Shoot } from '../shoot/shoot';

/** Whom a channel is closest to, of several each. */
export function peopleOnChannel(shoot: Pick<Shoot, 'people'>, deviceId: string, channel: number): readonly string[] {
	return shoot.people
		.filter(({ channels }) => channels.some((one) => one.deviceId === deviceId && one.channel === channel))
		.map((person) => person.name);
}

/** What a channel is called where its device is named too: by its name, else the people it hears, else its number. */
export function channelTitle(shoot: Pick<Shoot, 'people' | 'devices'>, deviceId: string, channel: number): string {
	const name = shoot.devices.find((device) => device.id === deviceId)?.channelNames[channel];
	const people = peopleOnChannel(shoot, deviceId, channel);
	return name || people.join(', ') || `channel ${channel + 1}`;
}

/** What the audience hears, in words: each device with its channels. */
export function masterTitle(
	shoot: Pick<Shoot, 'people' | 'devices'>,
	master: readonly { readonly deviceId: string; readonly channel: number }[]
): string {
	const devices = [...new Set(master.map((one) => one.deviceId))];
	return devices
		.map((id) => {
			const device = shoot.devices.find((one) => one.id === id);
			const own = master.filter((one) => one.deviceId === id).map((one) => channelTitle(shoot, id, one.channel));
			return `${device?.name ?? ''}: ${own.join(' + ')}`;
		})
		.join('; ');
}
