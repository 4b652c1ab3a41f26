import type { Track } from '../measure/channel-readings';
import type { SoundMeasures } from '../measure/sound-measures';

/** A channel of a device, as it is heard over a stretch of a line-up. */
export interface HeardChannel {
	readonly deviceId: string;
	/** From 0. */
	readonly channel: number;
	readonly name: string;
	/** Share of the stretch in which it runs. */
	readonly coverage: number;
	readonly track: Track;
	readonly sound: SoundMeasures;
	/** A channel of the same device that holds the same. */
	readonly sameAs?: number;
}

/** A person, with his channels by their places in the list, closest first. */
export interface SpeakingPerson {
	readonly name: string;
	readonly channels: readonly number[];
}
