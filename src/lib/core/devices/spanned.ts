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
	readonly parts: readonly { readonly file: JoinableFile; readonly offsetSeconds: number }[];
}

/** A sample clock written in the file is exact; picture timecode is exact to a frame. */
const SOUND_TOLERANCE_SECONDS = 0.5e-3;

/**
 * Joins files of one unbroken recording: same device and format, the counter in the name goes up by one, and the end
 * of one touches the start of the next by their clocks.
 */
export function joinSpanned(files: readonly JoinableFile[]): readonly Recording[] {
	const sorted = [...files].sort((a, b) => a.device.localeCompare(b.device) || comparePaths(a.path, b.path));
	const recordings: Recording[] = [];
	for (const file of sorted) {
		const last = recordings.at(-1);
		const before = last?.parts.at(-1);
		if (last && before && last.device === file.device && continues(before.file, file)) {
			const offsetSeconds = before.offsetSeconds + before.file.facts.durationSeconds;
			recordings[recordings.length - 1] = { device: last.device, parts: [...last.parts, { file, offsetSeconds }] };
		} else {
			recordings.push({ device: file.device, parts: [{ file, offsetSeconds: 0 }] });
		}
	}
	return recordings;
}

/** By name with numbers in their order: clip 2 before clip 10. */
export function comparePaths(a: string, b: string): number {
	return a.localeCompare(b, 'en', { numeric: true });
}

function continues(one: JoinableFile, next: JoinableFile): boolean {
	if (!sameFormat(one.facts, next.facts) || !counterGoesOn(one.path, next.path)) return false;
	const [from, to] = [one.facts.clockSeconds, next.facts.clockSeconds];
	if (from === undefined || to === undefined) return false;
	const day = 86_400;
	const gap = ((((to - from - one.facts.durationSeconds) % day) + day * 1.5) % day) - day / 2;
	const tolerance = one.facts.video ? one.facts.video.rate.den / one.facts.video.rate.num : SOUND_TOLERANCE_SECONDS;
	return Math.abs(gap) <= tolerance * 1.01;
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
	return different.length === 1 && Number(b[different[0]!]) === Number(a[different[0]!]) + 1;
}
