import { factorAt } from '../../core/program/gain-curve';
import type { SoundInterval } from '../../core/program/mixed-sound';
import { type Mapping, xOf } from './mapping';

/** Lanes of at least this height have room for curves. */
const LEAST_HEIGHT = 14;
/** A curve is looked up this often. */
const STEP_PIXELS = 2;
const DASHES: readonly (readonly number[])[] = [[], [5, 3], [2, 3], [8, 3, 2, 3]];

/**
 * How far open the channels of a device are over time, over its waveform: at the top of the lane all the way, at its bottom not at
 * all. Channels are told apart by their dashes.
 * @param intervals of the mix, those of the device
 */
export function drawOpenings(
	context: CanvasRenderingContext2D,
	intervals: readonly SoundInterval[],
	lane: { readonly y: number; readonly height: number },
	view: Mapping,
	colour: string
): void {
	if (lane.height < LEAST_HEIGHT) return;
	context.save();
	context.strokeStyle = colour;
	context.lineWidth = 1.5;
	for (const { inFlicks, outFlicks, channels } of intervals) {
		const [from, to] = [Math.max(0, xOf(view, inFlicks)), Math.min(view.width, xOf(view, outFlicks))];
		if (to <= from) continue;
		for (const [index, { curve }] of channels.filter((one) => one.curve).entries()) {
			context.setLineDash([...DASHES[index % DASHES.length]!]);
			context.beginPath();
			for (let x = from; x <= to; x += STEP_PIXELS) {
				const factor = factorAt(curve!, view.startFlicks + x * view.flicksPerPixel);
				context.lineTo(x, lane.y + 2 + (lane.height - 4) * (1 - Math.min(1, factor)));
			}
			context.stroke();
		}
	}
	context.restore();
}
