import { asPicture } from '../shoot/air-delay';
import { type ClipPart, placedEnd, type PlacedClip } from '../shoot/clip';
import { groupBy } from '../shoot/grouping';
import { courseOf, toTimeline } from '../shoot/placement';
import { type Course, courseAt, courseFrom } from '../time/course';

/** A file, and how its media time becomes the line-up's. */
export interface FileSource extends Course {
	readonly fileId: string;
	readonly clipId: string;
	readonly deviceId: string;
}

/** A stretch of the line-up, `[inFlicks, outFlicks)`, over which a device has pictures of one file. */
export interface Covered {
	readonly inFlicks: number;
	readonly outFlicks: number;
	readonly source: FileSource;
}

export function fileSource(clip: PlacedClip, part: ClipPart): FileSource {
	return {
		fileId: part.fileId,
		clipId: clip.id,
		deviceId: clip.deviceId,
		...courseFrom(courseOf(clip.placement), part.offsetFlicks)
	};
}

/**
 * Which pictures each device has, where: stretches in order that never overlap. Of two clips that do, the one that began
 * first goes on to its end. A part of a file that lies outside its clip, a file without picture or one that is gone
 * leaves a hole.
 */
export function pictureCoverage(clips: readonly PlacedClip[]): ReadonlyMap<string, readonly Covered[]> {
	const all: Covered[] = [];
	for (const clip of clips.map(asPicture)) for (const part of clip.parts) addStretch(all, clip, part);
	const devices = groupBy(all, (one) => one.source.deviceId);
	return new Map([...devices].map(([deviceId, own]) => [deviceId, oneAfterAnother(own)]));
}

function addStretch(stretches: Covered[], clip: PlacedClip, part: ClipPart): void {
	if (!part.picture || part.isMissing) return;
	const source = fileSource(clip, part);
	const inFlicks = Math.max(toTimeline(clip.placement, 0), courseAt(source, part.picture.startFlicks));
	const outFlicks = Math.min(placedEnd(clip), courseAt(source, part.durationFlicks));
	if (outFlicks > inFlicks) stretches.push({ inFlicks, outFlicks, source });
}

function oneAfterAnother(stretches: readonly Covered[]): readonly Covered[] {
	const sorted = [...stretches].sort((a, b) => a.inFlicks - b.inFlicks || a.outFlicks - b.outFlicks);
	const kept: Covered[] = [];
	for (const one of sorted) {
		const inFlicks = Math.max(one.inFlicks, kept.at(-1)?.outFlicks ?? -Infinity);
		if (one.outFlicks > inFlicks) kept.push({ inFlicks, outFlicks: one.outFlicks, source: one.source });
	}
	return kept;
}
