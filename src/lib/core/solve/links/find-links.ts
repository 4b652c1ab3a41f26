import { KNOWN_RATE_PPM, MAX_CHANNELS, MAX_TARGETS, SHORTEST_SOUND_SECONDS } from '../../limits/solve';
import { type AlignableClip, soundWorth } from '../clip';
import { compareClips, type Comparison, type Link } from './compare-clips';
import type { Comparer, Sound } from './comparer';
import { coverOf, type Groups, singleGroups } from './groups';
import { workInOrder } from './in-order';

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
	/** Pairs of sounds that earlier rounds have compared, and how. */
	readonly compared: Set<string>;
}

/** What the comparisons so far have shown. */
interface Known {
	readonly links: readonly Link[];
	readonly groups: Groups;
	readonly ambiguous: ReadonlyMap<number, Ambiguity>;
}

/** A comparison that was made. */
interface Meeting {
	readonly key: string;
	readonly a: number;
	readonly b: number;
	readonly comparison: Comparison;
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
	const search: Search = { clips, comparer, options, compared: new Set() };
	let known: Known = { links: [], groups: fixedGroups(clips), ambiguous: new Map() };
	const order = [...clips.keys()]
		.filter((clip) => clips[clip]!.soundSeconds >= SHORTEST_SOUND_SECONDS)
		.sort(
			(a, b) => Number(!!clips[b]!.fixed) - Number(!!clips[a]!.fixed) || soundWorth(clips[b]!) - soundWorth(clips[a]!)
		);
	const fixed = order.filter((clip) => clips[clip]!.fixed);
	const ready = fixed.length > 0 ? fixed : order.slice(0, 1);
	const open = order.slice(ready.length);
	let done = 0;
	known = await round(search, known, open, async (clip, soFar, passed) => {
		const meetings = await meetGroups(search, soFar, clip, [...ready, ...open.slice(0, passed)]);
		options.onProgress?.(++done / open.length);
		return meetings;
	});
	known = await meetEachOther(search, known, order, false);
	known = await meetEachOther(search, known, order, true);
	const { links, groups, ambiguous } = await lookOutForStrays(search, known, order);
	return { links, ambiguous, positionOf: (clip) => groups.position(clip) };
}

/** Clips that lie fast on one line-up are a group from the start. */
function fixedGroups(clips: readonly AlignableClip[]): Groups {
	let groups = singleGroups(clips.length);
	for (const [b, clip] of clips.entries()) {
		if (!clip.fixed) continue;
		const a = clips.findIndex((one) => one.fixed?.lineUp === clip.fixed!.lineUp);
		groups = groups.joined(a, b, clip.fixed.startSeconds - clips[a]!.fixed!.startSeconds);
	}
	return groups;
}

/** Lets items be compared side by side, and notes what came out. */
async function round<Item>(
	search: Search,
	known: Known,
	items: readonly Item[],
	work: (item: Item, known: Known, done: number) => Promise<readonly Meeting[]>
): Promise<Known> {
	const keys: string[] = [];
	const after = await workInOrder(items, known, {
		atOnce: search.options.atOnce,
		work,
		learn: (soFar: Known, meetings: readonly Meeting[]) =>
			meetings.reduce((state, meeting) => {
				keys.push(meeting.key);
				return withMeeting(search, state, meeting);
			}, soFar)
	});
	for (const key of keys) search.compared.add(key);
	return after;
}

function withMeeting({ clips }: Search, known: Known, { a, b, comparison }: Meeting): Known {
	if (comparison.kind === 'ambiguous') {
		const lags = comparison.places.map(({ evidence }) => evidence.lagSeconds).sort((x, y) => x - y);
		const ambiguous = new Map(known.ambiguous);
		if (!ambiguous.has(b)) ambiguous.set(b, { other: a, lagsSeconds: lags });
		const reversed = lags.map((lag) => -lag).reverse();
		if (!ambiguous.has(a)) ambiguous.set(a, { other: b, lagsSeconds: reversed });
		return { ...known, ambiguous };
	}
	if (comparison.kind === 'none' || !mayLink(clips, known, a, b)) return known;
	if (known.links.some((link) => (link.a === a && link.b === b) || (link.a === b && link.b === a))) return known;
	return {
		...known,
		links: [...known.links, comparison.link],
		groups: known.groups.joined(a, b, comparison.link.evidence.lagSeconds)
	};
}

/** What lies fast on two line-ups stays apart. */
function mayLink(clips: readonly AlignableClip[], { groups }: Known, a: number, b: number): boolean {
	const isFixed = (clip: number) => groups.membersOf(clip).some((one) => clips[one]!.fixed);
	return groups.together(a, b) || !(isFixed(a) && isFixed(b));
}

/** Of each group the clips that cover its time. @param mayBe clips that may be met */
function covers({ clips }: Search, { groups }: Known, mayBe: ReadonlySet<number>): readonly (readonly number[])[] {
	return groups
		.all()
		.map((members) =>
			coverOf(
				members.filter((one) => mayBe.has(one)),
				clips,
				groups
			)
		)
		.filter((cover) => cover.length > 0);
}

/** A clip looks for each group that is there, until it has found its place. */
async function meetGroups(
	search: Search,
	known: Known,
	clip: number,
	ready: readonly number[]
): Promise<readonly Meeting[]> {
	const { clips } = search;
	const targets = covers(search, known, new Set(ready))
		.flat()
		.filter((target) => !known.groups.together(clip, target))
		.sort((a, b) => soundWorth(clips[b]!) - soundWorth(clips[a]!));
	return meetUntilLinked(
		search,
		known,
		targets.map((target) => [{ clip: target }, { clip }] as const),
		false
	);
}

/** Compares pair after pair, up to the first that is linked. */
async function meetUntilLinked(
	search: Search,
	known: Known,
	pairs: readonly (readonly [Sound, Sound])[],
	thorough: boolean
): Promise<readonly Meeting[]> {
	const meetings: Meeting[] = [];
	for (const [a, b] of pairs) {
		const key = pairKey(a, b, thorough);
		if (!mayMeet(search, a, b, thorough) || meetings.some((one) => one.key === key)) continue;
		const meeting = await meet(search, known, a, b, thorough);
		meetings.push(meeting);
		if (meeting.comparison.kind === 'link' && mayLink(search.clips, known, a.clip, b.clip)) break;
	}
	return meetings;
}

/** Groups that know nothing of each other yet: their covers meet, until no two are left that have not. */
async function meetEachOther(
	search: Search,
	before: Known,
	order: readonly number[],
	thorough: boolean
): Promise<Known> {
	const mayBe = new Set(order);
	for (let known = before; ;) {
		const all = covers(search, known, mayBe);
		const pairs: [Sound, Sound][] = [];
		for (const [index, one] of all.entries())
			for (const other of all.slice(index + 1))
				for (const a of one)
					for (const b of other)
						if (mayMeet(search, { clip: a }, { clip: b }, thorough)) pairs.push([{ clip: a }, { clip: b }]);
		if (pairs.length === 0) return known;
		known = await round(search, known, pairs, async ([a, b], soFar) =>
			soFar.groups.together(a.clip, b.clip) ? [] : [await meet(search, soFar, a, b, thorough)]
		);
	}
}

/** Clips that are alone still: every other clip, then channels singly, where the mix may hide what is common. */
async function lookOutForStrays(search: Search, before: Known, order: readonly number[]): Promise<Known> {
	const { clips } = search;
	const isAlone = ({ groups }: Known, clip: number) => groups.membersOf(clip).length === 1 && !clips[clip]!.fixed;
	const alone = (known: Known) => order.filter((clip) => isAlone(known, clip));
	const known = await round(search, before, alone(before), async (clip, soFar) => {
		if (!isAlone(soFar, clip)) return [];
		const targets = order.slice(0, MAX_TARGETS).filter((target) => target !== clip);
		const pairs = targets.map((target) => [{ clip: target }, { clip }] as const);
		return meetUntilLinked(search, soFar, pairs, true);
	});
	return round(search, known, alone(known), async (clip, soFar) => {
		if (!isAlone(soFar, clip)) return [];
		const targets = covers(search, soFar, new Set(order)).flat().slice(0, MAX_TARGETS);
		const pairs = targets.filter((target) => target !== clip).flatMap((target) => soundPairs(clips, target, clip));
		return meetUntilLinked(search, soFar, pairs, true);
	});
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
function knownSlope({ clips }: Search, { links }: Known, a: number, b: number): number | undefined {
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

/** Compares two sounds. */
async function meet(search: Search, known: Known, a: Sound, b: Sound, thorough: boolean): Promise<Meeting> {
	const { clips, comparer, options } = search;
	options.signal?.throwIfAborted();
	const slope = knownSlope(search, known, a.clip, b.clip);
	const comparison = await compareClips(clips, a, b, comparer, {
		thorough,
		hints: options.hintsFor?.(a.clip, b.clip, known.links) ?? [],
		positionOfA: known.groups.position(a.clip),
		...(slope === undefined ? {} : { slope })
	});
	return { key: pairKey(a, b, thorough), a: a.clip, b: b.clip, comparison };
}
