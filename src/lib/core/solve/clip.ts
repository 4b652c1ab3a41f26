/** A clip as the engine takes it: what is known of it. Its sound is asked for through a `Comparer`. */
export interface AlignableClip {
	readonly id: string;
	readonly device: string;
	readonly hasPicture: boolean;
	/** 0 where it has no sound. */
	readonly channels: number;
	readonly durationSeconds: number;
	/** Media time of the first sample; later than 0 where the picture starts before the sound. */
	readonly soundStartSeconds: number;
	/** Length of its sound; 0 where it has none. */
	readonly soundSeconds: number;
	readonly sampleRate?: number;
	/** Timecode of media time 0. */
	readonly clock?: ClipClock;
	/** When its file was made, ISO 8601, as it tells (see `clockTimes`). */
	readonly recordedAt?: string;
	/** Where it lies already and must stay. */
	readonly fixed?: FixedPlace;
}

/** A clip's timecode as time. */
export interface ClipClock {
	/** Seconds since midnight, as its frames or samples count them. */
	readonly seconds: number;
	/** Length of its day: 24 hours of labels at 29.97 without drop-frame last 86 486.4 s. */
	readonly daySeconds: number;
	/** What it counts in: a frame, or a sample. */
	readonly frameSeconds: number;
}

export interface FixedPlace {
	readonly lineUp: string;
	readonly startSeconds: number;
	readonly ratePpm: number;
}

/** How much a clip's sound is worth: length counts, several channels help, a camera's own microphone comes after a recorder's. */
export function soundWorth(clip: AlignableClip): number {
	return clip.soundSeconds * (clip.hasPicture ? 0.4 : 1) * (clip.channels > 2 ? 1.3 : 1);
}
