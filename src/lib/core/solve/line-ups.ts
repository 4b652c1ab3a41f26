import type { PairEvidence } from '../match/pair-evidence';
import { type Equation, robustLeastSquares } from './least-squares';

export const STRAY_REASONS = [
	'no sound stream',
	'silent',
	'too short to tell',
	'no common sound with anything',
	'ambiguous',
	'contradicts others',
	'unreadable'
] as const;
export type StrayReason = (typeof STRAY_REASONS)[number];

export interface SolvableClip {
	readonly id: string;
	readonly device: string;
	readonly hasPicture: boolean;
	readonly channels: number;
	readonly durationSeconds: number;
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

export interface LineUp {
	readonly referenceDevice: string;
	readonly placements: readonly SolvedPlacement[];
	readonly pairs: readonly LinkedPair[];
}

export interface Solution {
	readonly lineUps: readonly LineUp[];
	readonly contradictory: readonly LinkedPair[];
	/** Clips without a place, with the reason as far as the solution knows it. */
	readonly strays: ReadonlyMap<string, StrayReason>;
}

/** Loops must close to this; rooms and moving people stay well below, false pairs are off by seconds. */
const MOST_RESIDUAL_SECONDS = 0.04;
/** Crystal clocks are within this of each other as a rule (one standard deviation, common practice). */
const CLOCK_DEVIATION_PPM = 40;
/**
 * Where two clips meet depends on who spoke at the time: talkers sit metres apart, and no number of windows averages
 * that out (one standard deviation; 0.7 m of air, common practice).
 */
const GEOMETRY_SECONDS = 2e-3;
/** Two clips of one device may touch, not lie over each other. */
const MOST_OWN_OVERLAP_SECONDS = 0.3;

/**
 * Places all clips from all evidence: one robust least-squares problem a line-up, unknowns the clips' starts and
 * the devices' clock rates. Loops of evidence are the proof: pairs that do not close are dropped and reported.
 * @param reference the device whose clock counts as true, where it has clips; otherwise the best recorder
 */
export function solveLineUps(
	clips: readonly SolvableClip[],
	pairs: readonly LinkedPair[],
	reference?: string
): Solution {
	const byId = new Map(clips.map((clip) => [clip.id, clip]));
	const contradictory: LinkedPair[] = [];
	const strays = new Map<string, StrayReason>();
	const lineUps: LineUp[] = [];
	const open = components(clips, pairs);
	while (open.length > 0) {
		const members = open.pop()!;
		if (members.length < 2) {
			for (const id of members) if (!strays.has(id)) strays.set(id, 'no common sound with anything');
			continue;
		}
		const inside = new Set(members);
		const own = pairs.filter((pair) => inside.has(pair.a) && inside.has(pair.b) && !contradictory.includes(pair));
		const group = members.map((id) => byId.get(id)!);
		const referenceDevice = chooseReference(group, reference);
		const kept = consistentPairs(group, own, referenceDevice);
		contradictory.push(...own.filter((pair) => !kept.includes(pair)));
		const solved = solveGroup(group, kept, referenceDevice);
		const clashing = ownOverlap(group, solved);
		if (clashing) {
			strays.set(clashing, 'contradicts others');
			const rest = group.filter((clip) => clip.id !== clashing);
			open.push(
				...components(
					rest,
					kept.filter((pair) => pair.a !== clashing && pair.b !== clashing)
				)
			);
			continue;
		}
		lineUps.push({ referenceDevice, placements: fromZero(solved), pairs: kept });
	}
	lineUps.sort((a, b) => b.placements.length - a.placements.length);
	return { lineUps, contradictory, strays };
}

/** Clips that hang together by evidence. */
function components(clips: readonly SolvableClip[], pairs: readonly LinkedPair[]): string[][] {
	const groupOf = new Map<string, Set<string>>(clips.map((clip) => [clip.id, new Set([clip.id])]));
	for (const { a, b } of pairs) {
		const one = groupOf.get(a);
		const other = groupOf.get(b);
		if (!one || !other || one === other) continue;
		for (const id of other) {
			one.add(id);
			groupOf.set(id, one);
		}
	}
	return [...new Set(groupOf.values())].map((group) => [...group]);
}

/**
 * The chosen device, else the recorder with the most sound: coverage counts, several channels help, a camera's own
 * microphone comes after any recorder's.
 */
export function chooseReference(clips: readonly SolvableClip[], wanted?: string): string {
	if (wanted !== undefined && clips.some((clip) => clip.device === wanted)) return wanted;
	const worth = new Map<string, number>();
	for (const clip of clips) {
		const quality = (clip.hasPicture ? 0.4 : 1) * (clip.channels > 2 ? 1.3 : 1);
		worth.set(clip.device, (worth.get(clip.device) ?? 0) + clip.durationSeconds * quality);
	}
	return [...worth].sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0]))[0]![0];
}

function pairWorth({ evidence }: LinkedPair): number {
	return evidence.strength * Math.sqrt(evidence.inliers);
}

/** The strongest evidence that links all clips without a loop, and all the rest that closes its loops. */
function consistentPairs(
	group: readonly SolvableClip[],
	pairs: readonly LinkedPair[],
	referenceDevice: string
): LinkedPair[] {
	const sorted = [...pairs].sort((x, y) => pairWorth(y) - pairWorth(x));
	let kept = spanningTree(group, sorted);
	for (let round = 0; round < 3; round++) {
		const solved = solveGroup(group, kept, referenceDevice);
		const next = sorted.filter((pair) => pairResidual(pair, solved) <= MOST_RESIDUAL_SECONDS);
		if (next.length === kept.length) return next;
		// Never lose the links that hold the group together.
		kept = components(group, next).length > 1 ? [...new Set([...kept, ...next])] : next;
	}
	return kept;
}

function spanningTree(group: readonly SolvableClip[], sorted: readonly LinkedPair[]): LinkedPair[] {
	const root = new Map(group.map((clip) => [clip.id, clip.id]));
	const find = (id: string): string => {
		let at = id;
		while (root.get(at) !== at) at = root.get(at)!;
		return at;
	};
	return sorted.filter(({ a, b }) => {
		const [x, y] = [find(a), find(b)];
		if (x === y) return false;
		root.set(x, y);
		return true;
	});
}

type Solved = ReadonlyMap<string, SolvedPlacement>;

function solveGroup(group: readonly SolvableClip[], pairs: readonly LinkedPair[], referenceDevice: string): Solved {
	const clipIndex = new Map(group.map((clip, index) => [clip.id, index]));
	const devices = [...new Set(group.map((clip) => clip.device))];
	const deviceOf = new Map(group.map((clip) => [clip.id, clip.device]));
	const rateIndex = new Map(devices.map((device, index) => [device, group.length + index]));
	const equations: Equation[] = [{ terms: [[0, 1]], value: 0, weight: 1e12 }];
	for (const device of devices) {
		equations.push({
			terms: [[rateIndex.get(device)!, 1]],
			value: 0,
			weight: device === referenceDevice ? 1e6 : 1 / CLOCK_DEVIATION_PPM ** 2
		});
	}
	for (const pair of pairs) {
		const [startA, startB] = [clipIndex.get(pair.a)!, clipIndex.get(pair.b)!];
		const [rateA, rateB] = [rateIndex.get(deviceOf.get(pair.a)!)!, rateIndex.get(deviceOf.get(pair.b)!)!];
		equations.push(...pairEquations(pair.evidence, startA, startB, rateA, rateB));
	}
	const x = robustLeastSquares(group.length + devices.length, equations);
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
	return new Map([...bare].map(([id, placement]) => [id, { ...placement, ...judged(id, pairs, bare) }]));
}

/**
 * What a pair says of two clips: that both heard the same at the mean of their shared moments, and how their clocks
 * differ. The moments' own slope is left out: it leans with who speaks when (see clock-slope).
 */
function pairEquations(
	evidence: PairEvidence,
	startA: number,
	startB: number,
	rateA: number,
	rateB: number
): readonly Equation[] {
	let [weight, aSeconds, bSeconds] = [0, 0, 0];
	for (const moment of evidence.moments) {
		weight += moment.weight;
		aSeconds += moment.weight * moment.aSeconds;
		bSeconds += moment.weight * moment.bSeconds;
	}
	if (weight === 0) return [];
	aSeconds /= weight;
	bSeconds /= weight;
	const meeting: Equation = {
		terms: [
			[startA, 1],
			[startB, -1],
			[rateA, aSeconds * 1e-6],
			[rateB, -bSeconds * 1e-6]
		],
		value: bSeconds - aSeconds,
		weight: 1 / (GEOMETRY_SECONDS ** 2 + evidence.residualSeconds ** 2 / weight)
	};
	if (!evidence.rate) return [meeting];
	const { differencePpm, deviationPpm } = evidence.rate;
	const clocks: Equation = {
		terms: [
			[rateA, 1],
			[rateB, -1]
		],
		value: differencePpm,
		weight: 1 / deviationPpm ** 2,
		doubtful: true
	};
	return [meeting, clocks];
}

function judged(
	id: string,
	pairs: readonly LinkedPair[],
	solved: Solved
): { confidence: number; residualSeconds: number } {
	let doubt = 1;
	let sum = 0;
	let weight = 0;
	for (const pair of pairs) {
		if (pair.a !== id && pair.b !== id) continue;
		doubt *= chanceOfError(pair.evidence);
		const one = pair.evidence.inliers;
		sum += one * pairResidual(pair, solved);
		weight += one;
	}
	return {
		confidence: Math.round(Math.min(0.999, 1 - doubt) * 1000) / 1000,
		residualSeconds: weight > 0 ? sum / weight : 0
	};
}

/** Falls by a factor e for each 2 standard deviations over the least strength, and with the agreeing windows. */
function chanceOfError(evidence: PairEvidence): number {
	return Math.max(1e-6, 0.5 * Math.exp(-(evidence.strength - 9) / 2) * Math.exp(-(evidence.inliers - 3) / 4));
}

function pairResidual({ a, b, evidence }: LinkedPair, solved: Solved): number {
	const x = solved.get(a)!;
	const y = solved.get(b)!;
	let sum = 0;
	let weight = 0;
	for (const moment of evidence.moments) {
		const atA = x.startSeconds + moment.aSeconds * (1 + x.ratePpm * 1e-6);
		const atB = y.startSeconds + moment.bSeconds * (1 + y.ratePpm * 1e-6);
		sum += moment.weight * Math.abs(atA - atB);
		weight += moment.weight;
	}
	return weight > 0 ? sum / weight : Infinity;
}

/** One device cannot record two clips at once: the less sure of two that do has no place. */
function ownOverlap(group: readonly SolvableClip[], solved: Solved): string | undefined {
	for (const [index, one] of group.entries()) {
		for (const other of group.slice(index + 1)) {
			if (one.device !== other.device) continue;
			const x = solved.get(one.id)!;
			const y = solved.get(other.id)!;
			const overlap =
				Math.min(x.startSeconds + one.durationSeconds, y.startSeconds + other.durationSeconds) -
				Math.max(x.startSeconds, y.startSeconds);
			if (overlap > MOST_OWN_OVERLAP_SECONDS) return x.confidence < y.confidence ? one.id : other.id;
		}
	}
	return undefined;
}

function fromZero(solved: Solved): readonly SolvedPlacement[] {
	const zero = Math.min(...[...solved.values()].map((placement) => placement.startSeconds));
	return [...solved.values()].map((placement) => ({ ...placement, startSeconds: placement.startSeconds - zero }));
}
