import {
	BENEATH_STEPS,
	CEILING_STEPS,
	FLAT_TOP_SAMPLES,
	FLAT_TOP_TIMES,
	MIN_PILE,
	MIN_PILE_TIMES,
	PASSAGE_SECONDS,
	PILE_STEPS,
	USUAL_STEPS
} from '../limits/measure';
import { shareOfCounts } from '../signal/byte-shares';
import type { ChannelReadings } from './channel-readings';
import { BLOCKS_A_SECOND, FRAMES_A_SECOND } from './readings';

/** Frames of the line-up, `[fromFrame, toFrame)`. */
export interface FrameRange {
	readonly fromFrame: number;
	readonly toFrame: number;
}

export interface Clipping {
	/** Of all 5 ms. */
	readonly share: number;
	readonly passages: readonly FrameRange[];
}

/**
 * Sound that was cut off: its peaks pile up at a ceiling, wherever that lies, far more of them than just beneath, and their
 * tops are wider than those of usual peaks. That stays so when cut sound was made softer, brought to another rate or coded
 * afterwards, which lets some peaks stand over the ceiling. Peaks that a limiter has brought to one height stay narrow.
 */
export function clipping(readings: ChannelReadings): Clipping {
	const { peaks, tops } = readings;
	const counts = new Uint32Array(256);
	for (let i = 0; i < peaks.length; i++) counts[peaks[i]!]!++;
	const ceiling = ceilingOf(counts);
	const least = ceiling - PILE_STEPS;
	const near = sumOf(counts, least, ceiling + PILE_STEPS);
	const beneath = sumOf(counts, least - BENEATH_STEPS, least - 1) / BENEATH_STEPS;
	const isPiled = near >= MIN_PILE && near > MIN_PILE_TIMES * (2 * PILE_STEPS + 1) * beneath;
	const isFlat = () =>
		medianTop(peaks, tops, least, ceiling + 1) >=
		Math.max(FLAT_TOP_SAMPLES, FLAT_TOP_TIMES * medianTop(peaks, tops, least - USUAL_STEPS, least - 1));
	if (!isPiled || !isFlat()) return { share: 0, passages: [] };
	return {
		share: sumOf(counts, least, 255) / peaks.length,
		passages: passagesOf(readings, (block) => peaks[block]! >= least)
	};
}

/** The level near the greatest at which most peaks stand. */
function ceilingOf(counts: Uint32Array): number {
	const greatest = counts.findLastIndex((count) => count > 0);
	let best = greatest;
	for (let level = greatest; level > greatest - CEILING_STEPS && level > 0; level--)
		if (sumOf(counts, level - 1, level + 1) > sumOf(counts, best - 1, best + 1)) best = level;
	return best;
}

function sumOf(counts: Uint32Array, from: number, to: number): number {
	let sum = 0;
	for (let level = Math.max(0, from); level <= Math.min(255, to); level++) sum += counts[level]!;
	return sum;
}

/** How wide the tops are of peaks between two levels: low voices have wider ones. */
function medianTop(peaks: Uint8Array, tops: Uint8Array, from: number, to: number): number {
	const widths = new Uint32Array(256);
	for (let i = 0; i < peaks.length; i++) if (peaks[i]! >= from && peaks[i]! <= to) widths[tops[i]!]!++;
	return shareOfCounts(widths, 0.5);
}

/** Blocks with a fault, those near each other together. */
function passagesOf({ frames, seconds }: ChannelReadings, isFaulty: (block: number) => boolean): readonly FrameRange[] {
	const passages: { fromFrame: number; toFrame: number }[] = [];
	const framesABlock = FRAMES_A_SECOND / BLOCKS_A_SECOND;
	for (let second = 0; second < seconds; second++)
		for (let block = 0; block < BLOCKS_A_SECOND; block++) {
			if (!isFaulty(second * BLOCKS_A_SECOND + block)) continue;
			const frame = frames[second]! + block * framesABlock;
			const last = passages.at(-1);
			if (last && frame - last.toFrame < PASSAGE_SECONDS * FRAMES_A_SECOND) last.toFrame = frame + framesABlock;
			else passages.push({ fromFrame: frame, toFrame: frame + framesABlock });
		}
	return passages;
}
