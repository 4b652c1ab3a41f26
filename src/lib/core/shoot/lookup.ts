import { type PlacedClip, placedEnd } from './clip';
import type { MasterChannel } from './decisions';
import type { Shoot } from './shoot';

/** Clips of one line-up, in order of time. */
export function placedClips(shoot: Pick<Shoot, 'clips'>, lineUpId: string): readonly PlacedClip[] {
	return shoot.clips
		.filter((clip): clip is PlacedClip => clip.placement?.lineUpId === lineUpId)
		.sort((a, b) => a.placement.startFlicks - b.placement.startFlicks);
}

/** A stretch of a line-up. */
export interface Range {
	readonly inFlicks: number;
	readonly outFlicks: number;
}

/** First and last moment of a line-up; both 0 when nothing is placed. */
export function lineUpRange(shoot: Shoot, lineUpId: string): Range {
	return rangeOf(placedClips(shoot, lineUpId));
}

/** First and last moment of placed clips; both 0 when there are none. */
export function rangeOf(clips: readonly PlacedClip[]): Range {
	let [inFlicks, outFlicks] = [Infinity, -Infinity];
	for (const clip of clips) {
		inFlicks = Math.min(inFlicks, clip.placement.startFlicks);
		outFlicks = Math.max(outFlicks, placedEnd(clip));
	}
	return clips.length === 0 ? { inFlicks: 0, outFlicks: 0 } : { inFlicks, outFlicks };
}

/** The device's clip that runs at a moment of a line-up. */
export function clipAt(clips: readonly PlacedClip[], deviceId: string, timelineFlicks: number): PlacedClip | undefined {
	return clips.find(
		(clip) =>
			clip.deviceId === deviceId && timelineFlicks >= clip.placement.startFlicks && timelineFlicks < placedEnd(clip)
	);
}

/** What the audience of a line-up hears. */
export function masterOf(shoot: Shoot, lineUpId: string): readonly MasterChannel[] {
	return shoot.lineUps.find((one) => one.id === lineUpId)?.master ?? [];
}
