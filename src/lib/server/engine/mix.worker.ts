import { open } from 'node:fs/promises';
import { mixer, type MixStretch, runUpSamples, type Sides } from '../../core/program/mix';
import type { SoundInterval } from '../../core/program/mixed-sound';
import { fileSamples } from '../../core/program/sound-runs';
import { CORRECTION_REACH, correctClock } from '../../core/signal/clock-correction';
import { courseAt, ownTimeAt } from '../../core/time/course';
import { FLICKS_PER_SECOND, flicksToSeconds } from '../../core/time/flicks';
import { decodeChannels } from '../media/decode-sound';
import type { SoundFiles } from '../media/sound-inputs';

/** An interval of the plan with what is needed to read its files, in their order. */
export interface IntervalToMix {
	readonly interval: SoundInterval;
	readonly files: readonly SoundFiles[];
}

export interface MixTask {
	readonly intervals: readonly IntervalToMix[];
	readonly inFlicks: number;
	readonly outFlicks: number;
	/** Gets two channels of 32-bit floats at `MIX_SAMPLE_RATE`. */
	readonly target: string;
}

export const MIX_SAMPLE_RATE = 48_000;
const FLICKS_PER_SAMPLE = FLICKS_PER_SECOND / MIX_SAMPLE_RATE;
const BLOCK_SAMPLES = 1 << 15;

/**
 * Mixes sounds onto the line-up's time, clock errors taken out, into a file. Memory stays bounded: sound is taken as
 * it is decoded, and added to what already stands in the file.
 */
export default async function mix(task: MixTask): Promise<void> {
	const total = Math.round(flicksToSeconds(task.outFlicks - task.inFlicks) * MIX_SAMPLE_RATE);
	const file = await open(task.target, 'w+');
	try {
		await file.truncate(total * 8);
		for (const one of task.intervals) await addInterval(one, task.inFlicks, total, file);
	} finally {
		await file.close();
	}
}

type MixFile = Awaited<ReturnType<typeof open>>;

async function addInterval(
	{ interval, files }: IntervalToMix,
	inFlicks: number,
	total: number,
	file: MixFile
): Promise<void> {
	const { run } = interval;
	const heardFrom = Math.max(0, Math.ceil(flicksToSeconds(interval.inFlicks - inFlicks) * MIX_SAMPLE_RATE - 1e-6));
	const endSample = Math.min(total, Math.ceil(flicksToSeconds(interval.outFlicks - inFlicks) * MIX_SAMPLE_RATE - 1e-6));
	// Position among the run's samples of a sample of the mix, and back.
	const { course } = run;
	const positionOf = (sample: number) => ownTimeAt(course, inFlicks + sample * FLICKS_PER_SAMPLE) / FLICKS_PER_SAMPLE;
	const sampleAt = (position: number) =>
		(courseAt(course, position * FLICKS_PER_SAMPLE) - inFlicks) / FLICKS_PER_SAMPLE;
	const add = mixer(interval, MIX_SAMPLE_RATE);
	let next = heardFrom - runUpSamples(interval, MIX_SAMPLE_RATE);
	let held = new Float32Array();
	let heldFrom = 0;
	const take = async (isLast: boolean) => {
		const heldCount = held.length / run.channels;
		while (next < endSample) {
			// As many samples as what is held allows, with what interpolation needs on both sides.
			const reachable = isLast ? endSample : Math.floor(sampleAt(heldFrom + heldCount - CORRECTION_REACH - 1));
			const until = Math.min(endSample, reachable, next + BLOCK_SAMPLES);
			if (until <= next) break;
			const position = positionOf(next);
			// A clock that bends goes straight for so short a time.
			const step = course.bend ? (positionOf(until) - position) / (until - next) : 1 / course.rateFactor;
			const rows = Array.from({ length: run.channels }, () => new Float32Array(until - next));
			correctClock(held, rows, position - heldFrom, step, 0, until - next);
			const stretch: MixStretch = {
				rows: interval.channels.map((one) => rows[one.channel]!),
				fromFlicks: inFlicks + next * FLICKS_PER_SAMPLE,
				runUp: Math.max(0, Math.min(until, heardFrom) - next)
			};
			await addTo(file, next + stretch.runUp, until, (sides) => add(stretch, sides, 0));
			next = until;
		}
	};
	for await (const block of runBlocks(files, fileSamples(run, MIX_SAMPLE_RATE), run.channels)) {
		if (next >= endSample) break;
		const joined = new Float32Array(held.length + block.length);
		joined.set(held);
		joined.set(block, held.length);
		held = joined;
		await take(false);
		const keepFrom = Math.floor(positionOf(next)) - CORRECTION_REACH - 1;
		const drop = Math.max(0, Math.min(Math.floor(held.length / run.channels), keepFrom - heldFrom));
		held = held.subarray(drop * run.channels);
		heldFrom += drop;
	}
	await take(true);
}

/**
 * The samples of a run's files, one after another as they were recorded: a file that gives more than it has room for is cut,
 * one that gives fewer is filled with silence.
 * @param starts samples of the run before each file
 */
async function* runBlocks(
	files: readonly SoundFiles[],
	starts: readonly number[],
	channels: number
): AsyncGenerator<Float32Array> {
	let given = 0;
	for (const [index, one] of files.entries()) {
		const most = (starts[index + 1] ?? Infinity) - given;
		let own = 0;
		for await (const block of blocksOf(one)) {
			const usable = block.subarray(0, Math.max(0, Math.min(block.length, (most - own) * channels)));
			own += usable.length / channels;
			yield usable;
			if (own >= most) break;
		}
		if (index + 1 < files.length && own < most) yield new Float32Array((most - own) * channels);
		given = starts[index + 1] ?? 0;
	}
}

/** A file's blocks as they are decoded; whoever stops taking them stops the decoding. */
async function* blocksOf(files: SoundFiles): AsyncGenerator<Float32Array> {
	const stop = new AbortController();
	let give: ((block: Float32Array | undefined) => void) | undefined;
	let taken: (() => void) | undefined;
	let fault: unknown;
	let block = new Promise<Float32Array | undefined>((resolve) => (give = resolve));
	const decoding = decodeChannels(
		files,
		MIX_SAMPLE_RATE,
		async (samples) => {
			// What was decoded before it could be stopped is not wanted any more.
			if (stop.signal.aborted) return;
			const wasTaken = new Promise<void>((resolve) => (taken = resolve));
			give!(samples);
			await wasTaken;
		},
		{ signal: stop.signal }
	).then(
		() => give!(undefined),
		(error: unknown) => {
			fault = error;
			give!(undefined);
		}
	);
	try {
		for (;;) {
			const samples = await block;
			if (!samples) break;
			block = new Promise((resolve) => (give = resolve));
			yield samples;
			taken!();
		}
		if (fault) throw fault as Error;
	} finally {
		stop.abort();
		taken?.();
		await decoding;
	}
}

/** Adds something to a stretch of what stands in the file already; an empty one only leads up to the next. */
async function addTo(file: MixFile, from: number, until: number, add: (sides: Sides) => void): Promise<void> {
	const count = until - from;
	if (count <= 0) {
		add({ left: new Float32Array(), right: new Float32Array() });
		return;
	}
	const out = new Float32Array(count * 2);
	const bytes = new Uint8Array(out.buffer);
	await file.read(bytes, 0, bytes.length, from * 8);
	const sides = { left: new Float32Array(count), right: new Float32Array(count) };
	add(sides);
	for (let i = 0; i < count; i++) {
		out[2 * i] = out[2 * i]! + sides.left[i]!;
		out[2 * i + 1] = out[2 * i + 1]! + sides.right[i]!;
	}
	await file.write(bytes, 0, bytes.length, from * 8);
}
