import {
	CLOCK_DEVIATION_PPM,
	FIXED_WEIGHT,
	GEOMETRY_SECONDS,
	KNOWN_CLOCK_DEVIATION_PPM,
	MAX_MEETINGS,
	MEETING_SECONDS,
	ROOM_DEVIATION_SECONDS
} from '../../limits/solve';
import { type Equation, robustLeastSquares } from '../../fitting/least-squares';
import type { DirectMoment, PairEvidence } from '../../match/fit/pair-evidence';
import type { SharedMoment } from '../../match/fit/window-fit';
import type { FixedPlace } from '../clip';

/** A clip, or a stretch of one that lost samples: what gets a place of its own. */
export interface SolvableClip {
	readonly id: string;
	readonly device: string;
	readonly hasPicture: boolean;
	readonly channels: number;
	/** Media time at which it begins; 0 for a whole clip. */
	readonly fromSeconds: number;
	readonly durationSeconds: number;
	readonly fixed?: FixedPlace;
}

/** Two stretches whose starts are known to differ by so much: the parts of one recording. */
export interface Tie {
	readonly a: string;
	readonly b: string;
	/** b's start less a's, beside what the clock rate makes of `mediaSeconds`. */
	readonly lagSeconds: number;
	/** Media time of a that b's media time 0 follows on; 0 for stretches of one clip. */
	readonly mediaSeconds: number;
	readonly deviationSeconds: number;
}

/** Evidence between two clips; its moments are media times of the clips. */
export interface LinkedPair {
	readonly a: string;
	readonly b: string;
	readonly evidence: PairEvidence;
}

/** Where a clip lies: `timelineTime = startSeconds + mediaTime * (1 + ratePpm * 1e-6)`. */
export interface SolvedPlacement {
	readonly clipId: string;
	readonly startSeconds: number;
	readonly ratePpm: number;
	/** 0 to 1: how sure the engine is that the place is right. */
	readonly confidence: number;
	/** Mean distance of the clip's evidence from the solution. */
	readonly residualSeconds: number;
}

/** What is solved together: clips, the clock that counts, what ties parts to each other. */
export interface System {
	readonly group: readonly SolvableClip[];
	readonly referenceDevice: string;
	readonly ties: readonly Tie[];
	/** Clock rates that another line-up of the same shoot has shown, against a clock of its own. */
	readonly knownClocks: ReadonlyMap<string, number>;
}

export type Solved = ReadonlyMap<string, SolvedPlacement>;

/** Places clips from evidence that is taken for true: one robust least-squares problem. */
export function solveGroup(
	{ group, referenceDevice, ties, knownClocks }: System,
	pairs: readonly LinkedPair[]
): Solved {
	const clipIndex = new Map(group.map((clip, index) => [clip.id, index]));
	const devices = [...new Set(group.map((clip) => clip.device))];
	const deviceOf = new Map(group.map((clip) => [clip.id, clip.device]));
	const rateIndex = new Map(devices.map((device, index) => [device, group.length + index]));
	const unknownsOf = (id: string) => ({ start: clipIndex.get(id)!, rate: rateIndex.get(deviceOf.get(id)!)! });
	const fixed = group.filter((clip) => clip.fixed);
	const equations: Equation[] = fixed.map((clip) => ({
		terms: [[clipIndex.get(clip.id)!, 1]],
		value: clip.fixed!.startSeconds,
		weight: FIXED_WEIGHT
	}));
	if (fixed.length === 0) equations.push({ terms: [[0, 1]], value: 0, weight: FIXED_WEIGHT });
	for (const device of devices) {
		const placed = fixed.find((clip) => clip.device === device);
		const isCertain = placed !== undefined || (device === referenceDevice && fixed.length === 0);
		const [known, ofReference] = [knownClocks.get(device), knownClocks.get(referenceDevice)];
		const elsewhere = known === undefined || ofReference === undefined ? undefined : known - ofReference;
		const deviation = elsewhere === undefined ? CLOCK_DEVIATION_PPM : KNOWN_CLOCK_DEVIATION_PPM;
		equations.push({
			terms: [[rateIndex.get(device)!, 1]],
			value: placed?.fixed!.ratePpm ?? elsewhere ?? 0,
			weight: isCertain ? 1e6 : 1 / deviation ** 2
		});
	}
	for (const tie of ties) {
		const [a, b] = [unknownsOf(tie.a), unknownsOf(tie.b)];
		equations.push({
			terms: [
				[b.start, 1],
				[a.start, -1],
				[a.rate, -tie.mediaSeconds * 1e-6]
			],
			value: tie.lagSeconds + tie.mediaSeconds,
			weight: 1 / tie.deviationSeconds ** 2
		});
	}
	const rooms = [...new Set(pairs.flatMap(({ evidence }) => evidence.direct?.room?.id ?? []))];
	const roomIndex = new Map(rooms.map((id, index) => [id, group.length + devices.length + index]));
	for (const room of roomIndex.values())
		equations.push({ terms: [[room, 1]], value: 0, weight: 1 / ROOM_DEVIATION_SECONDS ** 2 });
	for (const { a, b, evidence } of pairs)
		equations.push(...pairEquations(evidence, unknownsOf(a), unknownsOf(b), roomIndex));
	const x = robustLeastSquares(group.length + devices.length + rooms.length, equations);
	const bare = new Map(
		group.map((clip, index) => [
			clip.id,
			{
				clipId: clip.id,
				startSeconds: x[index]!,
				ratePpm: x[rateIndex.get(clip.device)!]!,
				confidence: 0,
				residualSeconds: 0
			}
		])
	);
	return new Map(
		[...bare].map(([id, placement]) => [id, { ...placement, residualSeconds: residualOf(id, pairs, bare) }])
	);
}

interface Unknowns {
	readonly start: number;
	readonly rate: number;
}

/**
 * What a pair says of two clips: that both heard the same at the mean of their shared moments (section by section of
 * long overlaps), and how their clocks differ. The moments' own slope is left out where the clocks' difference is known
 * better: it leans with who speaks when (see clock-slope).
 */
function pairEquations(
	evidence: PairEvidence,
	a: Unknowns,
	b: Unknowns,
	roomIndex: ReadonlyMap<string, number>
): readonly Equation[] {
	const { direct } = evidence;
	const equations = direct
		? [directEquation(direct, meetingEquation(direct, a, b, 1 / direct.deviationSeconds ** 2), roomIndex)]
		: meetings(evidence).map((meeting) => ({
				...meetingEquation(meeting, a, b, 1 / (GEOMETRY_SECONDS ** 2 + evidence.residualSeconds ** 2 / meeting.weight)),
				// What was measured on an echo gives way.
				doubtful: true
			}));
	if (evidence.rate) {
		const { differencePpm, deviationPpm, isWhole = false } = evidence.rate;
		equations.push({
			terms: [
				[a.rate, 1],
				[b.rate, -1]
			],
			value: differencePpm,
			weight: 1 / deviationPpm ** 2,
			doubtful: !isWhole
		});
	}
	return equations;
}

function directEquation({ room }: DirectMoment, equation: Equation, roomIndex: ReadonlyMap<string, number>): Equation {
	const terms = room ? [...equation.terms, [roomIndex.get(room.id)!, room.isTurned ? 1 : -1] as const] : equation.terms;
	return { ...equation, terms, doubtful: true };
}

/** Both heard the same then. */
function meetingEquation(
	{ aSeconds, bSeconds }: Pick<SharedMoment, 'aSeconds' | 'bSeconds'>,
	a: Unknowns,
	b: Unknowns,
	weight: number
): Equation {
	return {
		terms: [
			[a.start, 1],
			[b.start, -1],
			[a.rate, aSeconds * 1e-6],
			[b.rate, -bSeconds * 1e-6]
		],
		value: bSeconds - aSeconds,
		weight
	};
}

/** Means of the shared moments, section by section. */
function meetings({ moments, overlapSeconds }: PairEvidence): readonly SharedMoment[] {
	const sections = Math.max(1, Math.min(MAX_MEETINGS, Math.round(overlapSeconds / MEETING_SECONDS)));
	const sorted = [...moments].sort((x, y) => x.aSeconds - y.aSeconds);
	const from = sorted[0]?.aSeconds ?? 0;
	const length = (sorted.at(-1)?.aSeconds ?? 0) - from + 1e-6;
	const sums = Array.from({ length: sections }, () => ({ weight: 0, aSeconds: 0, bSeconds: 0 }));
	for (const { weight, aSeconds, bSeconds } of sorted) {
		const sum = sums[Math.floor(((aSeconds - from) / length) * sections)]!;
		sum.weight += weight;
		sum.aSeconds += weight * aSeconds;
		sum.bSeconds += weight * bSeconds;
	}
	return sums
		.filter(({ weight }) => weight > 0)
		.map(({ weight, aSeconds, bSeconds }) => ({ weight, aSeconds: aSeconds / weight, bSeconds: bSeconds / weight }));
}

/** Mean distance of a clip's evidence from the solution. */
function residualOf(id: string, pairs: readonly LinkedPair[], solved: Solved): number {
	let [sum, weight] = [0, 0];
	for (const pair of pairs) {
		if (pair.a !== id && pair.b !== id) continue;
		sum += pair.evidence.inliers * pairResidual(pair, solved);
		weight += pair.evidence.inliers;
	}
	return weight > 0 ? sum / weight : 0;
}

/** Mean distance of a pair's moments from the solution: of its direct sound, where that is told from the echoes. */
export function pairResidual({ a, b, evidence }: LinkedPair, solved: Solved): number {
	const { direct } = evidence;
	const moments = direct && !direct.room ? [{ ...direct, weight: 1 }] : evidence.moments;
	const x = solved.get(a)!;
	const y = solved.get(b)!;
	let sum = 0;
	let weight = 0;
	for (const moment of moments) {
		const atA = x.startSeconds + moment.aSeconds * (1 + x.ratePpm * 1e-6);
		const atB = y.startSeconds + moment.bSeconds * (1 + y.ratePpm * 1e-6);
		sum += moment.weight * Math.abs(atA - atB);
		weight += moment.weight;
	}
	return weight > 0 ? sum / weight : Infinity;
}
