import { MAX_REPEATED_SECONDS } from '../limits/match';
import {
	LEAST_LOSS_SECONDS,
	LEAST_UNPROVED_LOSS_SECONDS,
	LINK_SHARE,
	LOOP_SHARE,
	LOSS_DEVIATION_SECONDS,
	SAME_SEAM_SECONDS,
	SEAM_SECONDS,
	SHORTEST_SOUND_SECONDS
} from '../limits/solve';
import { ANALYSIS_SAMPLE_RATE } from '../features/band-features';

import { type AlignableClip } from './clip';
import type { AlignedLineUp, Alignment, Placed, Stray } from './alignment';
import { type DirectListening, type Heard, hearPairs } from './direct/hear-pairs';
import { directEvidence } from './direct/direct-evidence';
import { type ClipBend, clipBends } from './direct/clip-bends';
import { closeLoops } from './links/close-loops';
import type { Link } from './links/compare-clips';
import type { Comparer } from './links/comparer';
import { type Ambiguity, findLinks } from './links/find-links';
import { type LineUp, type Solution, solveLineUps } from './system/line-ups';
import { clipOf, findLosses, type Loss, stretchesOf, stretchId, type StretchLink } from './losses/lost-samples';
import { type LinkedPair, pairResidual, type SolvableClip, type Tie } from './system/system';

export interface AlignOptions {
	/** The device whose clock counts as true. */
	readonly reference?: string;
	/** Comparisons under way at once. */
	readonly atOnce?: number;
	readonly signal?: AbortSignal;
	readonly onProgress?: (share: number) => void;
	/** Lags that something else proposes, such as timecode. */
	readonly hintsFor?: (a: number, b: number, links: readonly Link[]) => readonly number[];
	/** Pairs of clips that are one recording's files by all that is known before they are heard. */
	readonly followers?: readonly Follower[];
}

/** Clip b goes on where clip a ends. */
export interface Follower {
	readonly a: number;
	readonly b: number;
}

/** The whole line-up by sound. */
export async function align(
	clips: readonly AlignableClip[],
	comparer: Comparer,
	options: AlignOptions = {}
): Promise<Alignment> {
	const { reference, atOnce = 2, signal, onProgress, hintsFor } = options;
	const found = await findLinks(clips, comparer, {
		atOnce,
		...(signal ? { signal } : {}),
		...(hintsFor ? { hintsFor } : {}),
		onProgress: (share) => onProgress?.(share * LINK_SHARE)
	});
	const { links, ambiguous } = found;
	const first = solve(clips, withoutStretches(links), new Map(), [], reference);
	const more = await closeLoops(clips, found, first.solution.lineUps, comparer, atOnce, signal);
	const { links: all, losses } = await findLosses(clips, [...links, ...more], comparer, atOnce);
	onProgress?.(LOOP_SHARE);
	const second = solve(clips, all, losses, [], reference);
	const seams = await seamTies(clips, options.followers ?? [], second, comparer);
	const sure = seams.length > 0 ? solve(clips, all, losses, seams, reference) : second;
	const listening = { clips, losses, comparer, atOnce, positionOf: found.positionOf, ...(signal ? { signal } : {}) };
	const { solving: last, heard } = await solveByDirectSound(sure, listening, all, (better) =>
		solve(clips, better, losses, seams, reference)
	);
	const bends = clipBends(heard, last.solution.lineUps, clips);
	onProgress?.(1);
	return {
		lineUps: last.solution.lineUps.map((lineUp) => assembled(clips, lineUp, losses, bends, last)),
		strays: await straysOf(clips, last.solution, ambiguous, comparer),
		contradictory: last.solution.contradictory.map((pair) => last.linkOf.get(pair)!)
	};
}

const DIRECT_ROUNDS = 3;

/** Solves again by what the direct sound says; where better rates or places let it be heard better, once more. */
async function solveByDirectSound(
	begin: Solving,
	listening: DirectListening,
	links: readonly StretchLink[],
	solveBy: (links: readonly StretchLink[]) => Solving
): Promise<{ readonly solving: Solving; readonly heard: Heard }> {
	let heard: Heard = new Map();
	let current = begin;
	for (let round = 0; round < DIRECT_ROUNDS; round++) {
		const { solution, linkOf } = current;
		const before = heard;
		heard = await hearPairs(solution.lineUps, before, listening);
		if (round > 0 && [...heard].every(([key, one]) => before.get(key)?.sound === one.sound)) break;
		const better = new Map(
			[...directEvidence(heard, listening.clips)].map(([pair, evidence]) => [placeOf(linkOf.get(pair)!), evidence])
		);
		current = solveBy(
			links.map((link) => {
				const evidence = better.get(placeOf(link));
				return evidence ? { ...link, evidence } : link;
			})
		);
	}
	return { solving: current, heard };
}

function placeOf({ a, b, stretchA, stretchB }: StretchLink): string {
	return `${stretchId(a, stretchA)} ${stretchId(b, stretchB)}`;
}

function withoutStretches(links: readonly Link[]): readonly StretchLink[] {
	return links.map((link) => ({ ...link, stretchA: 0, stretchB: 0 }));
}

interface Solving {
	readonly solution: Solution;
	readonly linkOf: ReadonlyMap<LinkedPair, StretchLink>;
}

function solve(
	clips: readonly AlignableClip[],
	links: readonly StretchLink[],
	losses: ReadonlyMap<number, readonly Loss[]>,
	seams: readonly Tie[],
	reference: string | undefined
): Solving {
	const solvable: SolvableClip[] = [];
	const ties: Tie[] = [...seams];
	for (const [index, clip] of clips.entries()) {
		const isTied = seams.some(({ a, b }) => clipOf(a).clip === index || clipOf(b).clip === index);
		if (clip.soundSeconds < SHORTEST_SOUND_SECONDS && !clip.fixed && !isTied) continue;
		const own = losses.get(index) ?? [];
		for (const [stretch, { fromSeconds, toSeconds }] of stretchesOf(clip, own).entries()) {
			solvable.push({
				id: stretchId(index, stretch),
				device: clip.device,
				hasPicture: clip.hasPicture,
				channels: clip.channels,
				fromSeconds,
				durationSeconds: toSeconds - fromSeconds,
				...(clip.fixed ? { fixed: clip.fixed } : {})
			});
			if (stretch > 0) {
				ties.push({
					a: stretchId(index, stretch - 1),
					b: stretchId(index, stretch),
					lagSeconds: own[stretch - 1]!.lostSeconds,
					mediaSeconds: 0,
					deviationSeconds: LOSS_DEVIATION_SECONDS
				});
			}
		}
	}
	const linkOf = new Map<LinkedPair, StretchLink>();
	for (const link of links) {
		const pair = { a: stretchId(link.a, link.stretchA), b: stretchId(link.b, link.stretchB), evidence: link.evidence };
		linkOf.set(pair, link);
	}
	const solution = solveLineUps(solvable, [...linkOf.keys()], {
		ties,
		...(reference === undefined ? {} : { reference })
	});
	return { solution, linkOf };
}

/** Files of one recording are tied together exactly: those that touch, as all evidence says, and those that repeat samples. */
async function seamTies(
	clips: readonly AlignableClip[],
	followers: readonly Follower[],
	{ solution }: Solving,
	comparer: Comparer
): Promise<readonly Tie[]> {
	const placements = new Map(
		solution.lineUps.flatMap((lineUp) => lineUp.placements.map((one) => [one.clipId, { ...one, lineUp }]))
	);
	const ties: Tie[] = [];
	for (const { a, b } of followers) {
		const lastOfA = [...placements.keys()]
			.filter((id) => clipOf(id).clip === a)
			.sort()
			.at(-1);
		const [x, y] = [placements.get(lastOfA ?? ''), placements.get(stretchId(b, 0))];
		const [one, next] = [clips[a]!, clips[b]!];
		const { durationSeconds } = one;
		const isTogether = x !== undefined && y !== undefined && x.lineUp === y.lineUp;
		const gapSeconds = isTogether
			? y.startSeconds - x.startSeconds - durationSeconds * (1 + x.ratePpm * 1e-6)
			: undefined;
		const isNear =
			gapSeconds === undefined ||
			(gapSeconds > -MAX_REPEATED_SECONDS - SAME_SEAM_SECONDS && gapSeconds < SAME_SEAM_SECONDS);
		if (!isNear) continue;
		const repeated = await comparer.repeated({ clip: a }, { clip: b });
		const isBelieved =
			repeated !== undefined && (gapSeconds === undefined || Math.abs(gapSeconds + repeated) < SAME_SEAM_SECONDS);
		const touches = gapSeconds !== undefined && Math.abs(gapSeconds) <= SEAM_SECONDS;
		if (!isBelieved && !touches) continue;
		ties.push({
			a: lastOfA ?? stretchId(a, 0),
			b: stretchId(b, 0),
			lagSeconds: 0,
			mediaSeconds: isBelieved ? wholeSamples(soundEnd(one) - repeated - next.soundStartSeconds, one) : durationSeconds,
			deviationSeconds: 1e-6
		});
	}
	return ties;
}

/** Media time at which the engine's sound of a clip ends. */
function soundEnd({ soundStartSeconds, soundSeconds }: AlignableClip): number {
	return soundStartSeconds + Math.floor(soundSeconds * ANALYSIS_SAMPLE_RATE) / ANALYSIS_SAMPLE_RATE;
}

/** A length that is nearly a whole number of a clip's own samples is that many. */
function wholeSamples(seconds: number, { sampleRate }: AlignableClip): number {
	return sampleRate === undefined ? seconds : Math.round(seconds * sampleRate) / sampleRate;
}

/** What decoders make of the last bit, read whole or by stretches, is far below these. */
const PLACE_STEP_SECONDS = 1e-7;
const RATE_STEP_PPM = 1e-4;

function rounded(value: number, step: number): number {
	return Math.round(value / step) * step;
}

/** Puts stretches of one clip together again. */
function assembled(
	clips: readonly AlignableClip[],
	lineUp: LineUp,
	losses: ReadonlyMap<number, readonly Loss[]>,
	bends: ReadonlyMap<number, ClipBend>,
	{ linkOf }: Solving
): AlignedLineUp {
	const solved = new Map(lineUp.placements.map((one) => [one.clipId, one]));
	const byClip = new Map<number, { stretch: number; startSeconds: number; one: LineUp['placements'][number] }[]>();
	for (const one of lineUp.placements) {
		const { clip, stretch } = clipOf(one.clipId);
		byClip.set(clip, [...(byClip.get(clip) ?? []), { stretch, startSeconds: one.startSeconds, one }]);
	}
	const placed = [...byClip].map(([clip, stretches]): Placed => {
		const own = losses.get(clip) ?? [];
		const spans = stretchesOf(clips[clip]!, own);
		const lengthOf = (stretch: number) => spans[stretch]!.toSeconds - spans[stretch]!.fromSeconds;
		stretches.sort((x, y) => x.stretch - y.stretch);
		const found = own.map((loss, index) => ({ ...loss, lostSeconds: exactLoss(stretches, index) ?? loss.lostSeconds }));
		// Where the direct sound goes on as before nothing was lost: single windows took another echo.
		const kept = found.filter(({ lostSeconds }, index) => {
			const least = exactLoss(stretches, index) === undefined ? LEAST_UNPROVED_LOSS_SECONDS : LEAST_LOSS_SECONDS;
			return Math.abs(lostSeconds) >= least;
		});
		const bend = bends.get(clip);
		const longest = [...stretches].sort((x, y) => lengthOf(y.stretch) - lengthOf(x.stretch))[0]!;
		return {
			clip,
			startSeconds: rounded(longest.startSeconds, PLACE_STEP_SECONDS),
			ratePpm: rounded(longest.one.ratePpm, RATE_STEP_PPM),
			confidence: Math.min(...stretches.map(({ one }) => one.confidence)),
			residualSeconds: Math.max(...stretches.map(({ one }) => one.residualSeconds)),
			parts:
				kept.length === 0
					? []
					: stretches
							.filter(({ stretch }) => stretch === 0 || kept.includes(found[stretch - 1]!))
							.map(({ stretch, startSeconds }) => ({
								fromSeconds: spans[stretch]!.fromSeconds,
								startSeconds: rounded(startSeconds, PLACE_STEP_SECONDS)
							})),
			method: 'audio',
			losses: kept,
			...(bend && kept.length === 0 ? { bend } : {})
		};
	});
	return {
		referenceDevice: lineUp.referenceDevice,
		placed,
		links: lineUp.pairs.map((pair) => ({
			...linkOf.get(pair)!,
			...(pair.evidence.direct?.room ? {} : { offSeconds: pairResidual(pair, solved) })
		})),
		clocks: []
	};
}

function exactLoss(
	stretches: readonly { readonly stretch: number; readonly startSeconds: number }[],
	index: number
): number | undefined {
	const before = stretches.find(({ stretch }) => stretch === index);
	const after = stretches.find(({ stretch }) => stretch === index + 1);
	return before && after ? after.startSeconds - before.startSeconds : undefined;
}

async function straysOf(
	clips: readonly AlignableClip[],
	solution: Solution,
	ambiguous: ReadonlyMap<number, Ambiguity>,
	comparer: Comparer
): Promise<readonly Stray[]> {
	const placed = new Set(solution.lineUps.flatMap((lineUp) => lineUp.placements.map((one) => clipOf(one.clipId).clip)));
	const strays: Stray[] = [];
	for (const [index, clip] of clips.entries()) {
		if (placed.has(index)) continue;
		const ambiguity = ambiguous.get(index);
		if (clip.channels === 0) strays.push({ clip: index, reason: 'no sound stream' });
		else if (clip.soundSeconds < SHORTEST_SOUND_SECONDS) strays.push({ clip: index, reason: 'too short to tell' });
		else if (await comparer.isSilent({ clip: index })) strays.push({ clip: index, reason: 'silent' });
		else if (solution.strays.get(stretchId(index, 0)) === 'contradicts others')
			strays.push({ clip: index, reason: 'contradicts others' });
		else if (ambiguity) strays.push({ clip: index, reason: 'ambiguous', ambiguity });
		else strays.push({ clip: index, reason: 'no common sound with anything' });
	}
	return strays;
}
