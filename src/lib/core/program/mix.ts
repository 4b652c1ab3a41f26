import { decibelsToFactor, panGains } from '../master/gains';
import { LOW_CUT_RUN_UP_SECONDS, LowCut } from '../signal/low-cut';
import { FLICKS_PER_SECOND } from '../time/flicks';
import { readCurve } from './gain-curve';
import type { MixedChannel, SoundInterval } from './mixed-sound';
import { fadeGain } from './sound-runs';

/** So many samples before what is wanted an interval must be given, so that what was before does not matter. */
export function runUpSamples({ channels }: SoundInterval, sampleRate: number): number {
	return channels.some((one) => one.lowCutHz > 0) ? Math.ceil(LOW_CUT_RUN_UP_SECONDS * sampleRate) : 0;
}

/** Both sides of a mix. */
export interface Sides {
	readonly left: Float32Array;
	readonly right: Float32Array;
}

/** A stretch of an interval, on whole samples of the line-up. */
export interface MixStretch {
	/** A row for each of the interval's channels, in their order: as recorded, on the line-up's clock. */
	readonly rows: readonly Float32Array[];
	/** Line-up time of the rows' first sample. */
	readonly fromFlicks: number;
	/** Samples of the rows that lead up to the first one that is heard. */
	readonly runUp: number;
}

/**
 * Adds an interval of the plan to a mix, stretch after stretch: levels, sides, polarity, low cuts, openings, fades. The page and the
 * movie both take it.
 * @returns takes the next stretch, and adds it to both sides from a place on
 */
export function mixer(
	{ run, part, channels }: SoundInterval,
	sampleRate: number
): (stretch: MixStretch, sides: Sides, at: number) => void {
	const voices = channels.map((one) => voice(one, sampleRate));
	const flicksPerSample = FLICKS_PER_SECOND / sampleRate;
	return ({ rows, fromFlicks, runUp }, { left, right }, at) => {
		const count = rows[0]?.length ?? 0;
		const isLevel = [run, part].every(
			(one) => fromFlicks >= one.fadedInFlicks && fromFlicks + count * flicksPerSample <= one.fadesOutFlicks
		);
		for (const [index, { cut, levelAt, toLeft, toRight }] of voices.entries()) {
			const row = rows[index]!;
			for (let i = 0; i < count; i++) {
				const value = cut ? cut.next(row[i]!) : row[i]!;
				if (i < runUp) continue;
				let heard = value;
				if (!isLevel || levelAt) {
					const flicks = fromFlicks + i * flicksPerSample;
					if (!isLevel) heard *= fadeGain(run, flicks) * fadeGain(part, flicks);
					if (levelAt) heard *= levelAt(flicks);
				}
				const place = at + i - runUp;
				left[place]! += heard * toLeft;
				right[place]! += heard * toRight;
			}
		}
	};
}

interface Voice {
	readonly cut: LowCut | undefined;
	readonly levelAt: ((flicks: number) => number) | undefined;
	readonly toLeft: number;
	readonly toRight: number;
}

function voice({ gainDb, pan, isInverted, lowCutHz, curve }: MixedChannel, sampleRate: number): Voice {
	const [left, right] = panGains(pan);
	const factor = decibelsToFactor(gainDb) * (isInverted ? -1 : 1);
	return {
		cut: lowCutHz > 0 ? new LowCut(lowCutHz, sampleRate) : undefined,
		levelAt: curve && readCurve(curve),
		toLeft: left * factor,
		toRight: right * factor
	};
}
