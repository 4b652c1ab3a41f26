import { open } from 'node:fs/promises';
import type { SoundPiece } from '../../core/program/render-plan';
import { CORRECTION_REACH, sampleAt } from '../../core/signal/clock-correction';
import { decibelsToFactor, panGains } from '../../core/master/gains';
import { flicksToSeconds } from '../../core/time/flicks';
import { decodeChannels } from '../media/decode-sound';
import type { SoundFiles } from '../media/sound-inputs';

/** A piece of the plan with what is needed to read its file. */
export interface PieceToMix {
	readonly piece: SoundPiece;
	readonly files: SoundFiles;
	readonly channels: number;
	/** Media time of the file's first sample. */
	readonly soundStartFlicks: number;
}

export interface MixTask {
	readonly pieces: readonly PieceToMix[];
	readonly inFlicks: number;
	readonly outFlicks: number;
	/** Gets two channels of 32-bit floats at `MIX_SAMPLE_RATE`. */
	readonly target: string;
}

export const MIX_SAMPLE_RATE = 48_000;
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
		for (const piece of task.pieces) await addPiece(piece, task.inFlicks, total, file);
	} finally {
		await file.close();
	}
}

async function addPiece(
	{ piece, files, channels, soundStartFlicks }: PieceToMix,
	inFlicks: number,
	total: number,
	file: Awaited<ReturnType<typeof open>>
): Promise<void> {
	const firstSample = Math.max(0, Math.ceil(flicksToSeconds(piece.inFlicks - inFlicks) * MIX_SAMPLE_RATE - 1e-6));
	const endSample = Math.min(total, Math.ceil(flicksToSeconds(piece.outFlicks - inFlicks) * MIX_SAMPLE_RATE - 1e-6));
	// Position in the file's sound of a sample of the mix: offset + sample * step.
	const step = 1 / piece.source.rateFactor;
	const offset =
		(flicksToSeconds(inFlicks - piece.source.startFlicks) * step - flicksToSeconds(soundStartFlicks)) * MIX_SAMPLE_RATE;
	const voices = piece.channels
		.filter((one) => one.channel < channels)
		.map((one) => {
			const [left, right] = panGains(one.pan);
			const gain = decibelsToFactor(one.gainDb);
			return { channel: one.channel, left: left * gain, right: right * gain };
		});
	let next = firstSample;
	let held = new Float32Array();
	let heldFrom = 0;
	const take = async (isLast: boolean) => {
		const heldCount = held.length / channels;
		while (next < endSample) {
			// As many samples as what is held allows, with what interpolation needs on both sides.
			const reachable = isLast ? endSample : Math.floor((heldFrom + heldCount - CORRECTION_REACH - 1 - offset) / step);
			const until = Math.min(endSample, reachable, next + BLOCK_SAMPLES);
			if (until <= next) break;
			await addBlock(file, next, until, (sample) => offset + sample * step - heldFrom, held, channels, voices);
			next = until;
		}
	};
	await decodeChannels(files, MIX_SAMPLE_RATE, async (block) => {
		if (next >= endSample) return;
		const joined = new Float32Array(held.length + block.length);
		joined.set(held);
		joined.set(block, held.length);
		held = joined;
		await take(false);
		const keepFrom = Math.floor(offset + next * step) - CORRECTION_REACH - 1;
		const drop = Math.max(0, Math.min(Math.floor(held.length / channels), keepFrom - heldFrom));
		held = held.subarray(drop * channels);
		heldFrom += drop;
	});
	await take(true);
}

interface Voice {
	readonly channel: number;
	readonly left: number;
	readonly right: number;
}

async function addBlock(
	file: Awaited<ReturnType<typeof open>>,
	from: number,
	until: number,
	positionOf: (sample: number) => number,
	held: Float32Array,
	channels: number,
	voices: readonly Voice[]
): Promise<void> {
	const out = new Float32Array((until - from) * 2);
	const bytes = new Uint8Array(out.buffer);
	await file.read(bytes, 0, bytes.length, from * 8);
	for (let i = 0; i < until - from; i++) {
		const position = positionOf(from + i);
		for (const voice of voices) {
			const value = sampleAt(held, channels, voice.channel, position);
			out[2 * i] = out[2 * i]! + value * voice.left;
			out[2 * i + 1] = out[2 * i + 1]! + value * voice.right;
		}
	}
	await file.write(bytes, 0, bytes.length, from * 8);
}
