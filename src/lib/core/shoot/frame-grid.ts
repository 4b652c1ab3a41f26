import { asPicture } from './air-delay';
import type { PlacedClip } from './clip';
import { flicksPerFrame } from '../time/flicks';
import type { Rational } from '../time/rational';

/** Where a clip's picture begins on the frame grid, and what that leaves over. */
export interface GridPlace {
	/** Frame of the line-up that its start is nearest to. */
	readonly videoFrame: number;
	/** How much later than that frame it really begins: at most half a frame to either side. */
	readonly remainderFlicks: number;
}

/** Sound moves by samples, picture by frames: the difference is kept and told. */
export function gridPlace(clip: PlacedClip, rate: Rational): GridPlace {
	const frame = flicksPerFrame(rate);
	const start = asPicture(clip).placement.startFlicks;
	const videoFrame = Math.round(start / frame);
	return { videoFrame, remainderFlicks: Math.round(start - videoFrame * frame) };
}
