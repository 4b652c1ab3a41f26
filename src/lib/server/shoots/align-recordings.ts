import type { JoinableFile, Recording } from '../../core/devices/spanned';
import { ANALYSIS_SAMPLE_RATE } from '../../core/features/band-features';
import type { SharpSound } from '../../core/features/sharp-sounds';
import type { Listening } from '../../core/match/match-pair';
import { type AlignableClip, type Alignment, conclude, pairTasks } from '../../core/solve/align';
import type { EnginePool } from '../compute/engine-pool';
import { inParallel } from '../compute/in-parallel';

export interface AlignProgress {
	readonly stage: 'decoding' | 'comparing';
	/** 0 to 1 within the stage. */
	readonly share: number;
	/** What is being worked on. */
	readonly what: string;
}

export interface AlignOptions {
	readonly reference?: string;
	readonly signal?: AbortSignal;
	readonly onProgress?: (progress: AlignProgress) => void;
}

export interface AlignedRecordings {
	/** Clip identities are the places in the list of recordings, as text. */
	readonly alignment: Alignment;
	/** Of each recording, in media time. */
	readonly sharpSounds: readonly (readonly SharpSound[])[];
	readonly unreadable: ReadonlyMap<string, string>;
	readonly decodeSeconds: number;
	readonly alignSeconds: number;
}

/** Gives a file's sound at `ANALYSIS_SAMPLE_RATE`; a cache may stand behind it. @throws when it cannot be decoded */
export type SoundSource = (file: JoinableFile, onProgress: (seconds: number) => void) => Promise<Float32Array>;

/** Decodes, compares and solves: the line-up of a set of recordings, whatever keeps them. */
export async function alignRecordings(
	recordings: readonly Recording[],
	sound: SoundSource,
	pool: EnginePool,
	options: AlignOptions = {}
): Promise<AlignedRecordings> {
	const began = performance.now();
	const unreadable = new Map<string, string>();
	const files = recordings.flatMap((recording) => recording.parts.map((part) => part.file));
	const sounds = await decodeAll(files, sound, unreadable, options);
	const decoded = performance.now();
	const clips = recordings.map((recording, index) => alignable(recording, `${index}`, sounds));
	const tasks = pairTasks(clips);
	const needed = new Set(tasks.flat());
	const sharpSounds: (readonly SharpSound[])[] = clips.map(() => []);
	const listening = new Map<number, Listening>();
	await inParallel([...clips.keys()], 4, async (index) => {
		options.signal?.throwIfAborted();
		const clip = clips[index]!;
		if (!clip.samples) return;
		const listened = await pool.listen(clip.samples, options.signal);
		sharpSounds[index] = listened.sharpSounds.map((one) => ({ ...one, seconds: one.seconds + clip.soundStartSeconds }));
		if (needed.has(index)) listening.set(index, listened.listening);
	});
	let done = 0;
	const matches = await inParallel(tasks, 4, async ([a, b]) => {
		options.signal?.throwIfAborted();
		const match = await pool.match(
			listening.get(a)!,
			`${began}-${a}`,
			listening.get(b)!,
			`${began}-${b}`,
			options.signal
		);
		done++;
		options.onProgress?.({ stage: 'comparing', share: done / tasks.length, what: `${done} of ${tasks.length} pairs` });
		return match;
	});
	const alignment = conclude(clips, tasks, matches, options.reference);
	return {
		alignment,
		sharpSounds,
		unreadable,
		decodeSeconds: (decoded - began) / 1000,
		alignSeconds: (performance.now() - decoded) / 1000
	};
}

async function decodeAll(
	files: readonly JoinableFile[],
	sound: SoundSource,
	unreadable: Map<string, string>,
	options: AlignOptions
): Promise<ReadonlyMap<string, Float32Array>> {
	const audible = files.filter((file) => file.facts.audio);
	const total = audible.reduce((sum, file) => sum + file.facts.durationSeconds, 0);
	const secondsDone = new Map<string, number>();
	const sounds = new Map<string, Float32Array>();
	await inParallel(audible, 2, async (file) => {
		options.signal?.throwIfAborted();
		const report = (seconds: number) => {
			secondsDone.set(file.id, Math.min(seconds, file.facts.durationSeconds));
			const all = [...secondsDone.values()].reduce((sum, one) => sum + one, 0);
			options.onProgress?.({ stage: 'decoding', share: total > 0 ? all / total : 1, what: file.path });
		};
		try {
			sounds.set(file.id, await sound(file, report));
			report(file.facts.durationSeconds);
		} catch (error) {
			options.signal?.throwIfAborted();
			unreadable.set(file.id, error instanceof Error ? error.message : 'It cannot be decoded.');
		}
	});
	return sounds;
}

function alignable(recording: Recording, id: string, sounds: ReadonlyMap<string, Float32Array>): AlignableClip {
	const [first] = recording.parts;
	const last = recording.parts.at(-1)!;
	const facts = first!.file.facts;
	const samples =
		facts.audio && recording.parts.every((part) => sounds.has(part.file.id)) ? joined(recording, sounds) : undefined;
	return {
		id,
		device: recording.device,
		hasPicture: facts.video !== undefined,
		channels: facts.audio?.channels ?? 0,
		durationSeconds: last.offsetSeconds + last.file.facts.durationSeconds,
		soundStartSeconds: facts.audio?.startSeconds ?? 0,
		...(samples ? { samples } : {})
	};
}

function joined(recording: Recording, sounds: ReadonlyMap<string, Float32Array>): Float32Array {
	if (recording.parts.length === 1) return sounds.get(recording.parts[0]!.file.id)!;
	const last = recording.parts.at(-1)!;
	const at = (seconds: number) => Math.round(seconds * ANALYSIS_SAMPLE_RATE);
	const whole = new Float32Array(
		new SharedArrayBuffer(4 * (at(last.offsetSeconds) + sounds.get(last.file.id)!.length))
	);
	for (const { file, offsetSeconds } of recording.parts) {
		const part = sounds.get(file.id)!;
		whole.set(part.subarray(0, Math.max(0, whole.length - at(offsetSeconds))), at(offsetSeconds));
	}
	return whole;
}
