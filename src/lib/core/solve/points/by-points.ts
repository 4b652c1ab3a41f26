import { CLOCK_DEVIATION_PPM, POINT_DEVIATION_SECONDS, SURE, SURE_CLOCK } from '../../limits/solve';
import { type Equation, leastSquares } from '../../fitting/least-squares';
import type { AlignableClip } from '../clip';
import { chooseReference } from '../system/line-ups';

/** One event in one clip: points of the same name are the same moment. */
export interface MarkedPoint {
	readonly clip: number;
	readonly name: string;
	readonly mediaSeconds: number;
}

export interface PointPlacement {
	readonly clip: number;
	readonly startSeconds: number;
	readonly ratePpm: number;
}

export interface PointResidual extends MarkedPoint {
	/** How much later than the others of its name it lies, in seconds. */
	readonly residualSeconds: number;
}

export interface PointLineUp {
	readonly referenceDevice: string;
	readonly placements: readonly PointPlacement[];
	readonly residuals: readonly PointResidual[];
}

/** What can stand for an event without a mark: the same edge of every clip. */
export type Edge = 'in point' | 'out point' | 'clip start';

/**
 * Each clip's edge as a point of one name: in and out points where they are set, else the clip's own ends.
 * @param trims media times of in and out points, by clip
 */
export function edgePoints(
	clips: readonly AlignableClip[],
	edge: Edge,
	trims: ReadonlyMap<number, { readonly inSeconds?: number; readonly outSeconds?: number }> = new Map()
): readonly MarkedPoint[] {
	return clips.map((clip, index) => {
		const trim = trims.get(index);
		const mediaSeconds =
			edge === 'clip start'
				? 0
				: edge === 'in point'
					? (trim?.inSeconds ?? 0)
					: (trim?.outSeconds ?? clip.durationSeconds);
		return { clip: index, name: edge, mediaSeconds };
	});
}

/**
 * The line-up by marked events alone: least squares over all of them, so that disagreement is shared out and shows as
 * residuals. Two events far apart tell a device's clock rate; one tells only the start. Clips that lie fast stay where
 * they are, and their devices' clocks are known.
 * @param ratesPpm clock rates that are known from elsewhere, by device
 */
export function alignByPoints(
	clips: readonly AlignableClip[],
	points: readonly MarkedPoint[],
	reference?: string,
	ratesPpm: ReadonlyMap<string, number> = new Map()
): readonly PointLineUp[] {
	return linked(points).map((members) => {
		const own = points.filter((point) => members.includes(point.clip));
		const group = members.map((clip) => clips[clip]!);
		const referenceDevice = chooseReference(group, reference);
		const devices = [...new Set(group.map((clip) => clip.device))];
		const names = [...new Set(own.map((point) => point.name))];
		const startAt = (clip: number) => members.indexOf(clip);
		const rateAt = (clip: number) => members.length + devices.indexOf(clips[clip]!.device);
		const eventAt = (name: string) => members.length + devices.length + names.indexOf(name);
		const equations: Equation[] = [
			...(group.some((clip) => clip.fixed) ? [] : [{ terms: [[0, 1] as const], value: 0, weight: SURE }]),
			...group.flatMap(({ fixed }, index): readonly Equation[] =>
				fixed ? [{ terms: [[index, 1]], value: fixed.startSeconds, weight: SURE }] : []
			),
			...devices.map((device, index): Equation => {
				const known =
					group.find((clip) => clip.device === device && clip.fixed)?.fixed?.ratePpm ?? ratesPpm.get(device);
				const isReference = device === referenceDevice && !group.some((clip) => clip.fixed);
				return {
					terms: [[members.length + index, 1]],
					value: isReference ? 0 : (known ?? 0),
					weight: isReference || known !== undefined ? SURE_CLOCK : 1 / CLOCK_DEVIATION_PPM ** 2
				};
			}),
			...own.map(({ clip, name, mediaSeconds }): Equation => ({
				terms: [
					[startAt(clip), 1],
					[rateAt(clip), mediaSeconds * 1e-6],
					[eventAt(name), -1]
				],
				value: -mediaSeconds,
				weight: 1 / POINT_DEVIATION_SECONDS ** 2
			}))
		];
		const x = leastSquares(members.length + devices.length + names.length, equations);
		const isFixed = group.some((clip) => clip.fixed);
		const zero = isFixed ? 0 : Math.min(...members.map((clip) => x[startAt(clip)]!));
		return {
			referenceDevice,
			placements: members.map((clip) => ({
				clip,
				startSeconds: x[startAt(clip)]! - zero,
				ratePpm: x[rateAt(clip)]!
			})),
			residuals: own.map((point) => ({
				...point,
				residualSeconds:
					x[startAt(point.clip)]! + point.mediaSeconds * (1 + x[rateAt(point.clip)]! * 1e-6) - x[eventAt(point.name)]!
			}))
		};
	});
}

/** Clips that hang together by events of the same name; those alone are left out. */
function linked(points: readonly MarkedPoint[]): readonly (readonly number[])[] {
	const linkedSets: Set<number>[] = [];
	for (const name of new Set(points.map((point) => point.name))) {
		const clips = new Set(points.filter((point) => point.name === name).map((point) => point.clip));
		const touching = linkedSets.filter((one) => [...clips].some((clip) => one.has(clip)));
		for (const one of touching) {
			for (const clip of one) clips.add(clip);
			linkedSets.splice(linkedSets.indexOf(one), 1);
		}
		linkedSets.push(clips);
	}
	return linkedSets.filter((one) => one.size > 1).map((one) => [...one].sort((a, b) => a - b));
}
