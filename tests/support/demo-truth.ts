import { CLAPPER, clockRateFactor, DEVICES, type DevicePlan, MOUTH_HEIGHT, MUSICIAN, PEOPLE } from '../../demo/scene';
import { distance } from '../../demo/sound';

export interface TrueClip {
	readonly path: string;
	readonly device: string;
	/** Where the clip's clock puts it, in the evening's seconds. */
	readonly clockStartSeconds: number;
	readonly ratePpm: number;
	/** Earliest and latest that sound from the three chairs reaches the nearest microphone of the device. */
	readonly airDelaySeconds: readonly [least: number, most: number];
}

const SPEED_OF_SOUND = 343; // metres a second at 20 °C, handbook value

/** All places on the stage that sound comes from: three mouths, the hands that clap, the musician. */
const SOURCES = [
	...PEOPLE.map((person) => ({ x: person.seat.x, y: MOUTH_HEIGHT, z: person.seat.z })),
	CLAPPER,
	MUSICIAN
];

function airDelay(device: DevicePlan): readonly [number, number] {
	if (device.microphones.length === 0) return [0, 0];
	const delays = SOURCES.map(
		(source) => Math.min(...device.microphones.map((microphone) => distance(source, microphone))) / SPEED_OF_SOUND
	);
	return [Math.min(...delays), Math.max(...delays)];
}

/**
 * The AC-3 encoder puts 256 samples of its own before the sound (A/52, from memory; ffprobe shows the picture starting
 * that much later). They are presented, so media time 0 lies before what the generator calls the clip's start.
 */
const AC3_PRIMING_SECONDS = 256 / 48_000;

/** The demo generator's own knowledge of where everything lies. */
export function demoTruth(): readonly TrueClip[] {
	return DEVICES.flatMap((device) =>
		device.clips.map((clip) => ({
			path: clip.path,
			device: device.folder,
			clockStartSeconds: clip.startSeconds - (clip.path.endsWith('.MTS') ? AC3_PRIMING_SECONDS : 0),
			ratePpm: (clockRateFactor(device) - 1) * 1e6,
			airDelaySeconds: airDelay(device)
		}))
	);
}
