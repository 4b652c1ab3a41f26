import type { PlacedFile } from '../../../src/lib/server/stages/line-up/align-folder';
import type { TrueFile } from './simulator';

/** How a line-up did against the truth; one entry a file. */
export interface Scored {
	readonly path: string;
	readonly verdict: 'right' | 'misplaced' | 'missed' | 'false';
	/** Against the place where its sound says it lies; for clips in their own scene's line-up. */
	readonly errorSeconds?: number;
	/** What of it the ways of the single voices through the air leave over: nothing where it lies between two voices' ways. */
	readonly beyondAirSeconds?: number;
	readonly rateErrorPpm?: number;
	readonly confidence?: number;
	/** How far from its place a loss of samples was found. */
	readonly lossErrorSeconds?: number;
}

/** What of a line-up is scored. */
export interface ScoredResult {
	readonly groups: readonly { readonly reference: string; readonly clips: readonly PlacedFile[] }[];
	readonly unplaced: readonly { readonly path: string }[];
}

/** Half a frame at 25 a second. */
export const RIGHT_SECONDS = 0.02;
/** Timecode counts whole frames. */
const TIMECODE_SECONDS = 0.045;

/**
 * Each line-up belongs to the scene most of its clips come from; clips of another scene in it are false. A line-up's own
 * zero is free: it is taken from the median of its clips' errors.
 * Files of a time that no other device recorded are right when they are left out.
 */
export function score(result: ScoredResult, truth: readonly TrueFile[]): readonly Scored[] {
	const byPath = new Map(truth.map((one) => [one.path, one]));
	const out: Scored[] = [];
	for (const lineUp of result.groups) {
		const clips = lineUp.clips.map((clip) => ({ clip, own: byPath.get(clip.path)! }));
		const scene = mostCommon(clips.map(({ own }) => own.scene));
		const inside = clips.filter(({ own }) => own.scene === scene);
		const reference = inside.find(({ own }) => own.device === lineUp.reference) ?? inside[0]!;
		const clockZero = reference.own.ratePpm - reference.clip.ratePpm;
		// A line-up's time is its reference's.
		const inScene = ({ start }: PlacedFile) => start * (1 + clockZero * 1e-6);
		const zero = median(inside.map(({ clip, own }) => inScene(clip) - own.heardStartSeconds));
		for (const { clip, own } of clips) {
			if (own.scene !== scene || isApart(own, truth)) {
				out.push({ path: clip.path, verdict: 'false', confidence: clip.confidence });
				continue;
			}
			const errorSeconds = inScene(clip) - ownStart(clip, own) - zero;
			const allowed = clip.method === 'timecode' ? TIMECODE_SECONDS : RIGHT_SECONDS;
			const isRight = Math.abs(errorSeconds) < allowed && lossIsFound(clip, own);
			const verdict = isRight ? 'right' : 'misplaced';
			out.push({
				path: clip.path,
				verdict,
				errorSeconds,
				beyondAirSeconds: beyondAir(
					errorSeconds - (inScene(reference.clip) - ownStart(reference.clip, reference.own) - zero),
					own,
					reference.own
				),
				rateErrorPpm: clip.ratePpm - (own.ratePpm - clockZero),
				confidence: clip.confidence,
				...(own.lost && clip.parts?.[1]
					? { lossErrorSeconds: Math.abs(clip.parts[1].mediaFrom - own.lost.atSeconds) }
					: {})
			});
		}
	}
	for (const { path } of result.unplaced)
		out.push({ path, verdict: mayBeLeftOut(byPath.get(path)!, truth) ? 'right' : 'missed' });
	return out;
}

/** @param errorSeconds against the mean way of all voices, to the reference's */
function beyondAir(errorSeconds: number, own: TrueFile, reference: TrueFile): number {
	const late = own.lateSeconds.map((seconds, voice) => seconds - reference.lateSeconds[voice]!);
	return Math.max(0, Math.min(...late) + errorSeconds, -errorSeconds - Math.max(...late));
}

/** True start for what the clip's plain start speaks of: the longest part's. */
function ownStart(clip: PlacedFile, { heardStartSeconds, lost, seconds }: TrueFile): number {
	const isSecond = lost !== undefined && (clip.parts?.length ?? 0) > 1 && lost.atSeconds < seconds - lost.atSeconds;
	return heardStartSeconds + (isSecond ? lost.seconds : 0);
}

/** How near the place of a loss must be found for the clip to count as right; how near it is, is told apart. */
const LOSS_SECONDS = 0.3;

/** A clip that lost samples is in parts, the others are not. */
function lossIsFound({ parts = [] }: PlacedFile, { lost }: TrueFile): boolean {
	if (!lost) return parts.length === 0;
	const [first, second] = parts;
	if (parts.length !== 2 || !first || !second) return false;
	const leap = second.start - first.start;
	return Math.abs(leap - lost.seconds) < RIGHT_SECONDS && Math.abs(second.mediaFrom - lost.atSeconds) < LOSS_SECONDS;
}

/** Sound that nobody need place. */
const TOO_SHORT_SECONDS = 1.5;

/** Whether a file may be left out: it cannot be told, or nothing else was recorded then. */
function mayBeLeftOut(own: TrueFile, truth: readonly TrueFile[]): boolean {
	return own.isSilent === true || own.seconds <= TOO_SHORT_SECONDS || isApart(own, truth);
}

/** Whether no other device recorded at that time of that scene. */
function isApart(own: TrueFile, truth: readonly TrueFile[]): boolean {
	return !truth.some(
		(other) =>
			other.device !== own.device &&
			other.scene === own.scene &&
			other.heardStartSeconds < own.heardStartSeconds + own.seconds &&
			own.heardStartSeconds < other.heardStartSeconds + other.seconds
	);
}

function mostCommon(values: readonly string[]): string {
	const counts = new Map<string, number>();
	for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1);
	return [...counts].sort((a, b) => b[1] - a[1])[0]![0];
}

export function median(values: readonly number[]): number {
	return quantile(values, 0.5);
}

/** @param share 0 to 1 @returns NaN for no values */
export function quantile(values: readonly number[], share: number): number {
	const sorted = [...values].sort((a, b) => a - b);
	return sorted.length === 0 ? NaN : sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]!;
}
