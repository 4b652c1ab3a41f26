import { MAX_CLIP_SECONDS } from '../limits/recording';
import { comparePaths } from './compare-paths';
import type { MediaFacts } from './media-facts';

/** A file as far as joining cares. */
export interface JoinableFile {
	readonly id: string;
	readonly device: string;
	readonly path: string;
	readonly facts: MediaFacts;
}

/** One recording: a file, or several that a recorder split, each with its media time within the whole. */
export interface Recording {
	readonly device: string;
	/** A part that begins before the recording has an offset below 0: the rest of a file that was taken apart. */
	readonly parts: readonly { readonly file: JoinableFile; readonly offsetSeconds: number }[];
	/** Where it ends before its last part does. */
	readonly durationSeconds?: number;
}

/** A sample clock that repeats or drops more than this at a seam does not go on, it begins anew. */
const MAX_SEAM_SECONDS = 1;

/**
 * Joins files of one unbroken recording: same device and format, the counter in the name goes up by one, and the end
 * of one touches the start of the next by their clocks. A sample clock tells what a seam repeats or drops, and each file
 * lies where its clock says; picture timecode is right to a frame only, and files lie end to end.
 */
export function joinSpanned(files: readonly JoinableFile[]): readonly Recording[] {
	const sorted = [...files].sort((a, b) => a.device.localeCompare(b.device) || comparePaths(a.path, b.path));
	const recordings: Recording[] = [];
	for (const file of sorted) {
		const index = recordings.findLastIndex(
			({ device, parts }) => device === file.device && goesOn(parts.at(-1)!, file)
		);
		const before = recordings[index];
		if (before) {
			const last = before.parts.at(-1)!;
			const offsetSeconds = last.offsetSeconds + stepTo(last.file, file)!;
			recordings[index] = { device: before.device, parts: [...before.parts, { file, offsetSeconds }] };
		} else {
			recordings.push({ device: file.device, parts: [{ file, offsetSeconds: 0 }] });
		}
	}
	return recordings;
}

/** Whether a file goes on where the last one of a recording ends; a recording grows no longer than one can be. */
function goesOn(last: Recording['parts'][number], file: JoinableFile): boolean {
	const step = stepTo(last.file, file);
	return step !== undefined && last.offsetSeconds + step + file.facts.durationSeconds <= MAX_CLIP_SECONDS;
}

/**
 * Recordings that may go on in the next one, by name and format alone: their clocks do not say, sound must.
 * @returns pairs of places in the list
 */
export function followersOf(recordings: readonly Recording[]): readonly { readonly a: number; readonly b: number }[] {
	const pairs: { a: number; b: number }[] = [];
	for (const [a, one] of recordings.entries()) {
		const last = one.parts.at(-1)!.file;
		const b = recordings.findIndex((other) => other.device === one.device && isNext(last, other.parts[0]!.file));
		if (b >= 0) pairs.push({ a, b });
	}
	return pairs;
}

function isNext(one: JoinableFile, next: JoinableFile): boolean {
	return counterGoesOn(one.path, next.path) && sameFormat(one.facts, next.facts);
}

/** From the start of a file to the start of the one that goes on; nothing when it does not. */
function stepTo(one: JoinableFile, next: JoinableFile): number | undefined {
	if (!isNext(one, next)) return undefined;
	const [from, to] = [one.facts.clockSeconds, next.facts.clockSeconds];
	if (from === undefined || to === undefined) return undefined;
	const day = one.facts.clockDaySeconds ?? 86_400;
	const duration = one.facts.durationSeconds;
	const gap = ((((to - from - duration) % day) + day * 1.5) % day) - day / 2;
	const { video } = one.facts;
	if (video) return Math.abs(gap) <= (video.rate.den / video.rate.num) * 1.01 ? duration : undefined;
	if (Math.abs(gap) > MAX_SEAM_SECONDS) return undefined;
	// Durations are written with rounding: what is below a sample is none.
	const sample = 1 / (one.facts.audio?.sampleRate ?? 48_000);
	return Math.abs(gap) < sample ? duration : duration + gap;
}

function sameFormat(a: MediaFacts, b: MediaFacts): boolean {
	const format = ({ container, video, audio }: MediaFacts) =>
		[
			container,
			video?.codec,
			video?.width,
			video?.height,
			video?.rate.num,
			video?.rate.den,
			audio?.codec,
			audio?.sampleRate,
			audio?.channels
		].join(' ');
	return format(a) === format(b);
}

/** Names that differ in one number only, by one. */
function counterGoesOn(one: string, next: string): boolean {
	const a = one.split(/(\d+)/);
	const b = next.split(/(\d+)/);
	if (a.length !== b.length) return false;
	const different = a.flatMap((piece, index) => (piece === b[index] ? [] : [index]));
	if (different.length !== 1) return false;
	const [before, after] = [a[different[0]!]!, b[different[0]!]!];
	return Number(after) === Number(before) + 1 || chapterGoesOn(before, after);
}

/** Two digits for the file within the recording, four for the recording. */
function chapterGoesOn(before: string, after: string): boolean {
	if (before.length !== 6 || after.length !== 6 || before.slice(2) !== after.slice(2)) return false;
	return Number(after.slice(0, 2)) === Number(before.slice(0, 2)) + 1;
}
