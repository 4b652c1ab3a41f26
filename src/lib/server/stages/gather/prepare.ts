import pMap from 'p-map';
import { beyondLimits } from '../../../core/gather/beyond-limits';
import type { MediaFacts } from '../../../core/gather/media-facts';
import type { SharpSound } from '../../../core/features/sharp-sounds';
import { secondsToFlicks } from '../../../core/time/flicks';
import type { JobContext } from '../../jobs/job-queue';
import { prepareProxy, prepareSound } from '../../media/prepare-file';
import { soundFilesOf, soundKeyOf } from '../../media/sound-inputs';
import { isNothingWritable } from '../../disk/disk-fault';
import type { Runtime } from '../../runtime';
import { type PrepareTask, takeNext } from './prepare-order';
import { keepBelowLimit } from '../../storage/storage';

interface FileToPrepare {
	id: string;
	path: string;
	relative_path: string;
	identity: string;
	facts: MediaFacts;
	listening_samples: number | null;
	proxy_ready: boolean;
	heard_timecode: object | null;
}

/** Decoding one file keeps one core busy. */
const AT_ONCE = 2;
/** A second of picture costs about this many times a second of sound to prepare. */
const PICTURE_COST = 6;
/** A small picture that is being made can be played from this length on, and is opened anew when it has grown so much. */
const FIRST_SECONDS = 4;
const GROWTH = 1.6;

/** Job: makes what the ear and the eye need of each file; what an editor looks at comes first. */
export async function prepare(runtime: Runtime, context: JobContext): Promise<void> {
	const { database, cache, pool, shoots, precedence } = runtime;
	const stored = await database.query<FileToPrepare>(
		`select id, path, relative_path, identity, facts, listening_samples, proxy_ready, heard_timecode from media_file where shoot_id = $1 and state = 'probed' and channel_of is null order by relative_path`,
		[context.shootId]
	);
	const files = stored.filter((file) => beyondLimits(file.facts) === undefined);
	const sounds = files.filter((file) => file.facts.audio && file.listening_samples === null);
	const pictures = files.filter((file) => file.facts.video && !file.proxy_ready);
	const seconds = (list: readonly FileToPrepare[]) => list.reduce((sum, file) => sum + file.facts.durationSeconds, 0);
	const total = seconds(sounds) + PICTURE_COST * seconds(pictures);
	let finished = 0;
	const spent = new Map<FileToPrepare, number>();
	const share = () => (finished + [...spent.values()].reduce((sum, one) => sum + one, 0)) / total;
	const failures: string[] = [];
	const each = async (file: FileToPrepare, cost: number, work: (report: (done: number) => void) => Promise<void>) => {
		context.signal.throwIfAborted();
		try {
			await work((done) => {
				spent.set(file, cost * Math.min(done, file.facts.durationSeconds));
				context.progress(share(), file.relative_path);
			});
			await shoots.tell(context.shootId);
		} catch (error) {
			context.signal.throwIfAborted();
			// All others would fail as well.
			if (isNothingWritable(error)) throw error;
			// One damaged file holds nothing else up.
			failures.push(`${file.relative_path}: ${error instanceof Error ? error.message : 'it failed.'}`);
		}
		finished += cost * file.facts.durationSeconds;
		spent.delete(file);
	};
	const sound = async (file: FileToPrepare, report: (done: number) => void) => {
		const { path, facts } = file;
		const key = soundKeyOf(file.identity, facts);
		const { samples, sharpSounds } = await prepareSound(cache, path, key, facts, {
			signal: context.signal,
			pausing: precedence,
			onProgress: report,
			async findSharpSounds(analysisPath) {
				await precedence.myTurn(context.signal);
				return pool.run({ kind: 'sharp', path: analysisPath }, context.signal);
			}
		});
		await noteListening(runtime, file.id, samples, inMediaTime(sharpSounds, facts));
		await listenForTimecode(runtime, file, context.signal);
	};
	const picture = async (file: FileToPrepare, report: (done: number) => void) => {
		let told = FIRST_SECONDS / GROWTH;
		const onProgress = (seconds: number) => {
			report(seconds);
			if (seconds < told * GROWTH) return;
			told = seconds;
			void noteProxy(runtime, context, file.id, seconds, false).catch(() => undefined);
		};
		const options = { signal: context.signal, pausing: precedence, onProgress };
		await prepareProxy(cache, file.path, file.identity, file.facts, options);
		await noteProxy(runtime, context, file.id, file.facts.durationSeconds, true);
	};
	const left: PrepareTask<FileToPrepare>[] = [
		...sounds.map((file) => ({ file, kind: 'sound' as const })),
		...pictures.map((file) => ({ file, kind: 'picture' as const }))
	];
	let isPictureUnderWay = false;
	await pMap(
		Array.from({ length: AT_ONCE }),
		async () => {
			for (;;) {
				await precedence.myTurn(context.signal);
				const watched = runtime.watched.get(context.shootId) ?? new Set<string>();
				const next = takeNext(left, watched, isPictureUnderWay);
				if (!next) return;
				if (next.kind === 'sound') {
					await each(next.file, 1, (report) => sound(next.file, report));
				} else {
					isPictureUnderWay = true;
					await each(next.file, PICTURE_COST, (report) => picture(next.file, report));
					isPictureUnderWay = false;
				}
			}
		},
		{ concurrency: AT_ONCE }
	);
	await keepBelowLimit(runtime);
	if (failures.length > 0) throw new Error(`Not all files could be prepared. ${failures.join(' ')}`);
}

/** Notes how much of a small picture can be played; the page opens it anew each time, so that is told in growing steps. */
async function noteProxy(
	{ shoots }: Runtime,
	{ shootId }: JobContext,
	fileId: string,
	seconds: number,
	isWhole: boolean
): Promise<void> {
	await shoots.change(shootId, (transaction) =>
		transaction.query('update media_file set proxy_ready = proxy_ready or $3, proxy_seconds = $2 where id = $1', [
			fileId,
			seconds,
			isWhole
		])
	);
}

/** Where a file tells no clock time, one of its channels may. */
async function listenForTimecode({ database, pool }: Runtime, file: FileToPrepare, signal: AbortSignal): Promise<void> {
	if (file.facts.clockSeconds !== undefined || file.heard_timecode !== null) return;
	const found = await pool.run(
		{ kind: 'timecode', files: soundFilesOf(file.path, file.facts), channels: file.facts.audio!.channels },
		signal
	);
	// Of media time 0, not of the first sample.
	const day = found?.daySeconds ?? 1;
	const heard = found && { ...found, seconds: (found.seconds - file.facts.audio!.startSeconds + day) % day };
	await database.query('update media_file set heard_timecode = $2 where id = $1', [
		file.id,
		JSON.stringify(heard ?? {})
	]);
}

function inMediaTime(sounds: readonly SharpSound[], facts: MediaFacts): readonly number[] {
	return sounds.map((sound) => secondsToFlicks(sound.seconds + facts.audio!.startSeconds));
}

/** Notes that a file's listening sound is there, and where it is sharp. */
async function noteListening(
	{ database }: Runtime,
	fileId: string,
	listeningSamples: number,
	sharpSounds: readonly number[]
): Promise<void> {
	await database.query('update media_file set listening_samples = $2, sharp_sounds = $3 where id = $1', [
		fileId,
		listeningSamples,
		sharpSounds
	]);
}
