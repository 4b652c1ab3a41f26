import { asSound } from '../shoot/air-delay';
import { type ClipPart, placedEnd, type PlacedClip } from '../shoot/clip';
import { groupBy } from '../shoot/grouping';
import { toTimeline } from '../shoot/placement';
import { type Course, courseAt, courseFrom, ownTimeAt } from '../time/course';
import { FLICKS_PER_SECOND } from '../time/flicks';
import { fileSource } from './coverage';

/** A file of a run. */
export interface RunFile {
	readonly fileId: string;
	/** Line-up time of its first sample. */
	readonly firstSampleFlicks: number;
}

/** What sounds for a while. */
export interface Faded {
	/** It sounds in `[inFlicks, outFlicks)`, the fades included. */
	readonly inFlicks: number;
	readonly outFlicks: number;
	/** It comes in until here, and goes out from here on. */
	readonly fadedInFlicks: number;
	readonly fadesOutFlicks: number;
}

/**
 * A stretch of one device's sound in which sample follows sample, over one file or several that were recorded without a
 * gap. Runs of a device come in order; two sound together only while one goes over into the next.
 */
export interface SoundRun extends Faded {
	readonly deviceId: string;
	readonly clipId: string;
	readonly channels: number;
	/** From the time since its first sample to the line-up's. */
	readonly course: Course;
	readonly files: readonly RunFile[];
}

/** From one clip to another that overlaps it: long enough not to click, too short to be heard as two (common practice). */
const CROSSFADE_FLICKS = FLICKS_PER_SECOND / 100;
/** Where a recording begins or ends in mid-sound. */
const EDGE_FADE_FLICKS = FLICKS_PER_SECOND / 200;
/** Files of one recording follow each other within half a sample of 48 kHz. */
const SEAM_FLICKS = FLICKS_PER_SECOND / 96_000;

/**
 * The sound of each device as it is heard: every moment once. Of two clips that overlap the one that began first goes on to
 * its end and then over into the other; files of one recording are one run.
 * @param clips placed ones; where their sound lies follows from their air delay
 */
export function soundRuns(clips: readonly PlacedClip[]): ReadonlyMap<string, readonly SoundRun[]> {
	return runsOfSounds(clips.map(asSound));
}

/** The same of clips whose places are those of their sound already. */
export function runsOfSounds(clips: readonly PlacedClip[]): ReadonlyMap<string, readonly SoundRun[]> {
	const stretches: Stretch[] = [];
	for (const clip of clips) addStretches(stretches, clip);
	const devices = groupBy(stretches, (one) => one.deviceId);
	return new Map([...devices].map(([deviceId, own]) => [deviceId, withFades(own)]));
}

type Stretch = Omit<SoundRun, 'fadedInFlicks' | 'fadesOutFlicks'>;

/** Adds a clip's sound: a stretch for each row of files without a gap. */
function addStretches(stretches: Stretch[], clip: PlacedClip): void {
	const first = stretches.length;
	for (const part of clip.parts) {
		const one = stretchOf(clip, part);
		if (!one) continue;
		const last = stretches.length > first ? stretches.at(-1) : undefined;
		if (last && Math.abs(last.outFlicks - one.inFlicks) < SEAM_FLICKS && last.channels === one.channels)
			stretches[stretches.length - 1] = { ...last, outFlicks: one.outFlicks, files: [...last.files, ...one.files] };
		else stretches.push(one);
	}
}

function stretchOf(clip: PlacedClip, part: ClipPart): Stretch | undefined {
	if (!part.sound || part.isMissing) return undefined;
	const source = fileSource(clip, part);
	const course = courseFrom(source, part.sound.startFlicks);
	const firstSampleFlicks = courseAt(course, 0);
	const inFlicks = Math.max(toTimeline(clip.placement, 0), firstSampleFlicks);
	const outFlicks = Math.min(placedEnd(clip), courseAt(source, part.durationFlicks));
	if (outFlicks <= inFlicks) return undefined;
	return {
		deviceId: clip.deviceId,
		clipId: clip.id,
		channels: part.sound.channels,
		inFlicks,
		outFlicks,
		course,
		files: [{ fileId: part.fileId, firstSampleFlicks }]
	};
}

function withFades(stretches: readonly Stretch[]): readonly SoundRun[] {
	const sorted = [...stretches].sort((a, b) => a.inFlicks - b.inFlicks || a.outFlicks - b.outFlicks);
	const runs: SoundRun[] = [];
	for (const one of sorted) {
		const before = runs.at(-1);
		if (before && one.outFlicks <= before.outFlicks) continue;
		const overlap = before ? Math.max(0, before.outFlicks - one.inFlicks) : 0;
		const fade = Math.min(CROSSFADE_FLICKS, overlap);
		const inFlicks = before && overlap > 0 ? before.outFlicks - fade : one.inFlicks;
		const edge = Math.min(EDGE_FADE_FLICKS, (one.outFlicks - inFlicks) / 4);
		if (before && fade > 0) runs[runs.length - 1] = { ...before, fadesOutFlicks: before.outFlicks - fade };
		// Field by field: thousands of copies by spreading take three times as long.
		runs.push({
			deviceId: one.deviceId,
			clipId: one.clipId,
			channels: one.channels,
			inFlicks,
			outFlicks: one.outFlicks,
			course: one.course,
			files: one.files,
			fadedInFlicks: inFlicks + (fade > 0 ? fade : edge),
			fadesOutFlicks: one.outFlicks - edge
		});
	}
	return runs;
}

/** Loudness factor at a moment, 0 to 1: fades of equal power. */
export function fadeGain({ inFlicks, outFlicks, fadedInFlicks, fadesOutFlicks }: Faded, flicks: number): number {
	if (flicks < inFlicks || flicks >= outFlicks) return 0;
	const gain =
		flicks < fadedInFlicks ? Math.sin(((flicks - inFlicks) / (fadedInFlicks - inFlicks)) * (Math.PI / 2)) : 1;
	if (flicks <= fadesOutFlicks) return gain;
	return gain * Math.cos(((flicks - fadesOutFlicks) / (outFlicks - fadesOutFlicks)) * (Math.PI / 2));
}

/** Places of a run's files among its samples: how many come before the first one of each. @param sampleRate a second */
export function fileSamples({ files, course }: SoundRun, sampleRate: number): readonly number[] {
	const perSample = FLICKS_PER_SECOND / sampleRate;
	return files.map((file) => Math.round(ownTimeAt(course, file.firstSampleFlicks) / perSample));
}
