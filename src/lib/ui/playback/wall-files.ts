import type { Coverage, Plan } from '../../core/program/compile';
import type { Clip, ClipPart, PlacedClip } from '../../core/shoot/clip';
import { courseAt, courseFrom } from '../../core/time/course';
import { videoFrameToFlicks } from '../../core/time/flicks';
import type { WallAir, WallFile } from './wall-messages';

/** The small pictures of all angles as the wall plays them, as far as they are made: each where the plan has them. */
export function wallFiles(placed: readonly PlacedClip[], { pictures }: Coverage): readonly WallFile[] {
	const parts = new Map(placed.flatMap((clip) => clip.parts.map((part) => [part.fileId, part] as const)));
	return [...pictures.values()].flat().flatMap(({ inFlicks, outFlicks, source }): WallFile[] => {
		const part = parts.get(source.fileId)!;
		const playable = playableFlicks(part);
		const endFlicks = Math.min(outFlicks, courseAt(source, playable));
		if (!part.picture || endFlicks <= inFlicks) return [];
		return [
			{
				identity: part.identity,
				isWhole: part.picture.proxyReady,
				deviceId: source.deviceId,
				beginFlicks: inFlicks,
				endFlicks,
				course: courseFrom(source, part.picture.startFlicks)
			}
		];
	});
}

/** One clip's small pictures in the clip's own time, wherever it lies. */
export function clipFiles(clip: Clip): readonly WallFile[] {
	return clip.parts.flatMap((part): WallFile[] => {
		const playable = playableFlicks(part);
		if (!part.picture || playable === 0) return [];
		const firstPictureFlicks = part.offsetFlicks + part.picture.startFlicks;
		return [
			{
				identity: part.identity,
				isWhole: part.picture.proxyReady,
				deviceId: clip.deviceId,
				beginFlicks: firstPictureFlicks,
				endFlicks: part.offsetFlicks + playable,
				course: { startFlicks: firstPictureFlicks, rateFactor: 1 }
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

/** What the plan has on air, for the wall. */
export function wallAir({ pictures, rate }: Plan): readonly WallAir[] {
	return pictures.map(({ fromFrame, toFrame, shown }) => ({
		inFlicks: videoFrameToFlicks(fromFrame, rate),
		outFlicks: videoFrameToFlicks(toFrame, rate),
		...(shown.kind === 'black' ? {} : { deviceId: shown.source.deviceId }),
		...(shown.kind === 'held' ? { heldFlicks: videoFrameToFlicks(shown.heldFrame, rate) } : {})
	}));
}
