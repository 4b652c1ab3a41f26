import type { ErrorAnswer } from '../../contract/errors';
import { soundAddress } from '../../contract/media';
import { mixer, runUpSamples } from '../../core/program/mix';
import type { SoundInterval } from '../../core/program/mixed-sound';
import { fadeGain, fileSamples, type SoundRun } from '../../core/program/sound-runs';
import type { ClipPart } from '../../core/shoot/clip';
import { CORRECTION_REACH, correctClock } from '../../core/signal/clock-correction';
import { ownTimeAt } from '../../core/time/course';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';

/** Rate of the listening sound and of the page's audio. */
export const LISTENING_RATE = 48_000;
const FLICKS_PER_SAMPLE = FLICKS_PER_SECOND / LISTENING_RATE;

/** A file that can be listened to, and how its samples are given. */
export interface ListeningFile {
	readonly fileId: string;
	/** Key of its sound. */
	readonly identity: string;
	readonly channels: number;
	/** A channel. */
	readonly samples: number;
	/** 32 bits a sample, not 16. */
	readonly isDeep: boolean;
}

/** Interleaved samples, and what makes full scale of them. */
export interface ListeningStretch {
	readonly pcm: Int16Array | Int32Array;
	readonly fullScale: number;
}

/** Samples `[from, to)` of some channels of a file. @throws Error with the server's sentence */
export async function fetchListening(
	{ fileId, identity, isDeep }: ListeningFile,
	from: number,
	to: number,
	channels: readonly number[],
	options: Pick<RequestInit, 'signal' | 'priority'> = {}
): Promise<ListeningStretch> {
	const response = await fetch(soundAddress({ fileId, key: identity, from, to, channels }), options);
	if (!response.ok) {
		const answer = (await response.json().catch(() => undefined)) as ErrorAnswer | undefined;
		throw new Error(answer?.message ?? 'The sound cannot be had from the server.');
	}
	const buffer = await response.arrayBuffer();
	return isDeep
		? { pcm: new Int32Array(buffer), fullScale: 2 ** 31 }
		: { pcm: new Int16Array(buffer), fullScale: 2 ** 15 };
}

/** Nothing where the file has no sound, or is not there. */
export function listeningFileOf({ fileId, identity, sound, isMissing }: ClipPart): ListeningFile | undefined {
	if (!sound || isMissing) return undefined;
	return { fileId, identity, channels: sound.channels, samples: sound.samples, isDeep: sound.isDeep ?? false };
}

export type ListeningFiles = ReadonlyMap<string, ListeningFile>;

export function listeningFiles(clips: readonly { readonly parts: readonly ClipPart[] }[]): ListeningFiles {
	const files = clips.flatMap(({ parts }) => parts.flatMap((part) => listeningFileOf(part) ?? []));
	return new Map(files.map((file) => [file.fileId, file]));
}

export interface SoundWanted {
	/** From 0; of each run those that it has. */
	readonly channels: readonly number[];
	readonly fromFlicks: number;
	readonly samples: number;
}

/**
 * Channels of a device's sound over a stretch of the line-up, clock error taken out, at whole samples of the line-up.
 * @param runs of the device, in order
 * @returns a row for each channel that is wanted; silence where the device does not record; nothing where it has no sound at
 * all there
 */
export async function deviceSound(
	runs: readonly SoundRun[],
	files: ListeningFiles,
	{ channels, fromFlicks, samples }: SoundWanted,
	options: Pick<RequestInit, 'signal' | 'priority'>
): Promise<Float32Array<ArrayBuffer>[] | undefined> {
	const toFlicks = fromFlicks + samples * FLICKS_PER_SAMPLE;
	const sounding = runs.filter((run) => run.outFlicks > fromFlicks && run.inFlicks < toFlicks);
	if (!sounding.some((run) => run.files.some((file) => files.has(file.fileId)))) return undefined;
	const rows = channels.map(() => new Float32Array(samples));
	for (const run of sounding) {
		const from = Math.max(0, Math.ceil((run.inFlicks - fromFlicks) / FLICKS_PER_SAMPLE - 1e-6));
		const to = Math.min(samples, Math.ceil((run.outFlicks - fromFlicks) / FLICKS_PER_SAMPLE - 1e-6));
		const places = [...channels.keys()].filter((place) => channels[place]! < run.channels);
		if (to <= from || places.length === 0) continue;
		const asked = places.map((place) => channels[place]!);
		const own = await runSound(run, files, asked, fromFlicks, from, to, options);
		for (const [index, row] of own.entries()) {
			const target = rows[places[index]!]!;
			for (let i = 0; i < row.length; i++) target[from + i]! += row[i]!;
		}
	}
	return rows;
}

/**
 * What the audience hears over a stretch of the line-up: both sides.
 * @param intervals of the mix, in any order
 * @returns nothing where nothing sounds
 */
export async function soundOfMix(
	intervals: readonly SoundInterval[],
	files: ListeningFiles,
	{ fromFlicks, samples }: Pick<SoundWanted, 'fromFlicks' | 'samples'>,
	options: Pick<RequestInit, 'signal' | 'priority'>
): Promise<Float32Array<ArrayBuffer>[] | undefined> {
	const toFlicks = fromFlicks + samples * FLICKS_PER_SAMPLE;
	const sounding = intervals.filter(
		({ run, inFlicks, outFlicks }) =>
			outFlicks > fromFlicks && inFlicks < toFlicks && run.files.some((file) => files.has(file.fileId))
	);
	if (sounding.length === 0) return undefined;
	const [left, right] = [new Float32Array(samples), new Float32Array(samples)];
	const laid = await Promise.all(
		sounding.map(async (interval) => {
			const from = Math.max(0, Math.ceil((interval.inFlicks - fromFlicks) / FLICKS_PER_SAMPLE - 1e-6));
			const to = Math.min(samples, Math.ceil((interval.outFlicks - fromFlicks) / FLICKS_PER_SAMPLE - 1e-6));
			const runUp = runUpSamples(interval, LISTENING_RATE);
			const channels = interval.channels.map((one) => one.channel);
			const rows = await runRows(interval.run, files, channels, fromFlicks, from - runUp, to, options);
			return { interval, rows, from, runUp };
		})
	);
	for (const { interval, rows, from, runUp } of laid) {
		const stretch = { rows, runUp, fromFlicks: fromFlicks + (from - runUp) * FLICKS_PER_SAMPLE };
		mixer(interval, LISTENING_RATE)(stretch, { left, right }, from);
	}
	return [left, right];
}

/** Samples `[from, to)` of a stretch that begins at `fromFlicks`, of channels of one run, its fades in it. */
async function runSound(
	run: SoundRun,
	files: ListeningFiles,
	channels: readonly number[],
	fromFlicks: number,
	from: number,
	to: number,
	options: Pick<RequestInit, 'signal' | 'priority'>
): Promise<readonly Float32Array[]> {
	const rows = await runRows(run, files, channels, fromFlicks, from, to, options);
	const isFading =
		fromFlicks + from * FLICKS_PER_SAMPLE < run.fadedInFlicks ||
		fromFlicks + to * FLICKS_PER_SAMPLE > run.fadesOutFlicks;
	if (isFading)
		for (let i = 0; i < to - from; i++) {
			const gain = fadeGain(run, fromFlicks + (from + i) * FLICKS_PER_SAMPLE);
			for (const row of rows) row[i]! *= gain;
		}
	return rows;
}

/** The same without fades. */
async function runRows(
	run: SoundRun,
	files: ListeningFiles,
	channels: readonly number[],
	fromFlicks: number,
	from: number,
	to: number,
	options: Pick<RequestInit, 'signal' | 'priority'>
): Promise<readonly Float32Array[]> {
	const positionOf = (sample: number) =>
		ownTimeAt(run.course, fromFlicks + sample * FLICKS_PER_SAMPLE) / FLICKS_PER_SAMPLE;
	const [begins, ends] = [positionOf(from), positionOf(to)];
	// A clock that bends goes straight for so short a time.
	const step = run.course.bend ? (ends - begins) / (to - from) : 1 / run.course.rateFactor;
	const first = Math.floor(begins) - CORRECTION_REACH;
	const end = Math.ceil(ends) + CORRECTION_REACH;
	const interleaved = await samplesOfRun(run, files, channels, first, end, options);
	const rows = channels.map(() => new Float32Array(to - from));
	correctClock(interleaved, rows, begins - first, step, 0, to - from);
	return rows;
}

/** Samples `[from, to)` of channels of a run, interleaved, over the seams of its files; silence where there are none. */
async function samplesOfRun(
	run: SoundRun,
	files: ListeningFiles,
	channels: readonly number[],
	from: number,
	to: number,
	options: Pick<RequestInit, 'signal' | 'priority'>
): Promise<Float32Array> {
	const out = new Float32Array((to - from) * channels.length);
	const starts = fileSamples(run, LISTENING_RATE);
	await Promise.all(
		run.files.map(async ({ fileId }, index) => {
			const file = files.get(fileId);
			if (file?.channels !== run.channels) return;
			const start = starts[index]!;
			const begins = Math.max(from, start);
			const ends = Math.min(to, starts[index + 1] ?? Infinity, start + file.samples);
			if (ends <= begins) return;
			const { pcm, fullScale } = await fetchListening(file, begins - start, ends - start, channels, options);
			const at = (begins - from) * channels.length;
			for (let i = 0; i < pcm.length; i++) out[at + i] = pcm[i]! / fullScale;
		})
	);
	return out;
}
