import { createHash, randomUUID } from 'node:crypto';
import pMap from 'p-map';
import { courseFrom } from '../../../core/time/course';
import type { MediaFacts } from '../../../core/gather/media-facts';
import type { FrameRange } from '../../../core/measure/clipping';
import type { Judgement } from '../../../core/master/judge';
import type { ChannelKey, SourcesReport } from '../../../core/master/report';
import { FRAMES_A_SECOND, READINGS_RATE } from '../../../core/measure/readings';
import { type Twin, twinsInAll } from '../../../core/measure/twins';
import { fileSamples, soundRuns } from '../../../core/program/sound-runs';
import type { PlacedClip } from '../../../core/shoot/clip';
import type { Person } from '../../../core/shoot/person';
import type { ShootLineUp } from '../../../core/shoot/line-up';
import { placedClips, rangeOf } from '../../../core/shoot/lookup';
import type { Shoot } from '../../../core/shoot/shoot';
import { FLICKS_PER_SECOND, samplesToFlicks } from '../../../core/time/flicks';
import type { Queryable } from '../../db/database';
import type { HeardDevice, HeardFile, JudgeTask } from '../../engine/judge-sources';
import { isNothingWritable } from '../../disk/disk-fault';
import type { JobContext } from '../../jobs/job-queue';
import type { PiecedSound } from '../../media/listening/listening-pieces';
import { openListeningSource } from '../../media/listening/read-listening';
import { MediaError } from '../../media/media-error';
import { soundKeyOf } from '../../media/sound-inputs';
import type { Runtime } from '../../runtime';
import { prepareFileSound } from '../gather/prepare-file-sound';
import { insertPeople } from './commands';
import { compareMicrophones } from './microphones';

/** Grows when figures come out otherwise: what was found by an older one is found anew. */
const RECIPE = 3;
const FLICKS_A_FRAME = FLICKS_PER_SECOND / FRAMES_A_SECOND;
/** Of the work, judging what was read; the rest is reading it. */
const JUDGING_SHARE = 0.1;
const FILES_AT_ONCE = 2;

/** Job: measures what is not measured yet, and judges the sources of each line-up; who speaks is proposed once. */
export async function measure(runtime: Runtime, context: JobContext<'measure'>): Promise<void> {
	const { shoots, database } = runtime;
	const { shoot: before } = await shoots.current(context.shootId);
	if (await areAllJudged(database, before)) return;
	const sounds = await readSounds(runtime, before, context);
	for (const { id } of before.lineUps) {
		context.signal.throwIfAborted();
		// People that were found on one line-up are those of the next.
		const { shoot } = await shoots.current(context.shootId);
		const lineUp = shoot.lineUps.find((one) => one.id === id);
		if (!lineUp || (await isJudged(database, shoot, lineUp))) continue;
		const people = shoot.people.length > 0 || (await wasNamed(database, shoot.id)) ? shoot.people : undefined;
		context.progress(1 - JUDGING_SHARE / 2, 'Comparing the sources');
		await judgeLineUp(runtime, context, shoot, lineUp, sounds, people);
	}
}

async function isJudged(database: Queryable, shoot: Shoot, lineUp: ShootLineUp): Promise<boolean> {
	const known = await database.query(
		`select 1 from judgement where line_up_id = $1 and key = $2 and result ? 'microphones'`,
		[lineUp.id, keyOf(shoot, lineUp)]
	);
	return known.length > 0;
}

async function areAllJudged(database: Queryable, shoot: Shoot): Promise<boolean> {
	const judged = await Promise.all(shoot.lineUps.map((lineUp) => isJudged(database, shoot, lineUp)));
	return judged.every(Boolean);
}

/** What a line-up's judgement follows from: the places of its clips, its people, the program's stretch. */
export function keyOf(shoot: Shoot, lineUp: ShootLineUp): string {
	const clips = placedClips(shoot, lineUp.id).map(({ placement, parts, durationFlicks }) => [
		// Not whether it is locked, nor how sure it is.
		[placement.startFlicks, placement.ratePpm, placement.bend, placement.airFlicks],
		durationFlicks,
		parts.map((part) => [part.identity, part.offsetFlicks, part.isMissing ?? false])
	]);
	const names = shoot.devices.map((device) => [device.id, device.channelNames]);
	const people = shoot.people.map(({ id, channels }) => [id, channels]);
	const program = shoot.programs.find((one) => one.lineUpId === lineUp.id);
	const all = [RECIPE, clips, names, people, program?.inFlicks, program?.outFlicks];
	return createHash('sha256').update(JSON.stringify(all)).digest('hex');
}

async function wasNamed(database: Queryable, shootId: string): Promise<boolean> {
	const rows = await database.query(
		`select 1 from edit_change join edit on edit.id = edit_id where shoot_id = $1 and table_name = 'person' limit 1`,
		[shootId]
	);
	return rows.length > 0;
}

/** Readings of a file that are there. */
interface ReadSound {
	readonly path: string;
	readonly channels: number;
	readonly samples: number;
	readonly twins: readonly Twin[];
	/** The file itself. */
	readonly file: PiecedSound;
}

interface StoredFile {
	readonly id: string;
	readonly path: string;
	readonly relative_path: string;
	readonly identity: string;
	readonly facts: MediaFacts;
	readonly listening_samples: number | null;
	readonly heard_timecode: object | null;
}

/** Reads the sound of all that has a place, as far as it is not read yet. A damaged file is left out; its job of preparing tells why. */
async function readSounds(
	runtime: Runtime,
	shoot: Shoot,
	{ signal, progress }: JobContext<'measure'>
): Promise<ReadonlyMap<string, ReadSound>> {
	const wanted = shoot.clips
		.filter((clip) => clip.placement)
		.flatMap((clip) => clip.parts.filter((part) => part.sound && !part.isMissing).map((part) => part.fileId));
	const files = await runtime.database.query<StoredFile & Record<string, unknown>>(
		'select id, path, relative_path, identity, facts, listening_samples, heard_timecode from media_file where id = any($1)',
		[[...new Set(wanted)]]
	);
	const total = files.reduce((sum, { facts }) => sum + facts.durationSeconds, 0);
	const spent = new Map<string, number>();
	const sounds = new Map<string, ReadSound>();
	await pMap(
		files,
		async (file) => {
			const onProgress = (seconds: number) => {
				spent.set(file.id, Math.min(seconds, file.facts.durationSeconds));
				const done = [...spent.values()].reduce((sum, one) => sum + one, 0);
				progress((1 - JUDGING_SHARE) * (total > 0 ? done / total : 1), `Listening to ${file.relative_path}`);
			};
			const prepared = await unlessDamaged(signal, () => prepareFileSound(runtime, file, { signal, onProgress }));
			onProgress(file.facts.durationSeconds);
			if (!prepared) return;
			const { twins, samples } = prepared;
			const key = soundKeyOf(file.identity, file.facts);
			const path = runtime.cache.path(key, 'readings.u8');
			sounds.set(file.id, {
				path,
				channels: file.facts.audio!.channels,
				samples,
				twins,
				file: { path: file.path, key, facts: file.facts }
			});
		},
		{ concurrency: FILES_AT_ONCE }
	);
	return sounds;
}

/** Nothing for a file that cannot be decoded: the others are compared without it. What would hit all of them is thrown. */
async function unlessDamaged<Result>(signal: AbortSignal, work: () => Promise<Result>): Promise<Result | undefined> {
	try {
		return await work();
	} catch (error) {
		signal.throwIfAborted();
		if (isNothingWritable(error) || !(error instanceof MediaError) || error.kind === 'tool-missing') throw error;
		return undefined;
	}
}

async function judgeLineUp(
	runtime: Runtime,
	{ signal, progress }: JobContext<'measure'>,
	shoot: Shoot,
	lineUp: ShootLineUp,
	sounds: ReadonlyMap<string, ReadSound>,
	people: Shoot['people'] | undefined
): Promise<void> {
	const { pool } = runtime;
	const placed = placedClips(shoot, lineUp.id);
	const range = rangeOf(placed);
	const program = shoot.programs.find((one) => one.lineUpId === lineUp.id);
	const task: JudgeTask = {
		inFlicks: range.inFlicks,
		outFlicks: range.outFlicks,
		...(program ? { measured: { inFlicks: program.inFlicks, outFlicks: program.outFlicks } } : {}),
		devices: heardDevices(shoot, placed, sounds),
		...(people ? { people } : {})
	};
	const judgement = await pool.run({ kind: 'judge', ...task }, signal);
	const channels = task.devices.flatMap(({ deviceId, channelNames }) =>
		channelNames.map((_, channel): ChannelKey => ({ deviceId, channel }))
	);
	const found =
		people ??
		judgement.people.map((one) => ({
			id: randomUUID(),
			name: one.name,
			channels: one.channels.map((index) => channels[index]!)
		}));
	const report = reported(
		judgement,
		range.inFlicks,
		found.map((one) => one.id),
		channels
	);
	const before = await reportOf(runtime.database, lineUp.id);
	const isStored = await storeReport(runtime, shoot, lineUp, report, people ? undefined : found);
	if (!isStored) return;
	progress(1 - JUDGING_SHARE / 4, 'Comparing the microphones');
	const listening = openListeningSource(runtime.cache, runtime.precedence, 'background');
	const compared = await whileWanted(runtime, { ...shoot, people: withMarks(found) }, lineUp, signal, (goesOn) =>
		compareMicrophones(
			{ runtime: { pool, listening }, signal, goesOn, files: new Map([...sounds].map(([id, { file }]) => [id, file])) },
			{ shoot, lineUpId: lineUp.id, people: found, ...(before ? { before } : {}) },
			report
		)
	);
	if (compared) await storeReport(runtime, { ...shoot, people: withMarks(found) }, lineUp, compared, undefined);
}

/**
 * Puts down what was found. While it was, an editor may have changed what it follows from: then it is not what is asked for any
 * more.
 * @param found people who are new
 * @returns whether it was still wanted
 */
async function storeReport(
	{ shoots }: Runtime,
	shoot: Shoot,
	lineUp: ShootLineUp,
	report: SourcesReport,
	found: readonly Pick<Person, 'id' | 'name' | 'channels'>[] | undefined
): Promise<boolean> {
	let isStored = false;
	await shoots.change(shoot.id, async (transaction, before) => {
		const now = await before();
		const ownNow = now.lineUps.find((one) => one.id === lineUp.id);
		if (!ownNow || keyOf(now, ownNow) !== keyOf(shoot, lineUp)) return;
		if (found) await insertPeople(transaction, shoot.id, [], found);
		const key = keyOf(found ? { ...now, people: withMarks(found) } : now, ownNow);
		await transaction.query(
			`insert into judgement (shoot_id, line_up_id, key, result) values ($1, $2, $3, $4)
			 on conflict (line_up_id) do update set key = excluded.key, result = excluded.result`,
			[shoot.id, lineUp.id, key, report]
		);
		isStored = true;
	});
	return isStored;
}

const NOT_WANTED = Symbol('not wanted');

/** Does something as long as it is what is asked for; an editor who goes on has what he asked for last compared instead. */
async function whileWanted<Result>(
	{ shoots, precedence }: Runtime,
	shoot: Shoot,
	lineUp: ShootLineUp,
	signal: AbortSignal,
	work: (goesOn: () => Promise<void>) => Promise<Result>
): Promise<Result | undefined> {
	const key = keyOf(shoot, lineUp);
	try {
		return await work(async () => {
			// What plays, what is looked at, what somebody waits for goes first.
			await precedence.myTurn('background', signal);
			const { shoot: now } = await shoots.current(shoot.id);
			const ownNow = now.lineUps.find((one) => one.id === lineUp.id);
			if (!ownNow || keyOf(now, ownNow) !== key) throw NOT_WANTED;
		});
	} catch (error) {
		if (error === NOT_WANTED) return undefined;
		throw error;
	}
}

function withMarks(people: readonly Pick<Person, 'id' | 'name' | 'channels'>[]): readonly Person[] {
	return people.map((one, mark) => ({ ...one, mark }));
}

async function reportOf(database: Queryable, lineUpId: string): Promise<SourcesReport | undefined> {
	const [row] = await database.query<{ result: SourcesReport }>('select result from judgement where line_up_id = $1', [
		lineUpId
	]);
	return row?.result;
}

/** Each device's channels, and where its files sound. */
function heardDevices(
	shoot: Shoot,
	placed: readonly PlacedClip[],
	sounds: ReadonlyMap<string, ReadSound>
): readonly HeardDevice[] {
	const runs = soundRuns(placed);
	return shoot.devices.flatMap((device) => {
		const files = (runs.get(device.id) ?? []).flatMap((run) => {
			const starts = fileSamples(run, READINGS_RATE);
			return run.files.flatMap(({ fileId, firstSampleFlicks }, index): readonly HeardFile[] => {
				const sound = sounds.get(fileId);
				if (!sound) return [];
				const next = run.files[index + 1]?.firstSampleFlicks ?? run.outFlicks;
				return [
					{
						path: sound.path,
						channels: sound.channels,
						samples: sound.samples,
						firstChannel: 0,
						course: courseFrom(run.course, samplesToFlicks(starts[index]!, READINGS_RATE)),
						inFlicks: Math.max(run.inFlicks, firstSampleFlicks),
						outFlicks: Math.min(run.outFlicks, next)
					}
				];
			});
		});
		if (files.length === 0) return [];
		const count = Math.max(...files.map((file) => file.channels));
		const all = [...new Set(runs.get(device.id)!.flatMap((run) => run.files.map((file) => file.fileId)))].flatMap(
			(id) => sounds.get(id) ?? []
		);
		return [
			{
				deviceId: device.id,
				channelNames: Array.from({ length: count }, (_, channel) => device.channelNames[channel] ?? ''),
				files,
				twins: twinsInAll(all.map((sound) => sound.twins))
			}
		];
	});
}

function reported(
	{ sets, sources, speech }: Judgement,
	inFlicks: number,
	personIds: readonly string[],
	channels: readonly ChannelKey[]
): SourcesReport {
	const at = (frame: number) => Math.round(inFlicks + frame * FLICKS_A_FRAME);
	const stretch = ({ fromFrame, toFrame }: FrameRange) => ({ inFlicks: at(fromFrame), outFlicks: at(toFrame) });
	return {
		sets: sets.map((set) => ({ ...set, channels: set.channels.map((index) => channels[index]!) })),
		sources: sources.map(({ clipped, droppedOut, loudestHumFrame, loudestRumbleFrame, name: _name, ...source }) => ({
			...source,
			clipped: clipped.map(stretch),
			droppedOut: droppedOut.map(stretch),
			...(loudestHumFrame === undefined ? {} : { loudestHumFlicks: at(loudestHumFrame) }),
			...(loudestRumbleFrame === undefined ? {} : { loudestRumbleFlicks: at(loudestRumbleFrame) })
		})),
		personIds,
		speech: speech.map(({ person, fromFrame, toFrame, confidence }) => ({
			personId: personIds[person]!,
			...stretch({ fromFrame, toFrame }),
			confidence
		}))
	};
}

/** What was found on a line-up, and whether it still follows from what is there. */
export async function readJudgement(
	{ database, shoots }: Pick<Runtime, 'database' | 'shoots'>,
	shootId: string,
	lineUpId: string
): Promise<{ readonly report: SourcesReport | null; readonly isCurrent: boolean }> {
	const { shoot } = await shoots.current(shootId);
	const lineUp = shoot.lineUps.find((one) => one.id === lineUpId);
	if (!lineUp) return { report: null, isCurrent: true };
	const [row] = await database.query<{ key: string; result: SourcesReport }>(
		'select key, result from judgement where line_up_id = $1',
		[lineUpId]
	);
	return { report: row?.result ?? null, isCurrent: row?.key === keyOf(shoot, lineUp) };
}
