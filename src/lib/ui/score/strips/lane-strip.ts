import type { PlacedClip } from '../../../core/shoot/clip';
import { courseOf } from '../../../core/shoot/placement';
import { courseAt, straightBetween } from '../../../core/time/course';
import { FLICKS_PER_SECOND } from '../../../core/time/flicks';
import { pictureFileOf } from '../../playback/wall-files';
import { type Mapping, xOf } from '../mapping';
import { drawStrip } from './draw-strip';
import type { StripDrawing } from './strip-store';

/** Lower lanes are left to the waveforms; one without sound needs less. */
const MIN_LANE_WITH_SOUND = 44;
const MIN_LANE_WITHOUT_SOUND = 30;
/** What a strip takes of a lane that has sound. */
const SHARE = 0.5;
const MAX_HEIGHT = 64;
/** Between a lane's edge and its pictures. */
const EDGE = 3;

/** How high a clip's strip is in a lane; 0 where there is none. */
export function stripHeight(clip: PlacedClip, laneHeight: number): number {
	if (!clip.parts.some((part) => part.picture && !part.isMissing)) return 0;
	const hasSound = clip.parts.some((part) => part.sound);
	if (laneHeight < (hasSound ? MIN_LANE_WITH_SOUND : MIN_LANE_WITHOUT_SOUND)) return 0;
	const room = laneHeight - 2 * EDGE;
	return Math.min(MAX_HEIGHT, hasSound ? Math.round(SHARE * room) : room);
}

/** Key pictures along a clip, at the top of its lane. */
export function drawLaneStrip(
	context: CanvasRenderingContext2D,
	clip: PlacedClip,
	laneY: number,
	height: number,
	view: Mapping,
	drawing: StripDrawing
): void {
	const seenFlicks = view.startFlicks + view.width * view.flicksPerPixel;
	// What is seen at a time is straight enough.
	const line = straightBetween(courseOf(clip.placement), view.startFlicks, seenFlicks);
	for (const part of clip.parts) {
		if (!part.picture || part.isMissing) continue;
		const { shown, startFlicks } = part.picture;
		const stretch = {
			file: pictureFileOf(part),
			x: xOf(view, courseAt(line, part.offsetFlicks + startFlicks)),
			toX: xOf(view, courseAt(line, part.offsetFlicks + part.durationFlicks)),
			y: laneY + EDGE,
			height,
			aspect: shown.width / shown.height,
			seconds: 0,
			secondsPerPixel: view.flicksPerPixel / FLICKS_PER_SECOND / line.rateFactor
		};
		drawStrip(context, stretch, view.width, drawing);
	}
}
