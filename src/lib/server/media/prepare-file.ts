import { open, readFile, rm, writeFile } from 'node:fs/promises';
import { ANALYSIS_SAMPLE_RATE } from '../../core/features/band-features';
import type { Span } from '../../core/match/windows/listening-windows';
import type { MediaFacts } from '../../core/gather/media-facts';
import type { Measured } from '../../core/measure/meter';
import type { Twin } from '../../core/measure/twins';
import type { SharpSound } from '../../core/features/sharp-sounds';
import { openSoundMeter, type SoundMeter } from '../engine/measure-sound';
import type { MeterTask } from '../engine/meter.worker';
import { decodeSound } from './decode-sound';
import { needsCopy } from './listening/listening-format';
import type { CachedKind, MediaCache } from './media-cache';
import type { ToolOptions } from './run-tool';
import { layoutInPlace } from './wave-sound';

export interface PrepareOptions extends Pick<ToolOptions, 'signal' | 'pausing'> {
	/** Seconds that are done. */
	readonly onProgress?: (seconds: number) => void;
}

/** What is known of a file's sound once it has been decoded as a whole. */
export interface PreparedSound {
	/** A channel, at the listening rate. */
	readonly samples: number;
	readonly sharpSounds: readonly SharpSound[];
	/** Channels that hold the same as another one. */
	readonly twins: readonly Twin[];
}

export interface SoundPreparation extends PrepareOptions {
	/** Finds the sharp sounds of a file of analysis sound. */
	readonly findSharpSounds: (analysisPath: string) => Promise<readonly SharpSound[]>;
}

const underWay = new Map<string, Promise<PreparedSound>>();

/**
 * A file's sound for the engine and for the eye, made once and kept: analysis sound (unless the engine reads the file in
 * place), peaks, what is measured of it, sharp sounds; a copy for the ear only where pieces of the file would not be exact.
 * Whoever asks while it is being made waits for the same work.
 */
export async function prepareSound(
	cache: MediaCache,
	path: string,
	key: string,
	facts: MediaFacts,
	options: SoundPreparation
): Promise<PreparedSound> {
	const running = underWay.get(key);
	if (running) return running.catch(() => prepareSound(cache, path, key, facts, options));
	const work = makeSound(cache, path, key, facts, options);
	underWay.set(key, work);
	try {
		return await work;
	} finally {
		underWay.delete(key);
	}
}

async function makeSound(
	cache: MediaCache,
	path: string,
	key: string,
	facts: MediaFacts,
	{ findSharpSounds, ...options }: SoundPreparation
): Promise<PreparedSound> {
	const isInPlace = (await layoutInPlace(path, facts)) !== undefined;
	const copyKind = facts.audio!.isDeep ? 'listening.s32' : 'listening.s16';
	const hasCopy = needsCopy(facts);
	const kinds: CachedKind[] = ['sound.json', 'peaks.s16', 'readings.u8'];
	if (!isInPlace) kinds.push('analysis.s16');
	if (hasCopy) kinds.push(copyKind);
	const made = await Promise.all(kinds.map((kind) => cache.has(key, kind)));
	if (made.every(Boolean)) return JSON.parse(await readFile(cache.path(key, 'sound.json'), 'utf8')) as PreparedSound;
	const { samples, twins } = await cache.put(key, 'readings.u8', (target) =>
		measureWhileDecoding(cache, key, { channels: facts.audio!.channels, target }, (onSound) => {
			const decode = (analysisPath: string, copyPath?: string) =>
				decodeSound(path, facts, { analysisPath, onSound, ...(copyPath ? { copyPath } : {}) }, options);
			return cache.put(key, 'analysis.s16', (analysisPath) =>
				hasCopy ? cache.put(key, copyKind, (copyPath) => decode(analysisPath, copyPath)) : decode(analysisPath)
			);
		})
	);
	const analysisPath = cache.path(key, 'analysis.s16');
	const prepared = { samples, sharpSounds: await findSharpSounds(analysisPath), twins };
	if (isInPlace) await rm(analysisPath, { force: true });
	await cache.put(key, 'sound.json', (target) => writeFile(target, JSON.stringify(prepared)));
	return prepared;
}

/** @param decode gives the sound, all of it @returns what was read of it; its peaks are kept */
async function measureWhileDecoding(
	cache: MediaCache,
	key: string,
	task: MeterTask,
	decode: (onSound: SoundMeter['add']) => Promise<void>
): Promise<Measured> {
	const meter = openSoundMeter(task);
	try {
		await decode(meter.add);
		const { peaks, ...measured } = await meter.finish();
		await cache.put(key, 'peaks.s16', (target) => writeFile(target, peaks));
		return measured;
	} finally {
		await meter.close();
	}
}

/** Stretches of a file's prepared analysis sound. @param stretches whole seconds */
export async function readAnalysis(
	cache: MediaCache,
	identity: string,
	stretches: readonly Span[]
): Promise<readonly Int16Array[]> {
	const file = await open(cache.path(identity, 'analysis.s16'), 'r');
	try {
		const parts: Int16Array[] = [];
		for (const { fromSeconds, toSeconds } of stretches) {
			const bytes = new Uint8Array(2 * ANALYSIS_SAMPLE_RATE * (toSeconds - fromSeconds));
			const { bytesRead } = await file.read(bytes, 0, bytes.length, 2 * ANALYSIS_SAMPLE_RATE * fromSeconds);
			parts.push(new Int16Array(bytes.buffer, 0, bytesRead >> 1));
		}
		return parts;
	} finally {
		await file.close();
	}
}
