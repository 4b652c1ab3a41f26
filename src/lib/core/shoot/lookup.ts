import { type PlacedClip, placedEnd } from './clip';
import type { MasterChannel } from './decisions';
import type { Shoot } from './shoot';

/** Clips of one line-up, in order of time. */
export function placedClips(shoot: Shoot, lineUpId: string): readonly PlacedClip[] {
	return shoot.clips
		.filter((clip): clip is PlacedClip => clip.placement?.lineUpId === lineUpId)
		.sort((a, b) => a.placement.startFlicks - b.placement.startFlicks);
}

/** First and last moment of a line-up; both 0 when nothing is placed. */
export function lineUpRange(shoot: Shoot, lineUpId: string): { readonly inFlicks: number; readonly outFlicks: number } {
	const clips = placedClips(shoot, lineUpId);
	if (clips.length === 0) return { inFlicks: 0, outFlicks: 0 };
	return {
		inFlicks: Math.min(...clips.map((clip) => clip.placement.startFlicks)),
		outFlicks: Math.max(...clips.map(placedEnd))
	};
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
