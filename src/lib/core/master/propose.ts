import type { MasterChannel } from '../shoot/decisions';
import type { Device } from '../shoot/device';
import type { ShootLineUp } from '../shoot/line-up';
import { ROOM_NAMES } from '../people/propose';
import { asMaster, setAsMaster } from './as-master';
import { placedClips } from '../shoot/lookup';
import type { Shoot } from '../shoot/shoot';

/**
 * A first master of a line-up, until somebody chooses: the voices of the recorder, else of the camera, that runs longest
 * on it; of several as long the one whose clock counts as true.
 * @returns nothing where nothing on the line-up has sound
 */
export function proposedMaster(shoot: Shoot, { id, referenceDeviceId }: ShootLineUp): readonly MasterChannel[] {
	const clips = placedClips(shoot, id);
	const channelsOf = (device: Device) =>
		Math.max(
			0,
			...clips
				.filter((clip) => clip.deviceId === device.id)
				.flatMap((clip) => clip.parts.map((part) => part.sound?.channels ?? 0))
		);
	const secondsOf = (device: Device) =>
		clips.filter((clip) => clip.deviceId === device.id).reduce((sum, clip) => sum + clip.durationFlicks, 0);
	const rank = (device: Device) => [
		device.id === referenceDeviceId && device.kind === 'recorder' ? 1 : 0,
		device.kind === 'recorder' ? 1 : 0,
		secondsOf(device),
		device.id === referenceDeviceId ? 1 : 0
	];
	const [best] = shoot.devices
		.filter((device) => channelsOf(device) > 0)
		.sort((a, b) => firstDifference(rank(b), rank(a)));
	if (!best) return [];
	const count = channelsOf(best);
	const all = Array.from({ length: count }, (_, channel) => channel);
	const voices = count > 2 ? all.filter((channel) => !ROOM_NAMES.test(best.channelNames[channel] ?? '')) : all;
	// A pair is left and right only as a whole.
	const chosen = (voices.length > 0 ? voices : all).map((channel) => ({ deviceId: best.id, channel }));
	return count === 2 ? asMaster(chosen) : setAsMaster({ kind: 'close', channels: chosen });
}

function firstDifference(a: readonly number[], b: readonly number[]): number {
	return a.map((value, index) => value - b[index]!).find((difference) => difference !== 0) ?? 0;
}
