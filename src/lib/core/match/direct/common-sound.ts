import { BEND_DEVIATION_SECONDS, LIKENESS_SECTIONS, MIN_LIKENESS } from '../../limits/match';
import { overlapOf, type Span } from '../windows/listening-windows';
import type { WindowCorrelator } from '../windows/window-correlation';
import { type BendMoment, bentCourse } from './bent-course';
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
	/** Where a clock bends: what moments leave of that slope, from one end of what they share to the other. */
	readonly bend?: readonly BendMoment[];
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
	const bent = bentCourse(sections, line);
	if (!bent && sections.length >= LIKENESS_SECTIONS && line.likeness < MIN_LIKENESS) return undefined;
	const aSeconds = line.middleSeconds;
	const common = {
		aSeconds,
		bSeconds: meeting.bSeconds + (aSeconds - meeting.aSeconds) * (1 + meeting.slope),
		shape: bent?.shape ?? line.shape,
		sections: sections.length
	};
	if (bent) {
		const overlap = overlapOf(a, b, meeting.aSeconds - meeting.bSeconds, meeting.limits);
		const slopeDeviation = (2 * BEND_DEVIATION_SECONDS) / (overlap.toSeconds - overlap.fromSeconds);
		return { ...common, slope: meeting.slope + bent.slope, slopeDeviation, bend: toTheEnds(bent.bend, overlap) };
	}
	return {
		...common,
		...(line.slopeDeviation === undefined
			? {}
			: { slope: meeting.slope + line.slope, slopeDeviation: line.slopeDeviation })
	};
}

/** A bend goes on beyond its outermost moments as it goes there. */
function toTheEnds(bend: readonly BendMoment[], { fromSeconds, toSeconds }: Span): readonly BendMoment[] {
	const beyond = (at: number, one: BendMoment, next: BendMoment): BendMoment => ({
		aSeconds: at,
		lateSeconds:
			one.lateSeconds + ((one.lateSeconds - next.lateSeconds) / (one.aSeconds - next.aSeconds)) * (at - one.aSeconds)
	});
	return [
		...(fromSeconds < bend[0]!.aSeconds ? [beyond(fromSeconds, bend[0]!, bend[1]!)] : []),
		...bend,
		...(toSeconds > bend.at(-1)!.aSeconds ? [beyond(toSeconds, bend.at(-1)!, bend.at(-2)!)] : [])
	];
}
