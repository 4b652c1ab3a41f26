import type { SharedMoment } from '../match/fit/window-fit';
import { asSound } from '../shoot/air-delay';
import { toTimeline } from '../shoot/placement';
import { type PlacedClip } from '../shoot/clip';
import { flicksToSeconds, secondsToFlicks } from '../time/flicks';

/** What the engine measured of a pair of clips: moments that both heard, in seconds of each one's media time. */
export interface PairMoments {
	readonly a: string;
	readonly b: string;
	readonly moments: readonly SharedMoment[];
}

/** One moment of a clip against another clip. */
export interface DriftPoint {
	readonly otherClipId: string;
	/** Seconds of the clip's own media time, and of the line-up. */
	readonly mediaSeconds: number;
	readonly timelineSeconds: number;
	/** How much later than by its start alone the moment comes: what the clock's error adds up to. */
	readonly offsetSeconds: number;
	/** What its placement leaves over; positive when the clip's sound comes too early. */
	readonly residualSeconds: number;
	readonly weight: number;
}

/**
 * A clip's measured moments against all that heard the same, as they leave its placement. The other clips count as
 * placed right.
 */
export function driftOf(
	clip: PlacedClip,
	pairs: readonly PairMoments[],
	placed: ReadonlyMap<string, PlacedClip>
): readonly DriftPoint[] {
	const own = asSound(clip).placement;
	const points: DriftPoint[] = [];
	for (const pair of pairs) {
		const isA = pair.a === clip.id;
		if (!isA && pair.b !== clip.id) continue;
		const other = placed.get(isA ? pair.b : pair.a);
		if (!other || other.placement.lineUpId !== clip.placement.lineUpId) continue;
		const otherPlace = asSound(other).placement;
		for (const { aSeconds, bSeconds, weight } of pair.moments) {
			const mediaSeconds = isA ? aSeconds : bSeconds;
			const otherSeconds = isA ? bSeconds : aSeconds;
			const timelineSeconds = flicksToSeconds(toTimeline(otherPlace, secondsToFlicks(otherSeconds)));
			const offsetSeconds = timelineSeconds - flicksToSeconds(own.startFlicks) - mediaSeconds;
			points.push({
				otherClipId: other.id,
				mediaSeconds,
				timelineSeconds,
				offsetSeconds,
				residualSeconds: timelineSeconds - flicksToSeconds(toTimeline(own, secondsToFlicks(mediaSeconds))),
				weight
			});
		}
	}
	return points.sort((x, y) => x.mediaSeconds - y.mediaSeconds);
}

/** What is left over at a clip's head, middle and tail; nothing where no moment was measured. */
export interface Residuals {
	readonly headSeconds?: number;
	readonly middleSeconds?: number;
	readonly tailSeconds?: number;
}

/** Weighted medians of the residuals over the thirds of a clip. */
export function residualsOf(points: readonly DriftPoint[], durationSeconds: number): Residuals {
	const third = (index: number) =>
		weightedMedian(
			points.filter((point) => Math.min(2, Math.floor((3 * point.mediaSeconds) / durationSeconds)) === index)
		);
	const [headSeconds, middleSeconds, tailSeconds] = [third(0), third(1), third(2)];
	return {
		...(headSeconds === undefined ? {} : { headSeconds }),
		...(middleSeconds === undefined ? {} : { middleSeconds }),
		...(tailSeconds === undefined ? {} : { tailSeconds })
	};
}

function weightedMedian(points: readonly DriftPoint[]): number | undefined {
	const sorted = [...points].sort((a, b) => a.residualSeconds - b.residualSeconds);
	const half = sorted.reduce((sum, point) => sum + point.weight, 0) / 2;
	let sum = 0;
	for (const [index, point] of sorted.entries()) {
		sum += point.weight;
		// Two halves of one weight: between them.
		if (sum === half && sorted[index + 1]) return (point.residualSeconds + sorted[index + 1]!.residualSeconds) / 2;
		if (sum >= half && sum > 0) return point.residualSeconds;
	}
	return undefined;
}
