import type { Clip, PlacedClip } from '../../core/shoot/clip';
import type { StoredProgram } from '../../core/shoot/decisions';
import type { Device } from '../../core/shoot/device';
import type { ShootLineUp } from '../../core/shoot/line-up';
import type { Person } from '../../core/shoot/person';
import type { Shoot } from '../../core/shoot/shoot';
import { ShootError } from './shoot-error';

/** Parts of a shoot by their identities; each throws a ShootError that says what is not there. */

export function deviceOf(shoot: Shoot, id: string): Device {
	const device = shoot.devices.find((one) => one.id === id);
	if (!device) throw new ShootError('no-such-device', 'There is no such device in this shoot.');
	return device;
}

export function cameraOf(shoot: Shoot, id: string, sentence: string): Device {
	const device = deviceOf(shoot, id);
	if (device.kind !== 'camera') throw new ShootError('not-a-camera', sentence);
	return device;
}

export function clipOf(shoot: Shoot, id: string): Clip {
	const clip = shoot.clips.find((one) => one.id === id);
	if (!clip) throw new ShootError('no-such-clip', 'There is no such clip in this shoot.');
	return clip;
}

export function clipsOf(shoot: Shoot, ids: readonly string[]): readonly Clip[] {
	if (ids.length === 1) return [clipOf(shoot, ids[0]!)];
	const byId = new Map(shoot.clips.map((clip) => [clip.id, clip]));
	return ids.map((id) => byId.get(id) ?? clipOf(shoot, id));
}

export function lineUpOf(shoot: Shoot, id: string): ShootLineUp {
	const lineUp = shoot.lineUps.find((one) => one.id === id);
	if (!lineUp) throw new ShootError('no-such-line-up', 'There is no such line-up in this shoot.');
	return lineUp;
}

export function personOf(shoot: Shoot, id: string): Person {
	const person = shoot.people.find((one) => one.id === id);
	if (!person) throw new ShootError('no-such-person', 'There is no such person in this shoot.');
	return person;
}

export function programOf(shoot: Shoot, lineUpId: string): StoredProgram {
	const program = shoot.programs.find((one) => one.lineUpId === lineUpId);
	if (!program) throw new ShootError('no-program', 'There is no program yet: line up the clips first.');
	return program;
}

/** @throws ShootError it has no place */
export function placedClip(clip: Clip): PlacedClip {
	if (!clip.placement) throw new ShootError('not-placed', `${clip.name} has no place on a line-up yet.`);
	return clip as PlacedClip;
}

/** @throws ShootError it has no place, or is locked */
export function movableClip(clip: Clip): PlacedClip {
	return unlockedClip(placedClip(clip)) as PlacedClip;
}

/** @throws ShootError it is locked */
export function unlockedClip(clip: Clip): Clip {
	if (clip.placement?.isLocked) throw new ShootError('locked', `${clip.name} is locked. Unlock it to move it.`);
	return clip;
}

/** One by its name, several by their number. */
export function clipWords(clips: readonly { readonly name: string }[]): string {
	return clips.length === 1 ? clips[0]!.name : `${clips.length} clips`;
}
