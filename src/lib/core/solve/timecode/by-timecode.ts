import {
	CLASH_SECONDS,
	CONFIDENCE_ALONE,
	CONFIDENCE_OTHERS_PROVED,
	CONFIDENCE_PROVED,
	CONFIDENCE_UNHEARD,
	DOUBTFUL_CONFIDENCE,
	FAMILY_DEVICES
} from '../../limits/solve';
import { median } from '../../fitting/median';
import { clockTimes } from '../../gather/clock-days';
import type { AlignedLineUp, Alignment, Placed, Stray, DeviceClock } from '../alignment';
import type { AlignableClip } from '../clip';
import { clockLag, judgeClocks, trueSeconds } from './clocks';
import { chooseReference } from '../system/line-ups';

/** The line-up by timecode alone: one for each stretch of time that devices share. Nothing is listened to. */
export function alignByTimecode(clips: readonly AlignableClip[], reference?: string): Alignment {
	const timed = [...clips.keys()].filter((clip) => clips[clip]!.clock);
	const strays: Stray[] = [...clips.keys()]
		.filter((clip) => !clips[clip]!.clock)
		.map((clip) => ({ clip, reason: 'no timecode' }));
	const starts = unwrapped(clips, timed);
	const lineUps: AlignedLineUp[] = [];
	for (const members of stretchesOfTime(clips, starts)) {
		const group = members.map((clip) => clips[clip]!);
		if (new Set(group.map((clip) => clip.device)).size < 2) {
			strays.push(...members.map((clip): Stray => ({ clip, reason: 'nothing else at that time' })));
			continue;
		}
		const zero = Math.min(...members.map((clip) => starts.get(clip)!));
		lineUps.push({
			referenceDevice: chooseReference(group, reference),
			placed: members.map((clip) => byClock(clip, starts.get(clip)! - zero, 0, CONFIDENCE_ALONE)),
			links: [],
			clocks: []
		});
	}
	lineUps.sort((a, b) => b.placed.length - a.placed.length);
	return { lineUps, strays, contradictory: [] };
}

function byClock(clip: number, startSeconds: number, ratePpm: number, confidence: number): Placed {
	return { clip, startSeconds, ratePpm, confidence, residualSeconds: 0, parts: [], losses: [], method: 'timecode' };
}

/** Clock times as one running time: the day begins in the longest stretch in which nothing was recorded. */
function unwrapped(clips: readonly AlignableClip[], timed: readonly number[]): Map<number, number> {
	const sorted = [...timed].sort((a, b) => clips[a]!.clock!.seconds - clips[b]!.clock!.seconds);
	const day = Math.min(...timed.map((clip) => clips[clip]!.clock!.daySeconds));
	let [widest, first] = [-1, 0];
	for (const [index, clip] of sorted.entries()) {
		const before = sorted[(index + sorted.length - 1) % sorted.length]!;
		const end = clips[before]!.clock!.seconds + clips[before]!.durationSeconds - (index === 0 ? day : 0);
		const gap = clips[clip]!.clock!.seconds - end;
		if (gap > widest) [widest, first] = [gap, index];
	}
	return new Map(sorted.map((clip, index) => [clip, clips[clip]!.clock!.seconds + (index < first ? day : 0)]));
}

/** Clips whose times overlap, directly or through others. */
function stretchesOfTime(
	clips: readonly AlignableClip[],
	starts: ReadonlyMap<number, number>
): readonly (readonly number[])[] {
	const stretches: { members: number[]; end: number }[] = [];
	for (const [clip, start] of [...starts].sort((a, b) => a[1] - b[1])) {
		const end = start + clips[clip]!.durationSeconds;
		const last = stretches.at(-1);
		if (last && start < last.end) {
			last.members.push(clip);
			last.end = Math.max(last.end, end);
		} else {
			stretches.push({ members: [clip], end });
		}
	}
	return stretches.map(({ members }) => members);
}

/**
 * Timecode beside sound: clocks are judged by what sound has placed; clips that sound could not place go where a proved
 * clock says, if anything else was recorded there; doubtful places that a proved clock contradicts give way to it.
 */
export function withTimecode(clips: readonly AlignableClip[], alignment: Alignment): Alignment {
	const lineUps: AlignedLineUp[] = [];
	let strays = [...alignment.strays];
	for (const lineUp of alignment.lineUps) {
		const sure = lineUp.placed.filter((one) => one.confidence >= DOUBTFUL_CONFIDENCE);
		const clocks = judgeClocks(clips, sure);
		const kept = lineUp.placed.filter((one) => !contradicted(clips, one, clocks));
		const removed = lineUp.placed.filter((one) => !kept.includes(one));
		const open = [...removed.map(({ clip }): Stray => ({ clip, reason: 'contradicts others' })), ...strays];
		const placed = [...kept];
		for (const stray of open) {
			const place = placeByClock(clips, stray, clocks, lineUp, placed);
			if (place) placed.push(place);
		}
		strays = open.filter(({ clip }) => !placed.some((one) => one.clip === clip));
		lineUps.push({ ...lineUp, placed, clocks });
	}
	return { ...alignment, lineUps, strays };
}

/** Where line-up time is for a clip, by its device's clock. */
function clockPlace(
	clips: readonly AlignableClip[],
	clip: number,
	clock: DeviceClock,
	near: readonly Placed[]
): number {
	const own = clips[clip]!.clock!;
	const start = trueSeconds(own, clock.fault) + clock.offsetSeconds;
	// The same time of the day nearest to what is there already.
	const middle = near.reduce((sum, one) => sum + one.startSeconds, 0) / Math.max(1, near.length);
	return start + own.daySeconds * Math.round((middle - start) / own.daySeconds);
}

function contradicted(clips: readonly AlignableClip[], one: Placed, clocks: readonly DeviceClock[]): boolean {
	const { clock, device } = clips[one.clip]!;
	const proved = clocks.find((own) => own.device === device);
	if (!clock || !proved || one.confidence >= DOUBTFUL_CONFIDENCE) return false;
	return Math.abs(clockPlace(clips, one.clip, proved, [one]) - one.startSeconds) > CLASH_SECONDS;
}

function placeByClock(
	clips: readonly AlignableClip[],
	{ clip, reason }: Stray,
	clocks: readonly DeviceClock[],
	lineUp: AlignedLineUp,
	placed: readonly Placed[]
): Placed | undefined {
	const own = clips[clip]!;
	if (!own.clock || reason === 'unreadable') return undefined;
	const proved = clocks.find((one) => one.device === own.device);
	const clock = proved ?? (isLeftToTimecode(reason) ? familyClock(clocks) : undefined);
	if (!clock) return undefined;
	const startSeconds = clockPlace(clips, clip, clock, placed);
	if (!isOfThatDay(clips, clip, startSeconds, placed)) return undefined;
	const meets = placed.some(
		(one) =>
			clips[one.clip]!.device !== own.device &&
			one.startSeconds < startSeconds + own.durationSeconds &&
			startSeconds < one.startSeconds + clips[one.clip]!.durationSeconds
	);
	const clashes = placed.some(
		(one) =>
			clips[one.clip]!.device === own.device &&
			one.startSeconds + 0.3 < startSeconds + own.durationSeconds &&
			startSeconds + 0.3 < one.startSeconds + clips[one.clip]!.durationSeconds
	);
	if (!meets || clashes) return undefined;
	const ratePpm = lineUp.placed.find((one) => clips[one.clip]!.device === own.device)?.ratePpm ?? 0;
	const isMute = reason === 'no sound stream' || reason === 'silent';
	return byClock(
		clip,
		startSeconds,
		ratePpm,
		proved ? CONFIDENCE_PROVED : isMute ? CONFIDENCE_OTHERS_PROVED : CONFIDENCE_UNHEARD
	);
}

/** Whether sound tells nothing of a clip: it has none, or nobody heard the same. */
function isLeftToTimecode(reason: Stray['reason']): boolean {
	return (
		reason === 'no sound stream' ||
		reason === 'silent' ||
		reason === 'too short to tell' ||
		reason === 'no common sound with anything'
	);
}

/**
 * The clock of a family: devices that sound has shown to run on one time were set together, as with jam-sync; what else
 * shows a time at which they recorded is one of them. Most clocks must be of it.
 */
function familyClock(clocks: readonly DeviceClock[]): DeviceClock | undefined {
	const family = clocks.filter((one) => one.agrees);
	const isMost = 2 * family.length > clocks.length;
	return family.length >= FAMILY_DEVICES && isMost ? family[0] : undefined;
}

/** Whether a clip was made on the day it would lie on, as far as files tell their dates. */
function isOfThatDay(
	clips: readonly AlignableClip[],
	clip: number,
	startSeconds: number,
	placed: readonly Placed[]
): boolean {
	const own = clips[clip]!;
	const others = placed.filter((one) => clips[one.clip]!.clock && clips[one.clip]!.recordedAt !== undefined);
	if (own.recordedAt === undefined || others.length === 0) return true;
	const [ownTime, ...times] = clockTimes(
		[own, ...others.map((one) => clips[one.clip]!)].map(({ device, clock, recordedAt }) => ({
			deviceId: device,
			clockSeconds: clock!.seconds,
			recordedAt
		}))
	);
	const days = others.map((one, index) => (ownTime! - times[index]! - (startSeconds - one.startSeconds)) / DAY_SECONDS);
	return Math.round(median(days)) === 0;
}

const DAY_SECONDS = 86_400;

/**
 * Lags that timecode proposes for two clips: as the clocks stand, and as clips of the same two devices have shown.
 */
export function clockHints(
	clips: readonly AlignableClip[],
	a: number,
	b: number,
	links: readonly { readonly a: number; readonly b: number; readonly evidence: { readonly lagSeconds: number } }[]
): readonly number[] {
	const [one, other] = [clips[a]!, clips[b]!];
	if (!one.clock || !other.clock) return [];
	const lag = clockLag(one.clock, other.clock);
	const hints = [lag];
	for (const link of links) {
		const [x, y] = [clips[link.a]!, clips[link.b]!];
		if (!x.clock || !y.clock) continue;
		const off = link.evidence.lagSeconds - clockLag(x.clock, y.clock);
		if (x.device === one.device && y.device === other.device) hints.push(lag + off);
		if (x.device === other.device && y.device === one.device) hints.push(lag - off);
	}
	const overlaps = (hint: number) => hint < one.durationSeconds && hint > -other.durationSeconds;
	return hints
		.filter((hint, index) => overlaps(hint) && hints.findIndex((h) => Math.abs(h - hint) < 0.3) === index)
		.slice(0, 3);
}
