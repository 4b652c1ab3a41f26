import {
	CONTRADICTING_SECONDS,
	KNOWN_BOND,
	KNOWN_CLOCK_SECONDS,
	MAX_OWN_OVERLAP_SECONDS,
	MAX_RESIDUAL_SECONDS,
	TRACK_INLIER_SHARE,
	TRACK_OVERLAP_SECONDS,
	TRACK_STRENGTH
} from '../../limits/solve';
import { type Bond, chanceOfError, confidences } from './confidence';
import { evidenceWorth } from '../../match/fit/pair-evidence';
import {
	type LinkedPair,
	pairResidual,
	type SolvableClip,
	type Solved,
	type SolvedPlacement,
	solveGroup,
	type System,
	type Tie
} from './system';

export const STRAY_REASONS = [
	'no sound stream',
	'silent',
	'too short to tell',
	'no common sound with anything',
	'ambiguous',
	'contradicts others',
	'unreadable',
	// Only where timecode alone was asked for.
	'no timecode',
	'nothing else at that time',
	// Not the engine's: only what an older version stored can be so.
	'beyond limits'
] as const;
export type StrayReason = (typeof STRAY_REASONS)[number];

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

export interface SolveOptions {
	/** The device whose clock counts as true, where it has clips; otherwise the best recorder. */
	readonly reference?: string;
	readonly ties?: readonly Tie[];
}

/**
 * Places all clips from all evidence: one robust least-squares problem a line-up, unknowns the clips' starts and
 * the devices' clock rates. Loops of evidence are the proof: pairs that do not close are dropped and reported.
 */
export function solveLineUps(
	clips: readonly SolvableClip[],
	pairs: readonly LinkedPair[],
	{ reference, ties = [] }: SolveOptions = {}
): Solution {
	const byId = new Map(clips.map((clip) => [clip.id, clip]));
	const contradictory: LinkedPair[] = [];
	const strays = new Map<string, StrayReason>();
	const lineUps: LineUp[] = [];
	const secondsOf = (ids: readonly string[]) => ids.reduce((sum, id) => sum + byId.get(id)!.durationSeconds, 0);
	// The longest first: it knows the clocks best, and a device keeps its clock from scene to scene.
	const open = components(clips, pairs, ties).sort((x, y) => secondsOf(x) - secondsOf(y));
	let knownClocks: ReadonlyMap<string, number> = new Map();
	while (open.length > 0) {
		const members = open.pop()!;
		const group = members.map((id) => byId.get(id)!);
		if (!group.some((clip) => clip.device !== group[0]!.device || clip.fixed)) {
			for (const id of members) if (!strays.has(id)) strays.set(id, 'no common sound with anything');
			continue;
		}
		const inside = new Set(members);
		const own = pairs.filter((pair) => inside.has(pair.a) && inside.has(pair.b) && !contradictory.includes(pair));
		const referenceDevice = chooseReference(group, reference);
		const system: System = {
			group,
			referenceDevice,
			ties: ties.filter((tie) => inside.has(tie.a) && inside.has(tie.b)),
			knownClocks
		};
		const kept = consistentPairs(system, own);
		contradictory.push(...own.filter((pair) => !kept.includes(pair)));
		const solved = withConfidence(system, kept, solveGroup(system, kept));
		const clashing = ownOverlap(system, kept, solved);
		if (clashing) {
			strays.set(clashing, 'contradicts others');
			const rest = group.filter((clip) => clip.id !== clashing);
			const without = kept.filter((pair) => pair.a !== clashing && pair.b !== clashing);
			open.push(...components(rest, without, ties));
			continue;
		}
		if (knownClocks.size === 0) knownClocks = clocksOf(group, solved);
		lineUps.push({
			referenceDevice,
			placements: group.some((clip) => clip.fixed) ? [...solved.values()] : fromZero(group, solved),
			pairs: kept
		});
	}
	lineUps.sort((a, b) => b.placements.length - a.placements.length);
	return { lineUps, contradictory, strays };
}

/** Clips that hang together by evidence, as parts of one recording, or because they lie fast on one line-up. */
function components(clips: readonly SolvableClip[], pairs: readonly LinkedPair[], ties: readonly Tie[]): string[][] {
	const groupOf = new Map<string, Set<string>>(clips.map((clip) => [clip.id, new Set([clip.id])]));
	const join = ({ a, b }: { readonly a: string; readonly b: string }) => {
		const one = groupOf.get(a);
		const other = groupOf.get(b);
		if (!one || !other || one === other) return;
		for (const id of other) {
			one.add(id);
			groupOf.set(id, one);
		}
	};
	pairs.forEach(join);
	ties.forEach(join);
	const fixed = clips.filter((clip) => clip.fixed);
	for (const clip of fixed) join({ a: fixed.find((one) => one.fixed!.lineUp === clip.fixed!.lineUp)!.id, b: clip.id });
	return [...new Set(groupOf.values())].map((group) => [...group]);
}

/**
 * The chosen device, else the recorder with the most sound: coverage counts, several channels help, a camera's own
 * microphone comes after any recorder's.
 */
export function chooseReference(
	clips: readonly Pick<SolvableClip, 'device' | 'durationSeconds' | 'hasPicture' | 'channels'>[],
	wanted?: string
): string {
	if (wanted !== undefined && clips.some((clip) => clip.device === wanted)) return wanted;
	const worth = new Map<string, number>();
	for (const clip of clips) {
		const quality = (clip.hasPicture ? 0.4 : 1) * (clip.channels > 2 ? 1.3 : 1);
		worth.set(clip.device, (worth.get(clip.device) ?? 0) + clip.durationSeconds * quality);
	}
	return [...worth].sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0]))[0]![0];
}

function clocksOf(group: readonly SolvableClip[], solved: Solved): ReadonlyMap<string, number> {
	const seconds = new Map<string, number>();
	for (const clip of group) seconds.set(clip.device, (seconds.get(clip.device) ?? 0) + clip.durationSeconds);
	return new Map(
		group
			.filter((clip) => seconds.get(clip.device)! >= KNOWN_CLOCK_SECONDS)
			.map((clip) => [clip.device, solved.get(clip.id)!.ratePpm])
	);
}

/** The strongest evidence that links all clips without a loop, and all the rest that closes its loops. */
function consistentPairs(system: System, pairs: readonly LinkedPair[]): LinkedPair[] {
	const sorted = [...pairs].sort((x, y) => evidenceWorth(y.evidence) - evidenceWorth(x.evidence));
	const whole = components(system.group, pairs, system.ties).length;
	let kept = spanningTree(system, sorted);
	for (let round = 0; round < 3; round++) {
		const solved = solveGroup(system, kept);
		const next = sorted.filter((pair) => pairResidual(pair, solved) <= MAX_RESIDUAL_SECONDS);
		if (next.length === kept.length) return next;
		// Never lose the links that hold the group together.
		kept = components(system.group, next, system.ties).length > whole ? [...new Set([...kept, ...next])] : next;
	}
	return kept;
}

function spanningTree({ group, ties }: System, sorted: readonly LinkedPair[]): LinkedPair[] {
	const root = new Map(group.map((clip) => [clip.id, clip.id]));
	const find = (id: string): string => {
		let at = id;
		while (root.get(at) !== at) at = root.get(at)!;
		return at;
	};
	const join = ({ a, b }: { readonly a: string; readonly b: string }) => {
		const [x, y] = [find(a), find(b)];
		if (x === y) return false;
		root.set(x, y);
		return true;
	};
	ties.forEach(join);
	const fixed = group.filter((clip) => clip.fixed);
	for (const clip of fixed) join({ a: fixed[0]!.id, b: clip.id });
	return sorted.filter(join);
}

/** The solution of a line-up, with how sure it is of each clip. */
function withConfidence(system: System, pairs: readonly LinkedPair[], solved: Solved): Solved {
	const { group, referenceDevice, ties } = system;
	const bonds: Bond[] = [
		...pairs.map((pair) => ({ a: pair.a, b: pair.b, certainty: certaintyOf(pair, solved) })),
		...ties.map(({ a, b }) => ({ a, b, certainty: KNOWN_BOND }))
	];
	const fixed = group.filter((clip) => clip.fixed);
	for (const clip of fixed.slice(1)) bonds.push({ a: fixed[0]!.id, b: clip.id, certainty: KNOWN_BOND });
	const longest = (clips: readonly SolvableClip[]) =>
		clips.reduce<SolvableClip | undefined>(
			(best, clip) => (best && best.durationSeconds >= clip.durationSeconds ? best : clip),
			undefined
		);
	const root = fixed[0] ?? longest(group.filter((clip) => clip.device === referenceDevice)) ?? group[0]!;
	const sure = confidences(
		group.map((clip) => clip.id),
		bonds,
		root.id
	);
	return new Map([...solved].map(([id, placement]) => [id, { ...placement, confidence: sure.get(id)! }]));
}

/** What lies further off than rooms and talkers explain speaks less surely for the place where it is put. */
function certaintyOf(pair: LinkedPair, solved: Solved): number {
	const off = pairResidual(pair, solved) / CONTRADICTING_SECONDS;
	return -Math.log(chanceOfError(pair.evidence)) * Math.exp(-off * off);
}

/**
 * One device cannot record two clips at once: the less sure of two that do has no place. But takes performed to one
 * playback track lie over each other in the track's time: then each agrees with clips of other devices, surely and
 * throughout.
 */
function ownOverlap({ group, ties }: System, pairs: readonly LinkedPair[], solved: Solved): string | undefined {
	for (const [index, one] of group.entries()) {
		for (const other of group.slice(index + 1)) {
			if (one.device !== other.device || (one.fixed && other.fixed) || areTied(ties, one.id, other.id)) continue;
			const x = solved.get(one.id)!;
			const y = solved.get(other.id)!;
			const overlap =
				Math.min(
					x.startSeconds + one.fromSeconds + one.durationSeconds,
					y.startSeconds + other.fromSeconds + other.durationSeconds
				) - Math.max(x.startSeconds + one.fromSeconds, y.startSeconds + other.fromSeconds);
			if (overlap <= MAX_OWN_OVERLAP_SECONDS || (isSurelyThere(one.id, pairs) && isSurelyThere(other.id, pairs)))
				continue;
			if (one.fixed || other.fixed) return one.fixed ? other.id : one.id;
			return x.confidence < y.confidence ? one.id : other.id;
		}
	}
	return undefined;
}

/** Files of one recording may repeat samples where they meet. */
function areTied(ties: readonly Tie[], one: string, other: string): boolean {
	return ties.some(({ a, b }) => (a === one && b === other) || (a === other && b === one));
}

function isSurelyThere(id: string, pairs: readonly LinkedPair[]): boolean {
	return pairs.some(
		({ a, b, evidence }) =>
			(a === id || b === id) &&
			evidence.strength >= TRACK_STRENGTH &&
			evidence.overlapSeconds >= TRACK_OVERLAP_SECONDS &&
			evidence.inliers >= TRACK_INLIER_SHARE * evidence.windows
	);
}

function fromZero(group: readonly SolvableClip[], solved: Solved): readonly SolvedPlacement[] {
	const zero = Math.min(...group.map((clip) => solved.get(clip.id)!.startSeconds + clip.fromSeconds));
	return [...solved.values()].map((placement) => ({ ...placement, startSeconds: placement.startSeconds - zero }));
}
