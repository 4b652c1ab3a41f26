import { MIN_ADDED_SECONDS, MIN_ADDED_SHARE } from '../../limits/solve';
import { type AlignableClip, soundWorth } from '../clip';

/** Which clips hang together so far, and where about each lies in its group. Never changes: joining makes new ones. */
export interface Groups {
	/** Whether two clips are in one group. */
	together(a: number, b: number): boolean;
	/** Start of a clip against its group's zero, in seconds; right to the clocks' drift. */
	position(clip: number): number;
	/** The groups of two clips put together. @param lagSeconds b's start less a's */
	joined(a: number, b: number, lagSeconds: number): Groups;
	/** All groups, clips by their place in the list. */
	all(): readonly (readonly number[])[];
	membersOf(clip: number): readonly number[];
}

/** So many clips, each a group of its own. */
export function singleGroups(count: number): Groups {
	return groupsOf(
		Array.from({ length: count }, (_, clip) => [clip]),
		new Float64Array(count)
	);
}

function groupsOf(groupOf: readonly (readonly number[])[], positions: Float64Array): Groups {
	return {
		together: (a, b) => groupOf[a] === groupOf[b],
		position: (clip) => positions[clip]!,
		joined(a, b, lagSeconds) {
			const [into, from] = [groupOf[a]!, groupOf[b]!];
			if (into === from) return this;
			const shift = positions[a]! + lagSeconds - positions[b]!;
			const members = [...into, ...from];
			const [groups, moved] = [[...groupOf], positions.slice()];
			for (const clip of from) moved[clip] = moved[clip]! + shift;
			for (const clip of members) groups[clip] = members;
			return groupsOf(groups, moved);
		},
		all: () => [...new Set(groupOf)],
		membersOf: (clip) => groupOf[clip]!
	};
}

/** The fewest, best clips that cover the time of a group: whoever meets the group meets one of them. */
export function coverOf(
	members: readonly number[],
	clips: readonly AlignableClip[],
	groups: Groups
): readonly number[] {
	const covered: [number, number][] = [];
	const cover: number[] = [];
	for (const clip of [...members].sort((a, b) => soundWorth(clips[b]!) - soundWorth(clips[a]!))) {
		const seconds = clips[clip]!.soundSeconds;
		const from = groups.position(clip) + clips[clip]!.soundStartSeconds;
		const added = seconds - coveredSeconds(covered, from, from + seconds);
		if (cover.length > 0 && added < Math.min(MIN_ADDED_SECONDS, MIN_ADDED_SHARE * seconds)) continue;
		cover.push(clip);
		covered.push([from, from + seconds]);
	}
	return cover;
}

/** How much of a stretch lies under at least one of some others. */
function coveredSeconds(stretches: readonly (readonly [number, number])[], from: number, to: number): number {
	const inside = stretches
		.map(([start, end]) => [Math.max(from, start), Math.min(to, end)] as const)
		.filter(([start, end]) => end > start)
		.sort((a, b) => a[0] - b[0]);
	let covered = 0;
	let reached = from;
	for (const [start, end] of inside) {
		covered += Math.max(0, end - Math.max(reached, start));
		reached = Math.max(reached, end);
	}
	return covered;
}
