export interface Device {
	readonly id: string;
	readonly folder: string;
	readonly name: string;
	/** A, B, C… for cameras; 1, 2, 3… for recorders. */
	readonly badge: string;
	readonly kind: 'camera' | 'recorder';
	/** Names of the channels, given by hand or as the files tell them; empty text where there is none. */
	readonly channelNames: readonly string[];
	/** Why its clips are taken for one device's. */
	readonly reasons: readonly string[];
	/** How far its microphone stands from where the sound is made. */
	readonly airMetres: number;
	/** Whether its clock's error is taken out. */
	readonly correctsDrift: boolean;
}

/** Badges as they are given at first: letters to cameras, numbers to recorders, in order. */
export function badgesFor(kinds: readonly Device['kind'][]): readonly string[] {
	let cameras = 0;
	let recorders = 0;
	return kinds.map((kind) => (kind === 'camera' ? letters(cameras++) : `${++recorders}`));
}

function letters(index: number): string {
	return index < 26 ? String.fromCharCode(65 + index) : letters(Math.floor(index / 26) - 1) + letters(index % 26);
}
