import { KNOWN_RATE_PPM, MAX_CHANNELS, MAX_TARGETS, SHORTEST_SOUND_SECONDS } from '../../limits/solve';
import pMap from 'p-map';
import { type AlignableClip, soundWorth } from '../clip';
import { compareClips, type Link } from './compare-clips';
import type { Comparer, Sound } from './comparer';
import { coverOf, createGroups, type Groups } from './groups';

export interface LinkOptions {
	/** Lags that something else proposes for two clips, such as their timecode. */
	readonly hintsFor?: (a: number, b: number, links: readonly Link[]) => readonly number[];
	/** Comparisons under way at once. */
	readonly atOnce: number;
	readonly signal?: AbortSignal;
	/** Share of the clips that have been through. */
	readonly onProgress?: (share: number) => void;
}

/** An undecided clip: where in another it could lie. */
export interface Ambiguity {
	readonly other: number;
	/** Lags of its start against the other's. */
	readonly lagsSeconds: readonly number[];
}

export interface FoundLinks {
	readonly links: readonly Link[];
	readonly ambiguous: ReadonlyMap<number, Ambiguity>;
	/** About where each clip lies in its group: what has been listened to for one pair serves the next. */
	readonly positionOf: (clip: number) => number;
}

interface Search {
	readonly clips: readonly AlignableClip[];
	readonly comparer: Comparer;
	readonly options: LinkOptions;
	readonly groups: Groups;
	readonly links: Link[];
	readonly ambiguous: Map<number, Ambiguity>;
	/** Pairs of sounds that have been compared, and how. */
	readonly compared: Set<string>;
}

/**
 * Finds what links the clips, without comparing all of them with each other: each clip in turn, the best first, looks
 * for the groups that are there already, and of a group it meets only the clips that cover its time. What is left over
 * is looked at more thoroughly, at last channel by channel.
 */
export async function findLinks(
	clips: readonly AlignableClip[],
	comparer: Comparer,
	options: LinkOptions
): Promise<FoundLinks> {
	const search: Search = {
		clips,
		comparer,
		options,
		groups: createGroups(clips.length),
		links: [],
		ambiguous: new Map(),
		compared: new Set()
	};
	joinFixed(search);
	const order = [...clips.keys()]
		.filter((clip) => clips[clip]!.soundSeconds >= SHORTEST_SOUND_SECONDS)
		.sort(
			(a, b) => Number(!!clips[b]!.fixed) - Number(!!clips[a]!.fixed) || soundWorth(clips[b]!) - soundWorth(clips[a]!)
		);
	const open = order.filter((clip) => !clips[clip]!.fixed);
	const ready = new Set(order.filter((clip) => clips[clip]!.fixed));
	const [first] = ready.size === 0 ? order : [];
	if (first !== undefined) ready.add(first);
	let done = 0;
	await pMap(
		open.filter((clip) => clip !== first),
		async (clip) => {
			await meetGroups(search, clip, [...ready]);
			ready.add(clip);
			options.onProgress?.(++done / open.length);
		},
		{ concurrency: options.atOnce }
	);
	await meetEachOther(search, order, false);
	await meetEachOther(search, order, true);
	await lookOutForStrays(search, order);
	return { links: search.links, ambiguous: search.ambiguous, positionOf: (clip) => search.groups.position(clip) };
}

/** Clips that lie fast on one line-up are a group from the start. */
function joinFixed({ clips, groups }: Search): void {
	for (const [b, clip] of clips.entries()) {
		if (!clip.fixed) continue;
		const a = clips.findIndex((one) => one.fixed?.lineUp === clip.fixed!.lineUp);
		groups.join(a, b, clip.fixed.startSeconds - clips[a]!.fixed!.startSeconds);
	}
}

/** A clip looks for each group that is there, until it has found its place. */
async function meetGroups(search: Search, clip: number, ready: readonly number[]): Promise<void> {
	const { clips, groups } = search;
	const targets = groups
		.all()
		.map((members) =>
			coverOf(
				members.filter((one) => ready.includes(one)),
				clips,
				groups
			)
		)
		.flat()
		.sort((a, b) => soundWorth(clips[b]!) - soundWorth(clips[a]!));
	for (const target of targets) {
		if (search.groups.together(clip, target)) continue;
		if (await meet(search, { clip: target }, { clip }, false)) return;
	}
}

/** Groups that know nothing of each other yet: their covers meet, until no two are left that have not. */
async function meetEachOther(search: Search, order: readonly number[], thorough: boolean): Promise<void> {
	for (;;) {
		const covers = search.groups
			.all()
			.map((members) =>
				coverOf(
					members.filter((clip) => order.includes(clip)),
					search.clips,
					search.groups
				)
			)
			.filter((cover) => cover.length > 0);
		const pairs: [number, number][] = [];
		for (const [index, one] of covers.entries())
			for (const other of covers.slice(index + 1))
				for (const a of one)
					for (const b of other) if (mayMeet(search, { clip: a }, { clip: b }, thorough)) pairs.push([a, b]);
		if (pairs.length === 0) return;
		await pMap(
			pairs,
			async ([a, b]) => {
				if (!search.groups.together(a, b)) await meet(search, { clip: a }, { clip: b }, thorough);
			},
			{ concurrency: search.options.atOnce }
		);
	}
}

/** Clips that are alone still: every other clip, then channels singly, where the mix may hide what is common. */
async function lookOutForStrays(search: Search, order: readonly number[]): Promise<void> {
	const { clips, groups } = search;
	const alone = () => order.filter((clip) => groups.membersOf(clip).length === 1 && !clips[clip]!.fixed);
	await pMap(
		alone(),
		async (clip) => {
			for (const target of order.slice(0, MAX_TARGETS)) {
				if (groups.membersOf(clip).length > 1) return;
				if (target !== clip) await meet(search, { clip: target }, { clip }, true);
			}
		},
		{ concurrency: search.options.atOnce }
	);
	await pMap(
		alone(),
		async (clip) => {
			const targets = groups.all().flatMap((members) =>
				coverOf(
					members.filter((one) => order.includes(one)),
					clips,
					groups
				)
			);
			for (const target of targets.slice(0, MAX_TARGETS)) {
				for (const [a, b] of soundPairs(clips, target, clip)) {
					if (groups.membersOf(clip).length > 1) return;
					if (target !== clip) await meet(search, a, b, true);
				}
			}
		},
		{ concurrency: search.options.atOnce }
	);
}

/** All ways to compare two clips channel by channel, but for mix against mix. */
function soundPairs(clips: readonly AlignableClip[], a: number, b: number): readonly (readonly [Sound, Sound])[] {
	const soundsOf = (clip: number): readonly Sound[] => {
		const count = Math.min(MAX_CHANNELS, clips[clip]!.channels);
		const channels = count > 1 ? Array.from({ length: count }, (_, channel) => ({ clip, channel })) : [];
		return [{ clip }, ...channels];
	};
	return soundsOf(a).flatMap((one) =>
		soundsOf(b).flatMap((other) =>
			one.channel === undefined && other.channel === undefined ? [] : [[one, other] as const]
		)
	);
}

function pairKey(a: Sound, b: Sound, thorough: boolean): string {
	const keys = [`${a.clip}.${a.channel ?? ''}`, `${b.clip}.${b.channel ?? ''}`].sort();
	return `${keys.join(' ')} ${thorough ? 'all' : 'some'}`;
}

/** One device cannot record two clips at once, and placed or locked clips are not compared again. */
function mayMeet({ clips, compared }: Search, a: Sound, b: Sound, thorough: boolean): boolean {
	const [one, other] = [clips[a.clip]!, clips[b.clip]!];
	if (one.device === other.device || (one.fixed && other.fixed)) return false;
	return !compared.has(pairKey(a, b, thorough));
}

/** How the lag between two clips drifts, where the links so far tell their devices' clocks apart well enough. */
function knownSlope({ clips, links }: Search, a: number, b: number): number | undefined {
	const [deviceA, deviceB] = [clips[a]!.device, clips[b]!.device];
	let [information, sum] = [0, 0];
	for (const { a: x, b: y, evidence } of links) {
		if (!evidence.rate) continue;
		const { differencePpm, deviationPpm } = evidence.rate;
		const isSame = clips[x]!.device === deviceA && clips[y]!.device === deviceB;
		if (!isSame && !(clips[x]!.device === deviceB && clips[y]!.device === deviceA)) continue;
		information += 1 / deviationPpm ** 2;
		sum += (isSame ? differencePpm : -differencePpm) / deviationPpm ** 2;
	}
	return information < 1 / KNOWN_RATE_PPM ** 2 ? undefined : (sum / information) * 1e-6;
}

/** Compares two sounds once. @returns whether they are linked now */
async function meet(search: Search, a: Sound, b: Sound, thorough: boolean): Promise<boolean> {
	const { clips, comparer, options, groups, links } = search;
	if (!mayMeet(search, a, b, thorough)) return false;
	options.signal?.throwIfAborted();
	search.compared.add(pairKey(a, b, thorough));
	const slope = knownSlope(search, a.clip, b.clip);
	const comparison = await compareClips(clips, a, b, comparer, {
		thorough,
		hints: options.hintsFor?.(a.clip, b.clip, links) ?? [],
		positionOfA: groups.position(a.clip),
		...(slope === undefined ? {} : { slope })
	});
	if (comparison.kind === 'link') {
		const fixedApart = clips[a.clip]!.fixed && groups.membersOf(b.clip).some((one) => clips[one]!.fixed);
		if (fixedApart && !groups.together(a.clip, b.clip)) return false;
		links.push(comparison.link);
		groups.join(a.clip, b.clip, comparison.link.evidence.lagSeconds);
		return true;
	}
	if (comparison.kind === 'ambiguous') {
		const lags = comparison.places.map(({ evidence }) => evidence.lagSeconds).sort((x, y) => x - y);
		if (!search.ambiguous.has(b.clip)) search.ambiguous.set(b.clip, { other: a.clip, lagsSeconds: lags });
		const reversed = lags.map((lag) => -lag).reverse();
		if (!search.ambiguous.has(a.clip)) search.ambiguous.set(a.clip, { other: b.clip, lagsSeconds: reversed });
	}
	return false;
}
