import pMap from 'p-map';
import { followersOf, type JoinableFile, type Recording } from '../../../core/gather/spanned';
import { ANALYSIS_SAMPLE_RATE } from '../../../core/features/band-features';
import type { Span } from '../../../core/match/windows/listening-windows';
import type { Way } from '../../../contract/jobs';
import { align } from '../../../core/solve/align';
import type { Alignment } from '../../../core/solve/alignment';
import { alignByTimecode, clockHints, withTimecode } from '../../../core/solve/timecode/by-timecode';
import type { AlignableClip, FixedPlace } from '../../../core/solve/clip';
import type { Sound } from '../../../core/solve/links/comparer';
import type { EnginePool } from '../../engine/engine-pool';
import { poolComparer } from '../../engine/pool-comparer';
import { type Jumping, type LazySound, openLazySound } from '../../media/lazy-sound';
import type { SoundTimecode } from '../../media/sound-timecode';

export interface AlignProgress {
	/** 0 to 1. */
	readonly share: number;
	/** What is being worked on. */
	readonly what: string;
}

export interface AlignOptions {
	/** By sound, by timecode, or by the best of both, which is the default. */
	readonly by?: Way;
	readonly reference?: string;
	readonly signal?: AbortSignal;
	readonly onProgress?: (progress: AlignProgress) => void;
}

export interface AlignedRecordings {
	/** Clips are told by their places in the list of recordings. */
	readonly alignment: Alignment;
	/** Files that could not be decoded, with the reason. */
	readonly unreadable: ReadonlyMap<string, string>;
	/** Recordings whose timecode was heard, not read; looked for only where timecode alone is to count. */
	readonly soundTimecodes: ReadonlyMap<number, SoundTimecode>;
	/** Time spent reading sound and time spent on the rest, as if one had waited for the other. */
	readonly decodeSeconds: number;
	readonly alignSeconds: number;
}

/** How a file's sound is read. */
export interface SoundSource {
	jumping(file: JoinableFile): Jumping;
	/** Reads stretches of whole seconds, at `ANALYSIS_SAMPLE_RATE`. @throws when it cannot be decoded */
	read(file: JoinableFile, stretches: readonly Span[], channel?: number): Promise<readonly Int16Array[]>;
	/** Whether it is short, and slow to open: better read with others of its kind. */
	isBetterTogether(file: JoinableFile): boolean;
	/** Reads whole files, the mix of all channels of each. @throws when one of them cannot be decoded */
	readTogether(files: readonly JoinableFile[]): Promise<readonly Int16Array[]>;
	/** Timecode that was recorded as sound. @throws when it cannot be decoded */
	findTimecode(file: JoinableFile): Promise<SoundTimecode | undefined>;
}

/** Reads, compares and solves: the line-up of a set of recordings, whatever keeps them. */
export async function alignRecordings(
	recordings: readonly Recording[],
	source: SoundSource,
	pool: EnginePool,
	options: AlignOptions & { readonly fixed?: ReadonlyMap<number, FixedPlace> } = {}
): Promise<AlignedRecordings> {
	const began = performance.now();
	const unreadable = new Map<string, string>();
	const reading = createReading(pool.threads);
	const together = readTogether(recordings, source, reading, options.signal);
	const sounds = new Map<string, LazySound>();
	const soundOf = ({ clip, channel }: Sound): LazySound | undefined => {
		const recording = recordings[clip]!;
		if (recording.parts.some((part) => unreadable.has(part.file.id))) return undefined;
		const key = `${clip} ${channel ?? ''}`;
		let sound = sounds.get(key);
		if (!sound)
			sounds.set(
				key,
				(sound = openSound(recording, channel, { source, reading, together, unreadable, signal: options.signal }))
			);
		return sound;
	};
	const clips = recordings.map((recording, index) => alignable(recording, `${index}`, options.fixed?.get(index)));
	if (options.by === 'timecode') {
		const soundTimecodes = await listenForTimecode(recordings, source, reading, unreadable, options.signal);
		const timed = clips.map((clip, index) => withClock(clip, recordings[index]!, soundTimecodes.get(index)));
		const alignment = alignByTimecode(timed, options.reference);
		const decodeSeconds = reading.seconds();
		const alignSeconds = Math.max(0, (performance.now() - began) / 1000 - decodeSeconds);
		return { alignment, unreadable, soundTimecodes, decodeSeconds, alignSeconds };
	}
	const isBest = options.by !== 'sound';
	const bySound = await align(clips, poolComparer(soundOf, pool, options.signal), {
		atOnce: 2 * pool.threads,
		...(options.reference === undefined ? {} : { reference: options.reference }),
		...(options.signal ? { signal: options.signal } : {}),
		...(isBest ? { hintsFor: (a, b, links) => clockHints(clips, a, b, links) } : {}),
		followers: followersOf(recordings),
		onProgress: (share) => options.onProgress?.({ share, what: reading.latest() })
	});
	const alignment = isBest ? withTimecode(clips, bySound) : bySound;
	const seconds = (performance.now() - began) / 1000;
	const decodeSeconds = reading.seconds();
	return {
		alignment,
		unreadable,
		soundTimecodes: new Map(),
		decodeSeconds,
		alignSeconds: Math.max(0, seconds - decodeSeconds)
	};
}

/** Where nothing is written of a recording's time, it may be heard: on a channel that carries timecode. */
async function listenForTimecode(
	recordings: readonly Recording[],
	source: SoundSource,
	reading: Reading,
	unreadable: Map<string, string>,
	signal: AbortSignal | undefined
): Promise<ReadonlyMap<number, SoundTimecode>> {
	const found = new Map<number, SoundTimecode>();
	const untimed = [...recordings.entries()].filter(([, { parts }]) => {
		const { facts } = parts[0]!.file;
		return facts.clockSeconds === undefined && facts.audio !== undefined;
	});
	await pMap(
		untimed,
		async ([index, { parts }]) => {
			const { file } = parts[0]!;
			try {
				const timecode = await reading.run(file.path, () => source.findTimecode(file));
				if (timecode) found.set(index, timecode);
			} catch (error) {
				signal?.throwIfAborted();
				unreadable.set(file.id, error instanceof Error ? error.message : 'It cannot be decoded.');
			}
		},
		{ concurrency: 4 }
	);
	return found;
}

function withClock(clip: AlignableClip, { parts }: Recording, timecode: SoundTimecode | undefined): AlignableClip {
	if (!timecode) return clip;
	const { seconds, daySeconds, frameSeconds } = timecode;
	// The file's first sample, which lies before the clip where it is the rest of a file that was taken apart.
	const { file, offsetSeconds } = parts[0]!;
	const sampleAt = offsetSeconds + (file.facts.audio?.startSeconds ?? 0);
	return { ...clip, clock: { seconds: seconds - sampleAt, daySeconds, frameSeconds } };
}

/** What is being read: a bounded number of files at once, and for how long anything was. */
interface Reading {
	run<Result>(what: string, work: () => Promise<Result>): Promise<Result>;
	latest(): string;
	/** Time during which at least one file was being read. */
	seconds(): number;
}

function createReading(atOnce: number): Reading {
	const waiting: (() => void)[] = [];
	let active = 0;
	let since = 0;
	let milliseconds = 0;
	let latest = '';
	return {
		async run(what, work) {
			if (active >= atOnce) await new Promise<void>((go) => waiting.push(go));
			else if (active++ === 0) since = performance.now();
			latest = what;
			try {
				return await work();
			} finally {
				const next = waiting.shift();
				// Whoever waits takes the place over.
				if (next) next();
				else if (--active === 0) milliseconds += performance.now() - since;
			}
		},
		latest: () => latest,
		seconds: () => milliseconds / 1000
	};
}

/** A decoder opens so many files at once. */
const MAX_TOGETHER = 6;

interface Lot {
	readonly files: readonly JoinableFile[];
	/** Sounds that have not been taken yet, by file. */
	work?: Promise<Map<string, Int16Array>>;
}

/** The mix of a file that is read together with others; nothing when it is read by itself. */
type Together = (file: JoinableFile) => Promise<Int16Array | undefined>;

/** Short files in lots, in about the order in which they are asked for: who asks for one gets its whole lot read. */
function readTogether(
	recordings: readonly Recording[],
	source: SoundSource,
	reading: Reading,
	signal: AbortSignal | undefined
): Together {
	const files = recordings
		.flatMap(({ parts }) => parts.map(({ file }) => file))
		.filter((file) => file.facts.audio && source.isBetterTogether(file))
		.sort((x, y) => y.facts.durationSeconds - x.facts.durationSeconds);
	const lots: Lot[] = [];
	for (let from = 0; from < files.length; from += MAX_TOGETHER)
		lots.push({ files: files.slice(from, from + MAX_TOGETHER) });
	const lotOf = new Map(lots.flatMap((lot, index) => lot.files.map(({ id }) => [id, index] as const)));
	const begin = (lot: Lot): Promise<Map<string, Int16Array>> => {
		if (!lot.work) {
			lot.work = reading.run(lot.files[0]!.path, async () => {
				const sounds = await source.readTogether(lot.files);
				return new Map(lot.files.map(({ id }, at) => [id, sounds[at]!]));
			});
			lot.work.catch(() => undefined);
		}
		return lot.work;
	};
	return async (file) => {
		const index = lotOf.get(file.id);
		const lot = index === undefined ? undefined : lots[index];
		if (index === undefined || !lot || lot.files.length === 1) return undefined;
		const work = begin(lot);
		// Read ahead: it will be asked for next.
		const next = lots[index + 1];
		if (next) void begin(next);
		try {
			const sounds = await work;
			const sound = sounds.get(file.id);
			// Whoever takes it copies it: nothing is kept twice.
			sounds.delete(file.id);
			return sound;
		} catch {
			// One of them is damaged: each by itself will show which.
			signal?.throwIfAborted();
			return undefined;
		}
	};
}

/** What a sound is read by. */
interface Readers {
	readonly source: SoundSource;
	readonly reading: Reading;
	readonly together: Together;
	/** Files that could not be read, with the reason. */
	readonly unreadable: Map<string, string>;
	readonly signal: AbortSignal | undefined;
}

function openSound(
	recording: Recording,
	channel: number | undefined,
	{ source, reading, together, unreadable, signal }: Readers
): LazySound {
	const zero = soundStartOf(recording);
	const parts = recording.parts.map(({ file, offsetSeconds: mediaOffset }) => {
		// From media time to the sound's own.
		const offsetSeconds = mediaOffset + (file.facts.audio?.startSeconds ?? 0) - zero;
		const read = async (stretches: readonly Span[]) => {
			try {
				// Short files are asked for as a whole.
				const mix = channel === undefined ? await together(file) : undefined;
				return mix ? [mix] : await reading.run(file.path, () => source.read(file, stretches, channel));
			} catch (error) {
				signal?.throwIfAborted();
				unreadable.set(file.id, error instanceof Error ? error.message : 'It cannot be decoded.');
				return stretches.map(() => new Int16Array());
			}
		};
		return { offsetSeconds, sound: openLazySound(soundSeconds(file), read, source.jumping(file)) };
	});
	const [only, ...others] = parts;
	const seconds = durationOf(recording) - zero;
	const isOneFile =
		others.length === 0 &&
		only!.offsetSeconds === 0 &&
		only!.sound.samples.length <= seconds * ANALYSIS_SAMPLE_RATE + 1;
	return isOneFile ? only!.sound : joinedSound(parts, seconds);
}

function soundSeconds(file: JoinableFile): number {
	return Math.max(0, file.facts.durationSeconds - (file.facts.audio?.startSeconds ?? 0));
}

function durationOf({ parts, durationSeconds }: Recording): number {
	const last = parts.at(-1)!;
	return durationSeconds ?? last.offsetSeconds + last.file.facts.durationSeconds;
}

/** Media time of the first sample; the rest of a file that was taken apart begins in the midst of its sound. */
function soundStartOf({ parts }: Recording): number {
	const { file, offsetSeconds } = parts[0]!;
	return Math.max(0, (file.facts.audio?.startSeconds ?? 0) + Math.min(0, offsetSeconds));
}

/** Several files' sound as one, or a stretch of it. */
function joinedSound(
	parts: readonly { readonly offsetSeconds: number; readonly sound: LazySound }[],
	durationSeconds: number
): LazySound {
	const at = (seconds: number) => Math.round(seconds * ANALYSIS_SAMPLE_RATE);
	const samples = new Int16Array(new SharedArrayBuffer(2 * Math.max(0, at(durationSeconds))));
	return {
		samples,
		async need(...stretches) {
			for (const { offsetSeconds, sound } of parts) {
				const seconds = sound.samples.length / ANALYSIS_SAMPLE_RATE;
				const own = stretches
					.map(({ fromSeconds, toSeconds }) => ({
						fromSeconds: Math.max(0, Math.max(0, fromSeconds) - offsetSeconds),
						toSeconds: Math.min(seconds, Math.min(durationSeconds, toSeconds) - offsetSeconds)
					}))
					.filter(({ fromSeconds, toSeconds }) => toSeconds > fromSeconds);
				if (own.length === 0) continue;
				await sound.need(...own);
				for (const { fromSeconds, toSeconds } of own) {
					const target = at(offsetSeconds) + at(fromSeconds);
					const end = Math.min(at(toSeconds), at(fromSeconds) + samples.length - target);
					samples.set(sound.samples.subarray(at(fromSeconds), end), target);
				}
			}
		}
	};
}

function alignable(recording: Recording, id: string, fixed: FixedPlace | undefined): AlignableClip {
	const [first] = recording.parts;
	const facts = first!.file.facts;
	const durationSeconds = durationOf(recording);
	const soundStartSeconds = soundStartOf(recording);
	return {
		id,
		device: recording.device,
		hasPicture: facts.video !== undefined,
		channels: facts.audio?.channels ?? 0,
		durationSeconds,
		soundStartSeconds,
		soundSeconds: facts.audio ? durationSeconds - soundStartSeconds : 0,
		...(facts.audio ? { sampleRate: facts.audio.sampleRate } : {}),
		...(facts.clockSeconds === undefined
			? {}
			: {
					clock: {
						seconds: facts.clockSeconds - Math.min(0, first!.offsetSeconds),
						daySeconds: facts.clockDaySeconds ?? 86_400,
						frameSeconds: facts.clockFrameSeconds ?? 1 / 25
					}
				}),
		...(facts.creationTime === undefined ? {} : { recordedAt: facts.creationTime }),
		...(fixed ? { fixed } : {})
	};
}
