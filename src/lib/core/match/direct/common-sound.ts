import { LIKENESS_SECTIONS, MIN_LIKENESS } from '../../limits/match';
import type { WindowCorrelator } from '../windows/window-correlation';
import { coherentLine } from './coherent-line';
import { type Meeting, sectionStacks } from './section-stacks';

/** What two sounds have in common, all of what they share taken together at one drift of their clocks. */
export interface CommonSound {
	/** Moments of a and b that are expected to be the same. */
	readonly aSeconds: number;
	readonly bSeconds: number;
	/** Their whitened correlation about that; steps and sense as in `SectionStack`. */
	readonly shape: Float32Array;
	/** Sections of the overlap that it is made of. */
	readonly sections: number;
	/** How much more of b's time passes in a second of a's, less one; nothing where what they share does not tell. */
	readonly slope?: number;
	readonly slopeDeviation?: number;
}

/** Listens to all that two sounds share. @returns nothing where one of the two is silent, or nothing is common */
export function hearCommon(
	a: Int16Array,
	b: Int16Array,
	meeting: Meeting,
	correlate: WindowCorrelator
): CommonSound | undefined {
	const sections = sectionStacks({ a, b, correlate }, meeting);
	if (sections.length === 0) return undefined;
	const line = coherentLine(sections, meeting.slopeError);
	if (sections.length >= LIKENESS_SECTIONS && line.likeness < MIN_LIKENESS) return undefined;
	const aSeconds = line.middleSeconds;
	return {
		aSeconds,
		bSeconds: meeting.bSeconds + (aSeconds - meeting.aSeconds) * (1 + meeting.slope),
		shape: line.shape,
		sections: sections.length,
		...(line.slopeDeviation === undefined
			? {}
			: { slope: meeting.slope + line.slope, slopeDeviation: line.slopeDeviation })
	};
}
