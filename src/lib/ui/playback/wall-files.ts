import type { Clip, ClipPart } from '../../core/shoot/clip';
import { type Placement, toTimeline } from '../../core/shoot/placement';
import type { WallFile } from './wall-messages';

/** A clip's small pictures as the wall plays them, as far as they are made; without a placement in the clip's own time. */
export function wallFilesOf(clip: Clip, placement?: Placement): readonly WallFile[] {
	const place = (mediaFlicks: number) => (placement ? toTimeline(placement, mediaFlicks) : mediaFlicks);
	return clip.parts.flatMap((part): WallFile[] => {
		const playable = playableFlicks(part);
		if (!part.picture || playable === 0) return [];
		return [
			{
				identity: part.identity,
				isWhole: part.picture.proxyReady,
				deviceId: clip.deviceId,
				firstPictureFlicks: place(part.offsetFlicks + part.picture.startFlicks),
				endFlicks: place(part.offsetFlicks + playable),
				rateFactor: 1 + (placement?.ratePpm ?? 0) * 1e-6
			}
		];
	});
}

/** How far into a file its small picture can be played, from the file's media time 0. */
export function playableFlicks({ picture, durationFlicks }: ClipPart): number {
	if (!picture) return 0;
	if (picture.proxyReady) return durationFlicks;
	return picture.proxyFlicks ? Math.min(durationFlicks, picture.startFlicks + picture.proxyFlicks) : 0;
}
