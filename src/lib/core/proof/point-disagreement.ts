import type { Clip, SyncPoint } from '../shoot/clip';
import { type Placement, toTimeline } from '../shoot/placement';
import { flicksToSeconds } from '../time/flicks';

/** A marked moment of a placed clip, against the others of its name. */
export interface PointCheck {
	readonly clipId: string;
	readonly point: SyncPoint;
	readonly timelineFlicks: number;
	/** How much later than the mean of its name it lies; 0 where it is alone. */
	readonly offSeconds: number;
}

/** One event that was marked in several clips. */
export interface EventCheck {
	readonly name: string;
	readonly points: readonly PointCheck[];
	/** From the first of its points to the last. */
	readonly spreadSeconds: number;
}

/** How far marks of one event lie apart, as their clips are placed. Names count without regard to case. */
export function checkPoints(clips: readonly (Clip & { readonly placement: Placement })[]): readonly EventCheck[] {
	const events = new Map<string, PointCheck[]>();
	for (const clip of clips) {
		for (const point of clip.syncPoints) {
			const key = point.name.trim().toLowerCase();
			const own = events.get(key) ?? [];
			own.push({
				clipId: clip.id,
				point,
				timelineFlicks: toTimeline(clip.placement, point.mediaFlicks),
				offSeconds: 0
			});
			events.set(key, own);
		}
	}
	return [...events.values()].map((points) => {
		const times = points.map((one) => one.timelineFlicks);
		const mean = times.reduce((sum, one) => sum + one, 0) / times.length;
		return {
			name: points[0]!.point.name,
			points: points.map((one) => ({ ...one, offSeconds: flicksToSeconds(one.timelineFlicks - mean) })),
			spreadSeconds: flicksToSeconds(Math.max(...times) - Math.min(...times))
		};
	});
}
