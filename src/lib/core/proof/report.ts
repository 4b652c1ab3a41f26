import { lostSamples } from '../shoot/losses';
import type { Clip } from '../shoot/clip';
import type { Signature } from '../shoot/line-up';
import { placedClips } from '../shoot/lookup';
import type { PlacementMethod } from '../shoot/placement';
import type { PlacedClip } from '../shoot/clip';
import type { Shoot } from '../shoot/shoot';
import { gridPlace } from '../shoot/frame-grid';
import { flicksPerFrame, flicksToSeconds } from '../time/flicks';
import { driftOf, type PairMoments, type Residuals, residualsOf } from './drift';

/** What was changed by hand of a clip, in words, oldest first. */
export type HandChanges = ReadonlyMap<string, readonly string[]>;

export interface ReportRow extends Residuals {
	readonly clipId: string;
	readonly badge: string;
	readonly device: string;
	readonly clip: string;
	readonly method: PlacementMethod;
	readonly startFlicks: number;
	readonly ratePpm: number;
	/** Its clock's error is measured but not taken out. */
	readonly isDriftLeft: boolean;
	/** The engine's; nothing for what was set or moved by hand. */
	readonly confidence?: number;
	readonly byHand: boolean;
	readonly isLocked: boolean;
	/** What its picture lies beside the frame grid; nothing without a picture. */
	readonly remainderFlicks?: number;
	readonly airMetres: number;
	readonly changes: readonly string[];
	/** Moments that sound has compared. */
	readonly moments: number;
}

export type Verdict =
	| { readonly kind: 'in sync'; readonly withinSeconds: number }
	| { readonly kind: 'not everywhere'; readonly withinSeconds: number; readonly faults: readonly string[] };

/** A line-up's proof, clip by clip. */
export interface Report {
	readonly shoot: string;
	readonly lineUp: number;
	readonly reference: string;
	readonly rows: readonly ReportRow[];
	readonly strays: readonly { readonly badge: string; readonly clip: string; readonly reason: string }[];
	readonly verdict: Verdict;
}

/** With its verdict in words, and who has signed it. */
export interface SignedReport extends Report {
	readonly verdictWords: string;
	readonly signatures: readonly (Pick<Signature, 'signedBy' | 'signedOn' | 'remark'> & {
		/** Something was changed after it. */
		readonly isOutOfDate: boolean;
	})[];
}

/** A confidence below this is a doubt: of 3 942 placements stated higher all but one were right (docs/benchmarks.md). */
const MIN_CONFIDENCE = 0.9;

/** @throws RangeError there is no such line-up */
export function buildReport(
	shoot: Shoot,
	lineUpId: string,
	pairs: readonly PairMoments[],
	changes: HandChanges
): Report {
	const lineUp = shoot.lineUps.findIndex((one) => one.id === lineUpId);
	if (lineUp < 0) throw new RangeError('There is no such line-up.');
	const clips = placedClips(shoot, lineUpId);
	const placed = new Map(clips.map((clip) => [clip.id, clip]));
	const rows = clips.map((clip) => rowOf(shoot, clip, pairs, placed, changes));
	const device = (id: string) => shoot.devices.find((one) => one.id === id);
	return {
		shoot: shoot.name,
		lineUp: lineUp + 1,
		reference: device(shoot.lineUps[lineUp]!.referenceDeviceId)?.name ?? '',
		rows,
		strays: shoot.clips
			.filter((clip): clip is Clip & { stray: NonNullable<Clip['stray']> } => clip.stray !== undefined)
			.map((clip) => ({ badge: device(clip.deviceId)?.badge ?? '', clip: clip.name, reason: clip.stray })),
		verdict: verdictOf(
			rows,
			device(shoot.lineUps[lineUp]!.referenceDeviceId)?.badge,
			flicksToSeconds(flicksPerFrame(shoot.rate)) / 2,
			lossWords(clips)
		)
	};
}

function rowOf(
	shoot: Shoot,
	clip: PlacedClip,
	pairs: readonly PairMoments[],
	placed: ReadonlyMap<string, PlacedClip>,
	changes: HandChanges
): ReportRow {
	const device = shoot.devices.find((one) => one.id === clip.deviceId);
	const points = driftOf(clip, pairs, placed);
	const { placement } = clip;
	return {
		clipId: clip.id,
		badge: device?.badge ?? '',
		device: device?.name ?? '',
		clip: clip.name,
		method: placement.method,
		startFlicks: placement.startFlicks,
		ratePpm: placement.ratePpm,
		isDriftLeft: placement.ratePpm !== placement.measuredRatePpm,
		...(placement.byHand ? {} : { confidence: placement.confidence }),
		byHand: placement.byHand,
		isLocked: placement.isLocked,
		...(clip.parts[0]?.picture ? { remainderFlicks: gridPlace(clip, shoot.rate).remainderFlicks } : {}),
		airMetres: device?.airMetres ?? 0,
		changes: changes.get(clip.id) ?? [],
		moments: points.length,
		...residualsOf(points, flicksToSeconds(clip.durationFlicks))
	};
}

function worstOf({ headSeconds, middleSeconds, tailSeconds }: Residuals): number {
	return Math.max(...[headSeconds, middleSeconds, tailSeconds].map((one) => Math.abs(one ?? 0)));
}

/** In sync means: everywhere within half a frame, and proved. The reference is not off: others are, against it. */
function verdictOf(
	rows: readonly ReportRow[],
	reference: string | undefined,
	toleranceSeconds: number,
	losses: readonly string[]
): Verdict {
	const faults: string[] = [];
	let withinSeconds = 0;
	for (const row of rows) {
		const name = `${row.badge} ${row.clip}`;
		const worst = worstOf(row);
		withinSeconds = Math.max(withinSeconds, worst);
		if (worst > toleranceSeconds && row.badge !== reference)
			faults.push(`${name} is off by ${words(worst)} ${placeOf(row, worst)}.`);
		if (row.isDriftLeft) faults.push(`${name}: its clock is not corrected.`);
		if (row.moments === 0) faults.push(`${name} is not proved by sound: it was placed by ${methodWords(row.method)}.`);
		else if (row.confidence !== undefined && row.confidence < MIN_CONFIDENCE)
			faults.push(`${name} is placed with a confidence of ${(100 * row.confidence).toFixed(0)}% only.`);
	}
	faults.push(...losses);
	return faults.length === 0 ? { kind: 'in sync', withinSeconds } : { kind: 'not everywhere', withinSeconds, faults };
}

function placeOf({ headSeconds, middleSeconds }: Residuals, worst: number): string {
	if (Math.abs(headSeconds ?? 0) === worst) return 'at its head';
	return Math.abs(middleSeconds ?? 0) === worst ? 'in its middle' : 'at its tail';
}

function lossWords(clips: readonly PlacedClip[]): readonly string[] {
	return lostSamples(clips).map(({ clipId, lostSeconds, atSeconds }) => {
		const name = clips.find((clip) => clip.id === clipId)?.name ?? '';
		return `${name} lost ${words(lostSeconds)} of its recording at ${atSeconds.toFixed(1)} s; both parts are in place.`;
	});
}

function words(seconds: number): string {
	return `${(1000 * Math.abs(seconds)).toFixed(1)} ms`;
}

export function methodWords(method: PlacementMethod): string {
	switch (method) {
		case 'audio':
			return 'sound';
		case 'sync point':
			return 'sync points';
		case 'hand':
			return 'hand';
		default:
			return method;
	}
}

/** The verdict in one sentence; where it is not in sync, the faults say where. */
export function verdictWords(verdict: Verdict): string {
	const within = words(verdict.withinSeconds);
	return verdict.kind === 'in sync'
		? `In sync everywhere, within ${within}.`
		: `${verdict.faults.length === 1 ? 'One thing' : `${verdict.faults.length} things`} to look at; all that was compared by sound lies within ${within}.`;
}

/** What a signature is for: every place, and what bends it. Two of the same text are the same line-up. */
export function signedText(shoot: Shoot, lineUpId: string): string {
	return placedClips(shoot, lineUpId)
		.map(({ id, durationFlicks, placement }) =>
			[
				...[id, durationFlicks, placement.startFlicks, placement.ratePpm, placement.airFlicks, placement.method],
				...(placement.bend ?? []).flatMap(({ ownFlicks, laterFlicks }) => [ownFlicks, laterFlicks])
			].join(' ')
		)
		.sort()
		.join('\n');
}
