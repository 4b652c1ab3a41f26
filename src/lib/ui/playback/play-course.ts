import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import { LISTENING_RATE } from './listening-sound';

const FLICKS_PER_SAMPLE = FLICKS_PER_SECOND / LISTENING_RATE;

/** A stretch of the line-up that is played round and round. */
export interface Loop {
	readonly inFlicks: number;
	readonly outFlicks: number;
}

/** Which moment of the line-up sounds so many samples after playing began. Loops are whole samples long. */
export interface PlayCourse {
	/** @param samples since the beginning; fractions are moments between two samples */
	at(samples: number): number;
	/** How many samples from there on the line-up goes on without a jump. */
	untilJump(samples: number): number;
}

/** @param loop is entered from before its end; from behind it, playing goes straight on */
export function playCourse(fromFlicks: number, loop: Loop | undefined): PlayCourse {
	if (!loop || fromFlicks >= loop.outFlicks)
		return { at: (samples) => fromFlicks + samples * FLICKS_PER_SAMPLE, untilJump: () => Infinity };
	const length = Math.max(1, Math.round((loop.outFlicks - loop.inFlicks) / FLICKS_PER_SAMPLE));
	const first = Math.max(1, Math.round((loop.outFlicks - fromFlicks) / FLICKS_PER_SAMPLE));
	const inLoop = (samples: number) => (((samples - first) % length) + length) % length;
	return {
		at: (samples) =>
			samples < first ? fromFlicks + samples * FLICKS_PER_SAMPLE : loop.inFlicks + inLoop(samples) * FLICKS_PER_SAMPLE,
		untilJump: (samples) => (samples < first ? first - samples : length - inLoop(samples))
	};
}
