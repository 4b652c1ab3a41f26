import { fileSamples, runGain, type SoundRun } from '../../core/program/sound-runs';
import type { ClipPart } from '../../core/shoot/clip';
import { CORRECTION_REACH, correctClock } from '../../core/signal/clock-correction';
import { ownTimeAt } from '../../core/time/course';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';

/** Rate of the listening sound and of the page's audio. */
export const LISTENING_RATE = 48_000;
const FLICKS_PER_SAMPLE = FLICKS_PER_SECOND / LISTENING_RATE;

/** What is asked of a listening file: its identity, and how its samples lie. */
export interface ListeningFile {
	readonly identity: string;
	readonly channels: number;
	/** 32 bits a sample, not 16. */
	readonly isDeep: boolean;
}

/** Interleaved samples, and what makes full scale of them. */
export interface ListeningStretch {
	readonly pcm: Int16Array | Int32Array;
	readonly fullScale: number;
}

/** Samples `[from, to)` of a listening file. */
export async function fetchListening(
	{ identity, channels, isDeep }: ListeningFile,
	from: number,
	to: number,
	signal?: AbortSignal
): Promise<ListeningStretch> {
	const bytes = (isDeep ? 4 : 2) * channels;
	const response = await fetch(`/media/${identity}/${isDeep ? 'deep-listening' : 'listening'}`, {
		headers: { range: `bytes=${from * bytes}-${to * bytes - 1}` },
		...(signal ? { signal } : {})
	});
	if (!response.ok) throw new Error('The sound is not ready yet.');
	const buffer = await response.arrayBuffer();
	return isDeep
		? { pcm: new Int32Array(buffer), fullScale: 2 ** 31 }
		: { pcm: new Int16Array(buffer), fullScale: 2 ** 15 };
}

export function listeningFileOf({ identity, sound }: ClipPart): ListeningFile {
	return { identity, channels: sound?.channels ?? 0, isDeep: sound?.isDeep ?? false };
}

/** A file of a run, as it can be fetched; nothing where its listening sound is not ready. */
export interface ReadyFile extends ListeningFile {
	readonly samples: number;
}

/** What is there of the listening sounds, by file. */
export type ReadyFiles = ReadonlyMap<string, ReadyFile>;

export function readyFiles(clips: readonly { readonly parts: readonly ClipPart[] }[]): ReadyFiles {
	return new Map(
		clips.flatMap(({ parts }) =>
			parts.flatMap((part) =>
				part.sound?.listeningSamples
					? [[part.fileId, { ...listeningFileOf(part), samples: part.sound.listeningSamples }] as const]
					: []
			)
		)
	);
}

/**
 * A device's sound over a stretch of the line-up, clock error taken out, at whole samples of the line-up.
 * @param runs of the device, in order
 * @returns a row a channel; silence where the device does not record; nothing where it has no sound at all there
 */
export async function deviceSound(
	runs: readonly SoundRun[],
	files: ReadyFiles,
	fromFlicks: number,
	samples: number,
	signal: AbortSignal
): Promise<Float32Array<ArrayBuffer>[] | undefined> {
	const toFlicks = fromFlicks + samples * FLICKS_PER_SAMPLE;
	const sounding = runs.filter((run) => run.outFlicks > fromFlicks && run.inFlicks < toFlicks);
	if (!sounding.some((run) => run.files.some((file) => files.has(file.fileId)))) return undefined;
	const channels = Math.max(...sounding.map((run) => run.channels));
	const rows = Array.from({ length: channels }, () => new Float32Array(samples));
	for (const run of sounding) {
		const from = Math.max(0, Math.ceil((run.inFlicks - fromFlicks) / FLICKS_PER_SAMPLE - 1e-6));
		const to = Math.min(samples, Math.ceil((run.outFlicks - fromFlicks) / FLICKS_PER_SAMPLE - 1e-6));
		if (to <= from) continue;
		const own = await runSound(run, files, fromFlicks, from, to, signal);
		for (const [channel, row] of own.entries())
			for (let i = 0; i < row.length; i++) rows[channel]![from + i]! += row[i]!;
	}
	return rows;
}

/** Samples `[from, to)` of a stretch that begins at `fromFlicks`, of one run, its fades in it. */
async function runSound(
	run: SoundRun,
	files: ReadyFiles,
	fromFlicks: number,
	from: number,
	to: number,
	signal: AbortSignal
): Promise<readonly Float32Array[]> {
	const positionOf = (sample: number) =>
		ownTimeAt(run.course, fromFlicks + sample * FLICKS_PER_SAMPLE) / FLICKS_PER_SAMPLE;
	const [begins, ends] = [positionOf(from), positionOf(to)];
	// A clock that bends goes straight for so short a time.
	const step = run.course.bend ? (ends - begins) / (to - from) : 1 / run.course.rateFactor;
	const first = Math.floor(begins) - CORRECTION_REACH;
	const end = Math.ceil(ends) + CORRECTION_REACH;
	const interleaved = await samplesOfRun(run, files, first, end, signal);
	const rows = Array.from({ length: run.channels }, () => new Float32Array(to - from));
	correctClock(interleaved, rows, begins - first, step, 0, to - from);
	const isFading =
		fromFlicks + from * FLICKS_PER_SAMPLE < run.fadedInFlicks ||
		fromFlicks + to * FLICKS_PER_SAMPLE > run.fadesOutFlicks;
	if (isFading)
		for (let i = 0; i < to - from; i++) {
			const gain = runGain(run, fromFlicks + (from + i) * FLICKS_PER_SAMPLE);
			for (const row of rows) row[i]! *= gain;
		}
	return rows;
}

/** Samples `[from, to)` of a run, interleaved, over the seams of its files; silence where there are none. */
async function samplesOfRun(
	run: SoundRun,
	files: ReadyFiles,
	from: number,
	to: number,
	signal: AbortSignal
): Promise<Float32Array> {
	const out = new Float32Array((to - from) * run.channels);
	const starts = fileSamples(run, LISTENING_RATE);
	await Promise.all(
		run.files.map(async ({ fileId }, index) => {
			const file = files.get(fileId);
			if (file?.channels !== run.channels) return;
			const start = starts[index]!;
			const begins = Math.max(from, start);
			const ends = Math.min(to, starts[index + 1] ?? Infinity, start + file.samples);
			if (ends <= begins) return;
			const { pcm, fullScale } = await fetchListening(file, begins - start, ends - start, signal);
			const at = (begins - from) * run.channels;
			for (let i = 0; i < pcm.length; i++) out[at + i] = pcm[i]! / fullScale;
		})
	);
	return out;
}
