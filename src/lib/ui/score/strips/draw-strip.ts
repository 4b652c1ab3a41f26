import type { OriginalFile } from '../../playback/original-pictures';
import { STRIP_GRID_SECONDS, type StripDrawing } from './strip-store';

/** A stretch of a strip, in points of the canvas. */
export interface StripStretch {
	readonly file: OriginalFile;
	/** Where its pictures begin to be laid, which may lie outside what is seen. */
	readonly x: number;
	readonly toX: number;
	readonly y: number;
	readonly height: number;
	/** Width of a picture by its height. */
	readonly aspect: number;
	/** Time since the file's first picture at `x`, and what a point makes. */
	readonly seconds: number;
	readonly secondsPerPixel: number;
	/** Where one picture is held: its time, for all of the stretch. */
	readonly heldSeconds?: number;
}

/** A picture that stands in for one that has not come yet. */
const STAND_IN_ALPHA = 0.4;

/** A row of pictures, each from the time that its left edge stands for, or a little before. */
export function drawStrip(
	context: CanvasRenderingContext2D,
	stretch: StripStretch,
	seenWidth: number,
	drawing: StripDrawing
): void {
	const { x, toX, y, height, secondsPerPixel } = stretch;
	const width = height * stretch.aspect;
	const step = stepOf(width * secondsPerPixel);
	const left = Math.max(0, x);
	const right = Math.min(seenWidth, toX);
	if (right <= left) return;
	context.save();
	context.beginPath();
	context.rect(left, y, right - left, height);
	context.clip();
	for (let index = Math.floor((left - x) / width); x + index * width < right; index++) {
		const seconds = stretch.heldSeconds ?? stretch.seconds + index * width * secondsPerPixel;
		const at = Math.max(0, Math.floor(seconds / STRIP_GRID_SECONDS / step) * step);
		const shown = drawing.picture(stretch.file, at, step);
		if (!shown) continue;
		context.globalAlpha = shown.isDue ? 1 : STAND_IN_ALPHA;
		context.drawImage(shown.picture, x + index * width, y, width, height);
	}
	context.restore();
}

/** How far apart pictures are asked for, in the grid: such that few zooms ask for others. */
function stepOf(seconds: number): number {
	return 2 ** Math.max(0, Math.floor(Math.log2(seconds / STRIP_GRID_SECONDS)));
}
