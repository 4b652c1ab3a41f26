import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pMap from 'p-map';
import type { JoinableFile, Recording } from '../../../core/gather/spanned';
import type { Judgement, JudgedSource } from '../../../core/master/judge';
import { FRAMES_A_SECOND, READINGS_RATE } from '../../../core/measure/readings';
import { type Twin, twinsInAll } from '../../../core/measure/twins';
import type { AlignedLineUp, Placed } from '../../../core/solve/alignment';
import type { Course } from '../../../core/time/course';
import { FLICKS_PER_SECOND, secondsToFlicks } from '../../../core/time/flicks';
import { createEnginePool, type EnginePool } from '../../engine/engine-pool';
import type { HeardDevice, HeardFile } from '../../engine/judge-sources';
import { openSoundMeter } from '../../engine/measure-sound';
import { decodeChannels } from '../../media/decode-sound';
import { soundFilesOf } from '../../media/sound-inputs';
import { alignBelow } from '../line-up/align-folder';
import type { AlignOptions } from '../line-up/align-recordings';

interface NumberedChannel {
	readonly device: string;
	/** From 1. */
	readonly channel: number;
}

/** What `measure` writes. Times are seconds on the line-up, as `align` gives it. What could not be taken is left out. */
export interface SourcesFile {
	readonly format: 'open-choir.sources';
	readonly version: 1;
	readonly groups: readonly {
		readonly id: string;
		readonly sets: readonly {
			readonly channels: readonly NumberedChannel[];
			readonly points: number;
			readonly sentence: string;
			readonly coverage: number;
		}[];
		readonly sources: readonly (NumberedChannel & {
			readonly name: string;
			readonly points: number;
			readonly sentence: string;
			readonly coverage: number;
			readonly measures: Readonly<Record<string, number>>;
			readonly people: readonly { readonly name: string; readonly points: number; readonly speechToNoiseDb?: number }[];
			/** From 1: a channel of the same device that holds the same. */
			readonly sameAs?: number;
			readonly isDead?: true;
		})[];
		readonly people: readonly { readonly name: string; readonly channels: readonly NumberedChannel[] }[];
		readonly speech: readonly {
			readonly person: string;
			readonly from: number;
			readonly to: number;
			readonly confidence: number;
		}[];
	}[];
}

/** Decoding and measuring one file keeps one core busy. */
const FILES_AT_ONCE = 2;

/** Lines up all media below a folder, and measures and ranks all sources of each line-up; needs no shoot and writes nothing there. */
export async function measureFolder(folder: string, options: AlignOptions = {}): Promise<SourcesFile> {
	const pool = createEnginePool();
	const passing = await mkdtemp(join(tmpdir(), 'open-choir-readings-'));
	try {
		const { recordings, aligned } = await alignBelow(pool, folder, performance.now(), options);
		const placed = aligned.alignment.lineUps.flatMap((lineUp) =>
			lineUp.placed.flatMap(({ clip }) => recordings[clip]!.parts.map((part) => part.file))
		);
		const measured = await measureFiles(placed, passing, options.signal);
		const groups = [];
		for (const [index, lineUp] of aligned.alignment.lineUps.entries())
			groups.push(await judgeLineUp(pool, `g${index + 1}`, lineUp, recordings, measured, options.signal));
		return { format: 'open-choir.sources', version: 1, groups };
	} finally {
		await rm(passing, { recursive: true, force: true });
		await pool.close();
	}
}

interface MeasuredFile {
	readonly path: string;
	readonly samples: number;
	readonly twins: readonly Twin[];
}

async function measureFiles(
	files: readonly JoinableFile[],
	folder: string,
	signal: AbortSignal | undefined
): Promise<ReadonlyMap<string, MeasuredFile>> {
	const distinct = [...new Map(files.filter((file) => file.facts.audio).map((file) => [file.id, file])).values()];
	const measured = new Map<string, MeasuredFile>();
	await pMap(
		distinct.entries(),
		async ([index, { id, facts }]) => {
			const path = join(folder, `${index}.u8`);
			const { channels } = facts.audio!;
			const meter = openSoundMeter({ channels, target: path });
			try {
				await decodeChannels(soundFilesOf(id, facts), READINGS_RATE, (samples) => meter.add(samples), {
					channels,
					...(signal ? { signal } : {})
				});
				const { samples, twins } = await meter.finish();
				measured.set(id, { path, samples, twins });
			} finally {
				await meter.close();
			}
		},
		{ concurrency: FILES_AT_ONCE }
	);
	return measured;
}

async function judgeLineUp(
	pool: EnginePool,
	id: string,
	lineUp: AlignedLineUp,
	recordings: readonly Recording[],
	measured: ReadonlyMap<string, MeasuredFile>,
	signal: AbortSignal | undefined
): Promise<SourcesFile['groups'][number]> {
	const devices = heardDevices(lineUp, recordings, measured);
	const files = devices.flatMap((device) => device.files);
	if (files.length === 0) return { id, sets: [], sources: [], people: [], speech: [] };
	const inFlicks = Math.floor(Math.min(...files.map((file) => file.inFlicks)));
	const outFlicks = Math.ceil(Math.max(...files.map((file) => file.outFlicks)));
	const judgement = await pool.run({ kind: 'judge', inFlicks, outFlicks, devices }, signal);
	return described(id, judgement, inFlicks / FLICKS_PER_SECOND, channelsOf(devices));
}

function channelsOf(devices: readonly HeardDevice[]): readonly NumberedChannel[] {
	return devices.flatMap(({ deviceId, channelNames }) =>
		channelNames.map((_, channel) => ({ device: deviceId, channel: channel + 1 }))
	);
}

/** A file of a placed recording, with where its media time 0 lies in it. */
interface PlacedSound {
	readonly file: JoinableFile;
	readonly offsetSeconds: number;
	readonly placed: Placed;
}

/** The devices of a line-up with their channels: files that run side by side are different channels of their device. */
function heardDevices(
	lineUp: AlignedLineUp,
	recordings: readonly Recording[],
	measured: ReadonlyMap<string, MeasuredFile>
): readonly HeardDevice[] {
	const sounds = lineUp.placed.flatMap((placed) =>
		recordings[placed.clip]!.parts.flatMap(({ file, offsetSeconds }) =>
			measured.has(file.id) ? [{ file, offsetSeconds, placed }] : []
		)
	);
	const devices = [...new Set(sounds.map(({ file }) => file.device))].sort();
	return devices.map((device) => {
		const rows = sideBySide(sounds.filter(({ file }) => file.device === device));
		let firstChannel = 0;
		const files: HeardFile[] = [];
		const channelNames: string[] = [];
		const twins: { channel: number; sameAs: number }[] = [];
		for (const row of rows) {
			const channels = Math.max(...row.map(({ file }) => file.facts.audio!.channels));
			for (let channel = 0; channel < channels; channel++) channelNames.push(nameOf(row, channel, rows.length > 1));
			for (const sound of row) files.push(...heardParts(sound, measured.get(sound.file.id)!, firstChannel));
			for (const twin of twinsInAll(row.map(({ file }) => measured.get(file.id)!.twins)))
				twins.push({ channel: firstChannel + twin.channel, sameAs: firstChannel + twin.sameAs });
			firstChannel += channels;
		}
		return { deviceId: device, channelNames, files, twins };
	});
}

/** Files one after another stand in one row; those that run at the same time in several. */
function sideBySide(sounds: readonly PlacedSound[]): readonly (readonly PlacedSound[])[] {
	const rows: PlacedSound[][] = [];
	const sorted = [...sounds].sort((a, b) => a.file.path.localeCompare(b.file.path));
	for (const sound of sorted) {
		const free = rows.find((row) => row.every((other) => !runTogether(other, sound)));
		if (free) free.push(sound);
		else rows.push([sound]);
	}
	return rows;
}

function runTogether(a: PlacedSound, b: PlacedSound): boolean {
	const [from, to] = [a, b].map(extentOf) as [readonly [number, number], readonly [number, number]];
	const together = Math.min(from[1], to[1]) - Math.max(from[0], to[0]);
	return together > 0.5 * Math.min(from[1] - from[0], to[1] - to[0]);
}

function extentOf({ file, offsetSeconds, placed }: PlacedSound): readonly [number, number] {
	const start = placed.startSeconds + offsetSeconds * (1 + placed.ratePpm * 1e-6);
	return [start, start + file.facts.durationSeconds];
}

/** A channel's name; of a file that is one of several side by side its own, where it tells more than numbers do. */
function nameOf(row: readonly PlacedSound[], channel: number, isOneOfSeveral: boolean): string {
	const named = row.map(({ file }) => file.facts.audio!.channelNames[channel] ?? '').find((name) => name !== '');
	if (named !== undefined) return named;
	const stem = row[0]!.file.path.replace(/^.*\//, '').replace(/\.[^.]+$/, '');
	return isOneOfSeveral && row[0]!.file.facts.audio!.channels === 1 && /^[\p{L} ]+$/u.test(stem) ? stem : '';
}

/** Where a file's sound lies: as one, or in parts where samples were lost. */
function heardParts(
	{ file, offsetSeconds, placed }: PlacedSound,
	{ path, samples }: MeasuredFile,
	firstChannel: number
): readonly HeardFile[] {
	const rateFactor = 1 + placed.ratePpm * 1e-6;
	const soundFrom = offsetSeconds + file.facts.audio!.startSeconds;
	const until = soundFrom + samples / READINGS_RATE;
	const parts =
		placed.parts.length > 1 ? placed.parts : [{ fromSeconds: -Infinity, startSeconds: placed.startSeconds }];
	return parts.flatMap(({ fromSeconds, startSeconds }, index) => {
		const from = Math.max(soundFrom, fromSeconds);
		const to = Math.min(until, parts[index + 1]?.fromSeconds ?? Infinity);
		if (to <= from) return [];
		const course: Course = {
			startFlicks: secondsToFlicks(startSeconds + soundFrom * rateFactor),
			rateFactor,
			...(placed.bend
				? {
						bend: placed.bend.map(({ mediaSeconds, laterSeconds }) => ({
							ownFlicks: secondsToFlicks(mediaSeconds - soundFrom),
							laterFlicks: secondsToFlicks(laterSeconds)
						}))
					}
				: {})
		};
		const at = (seconds: number) => secondsToFlicks(startSeconds + seconds * rateFactor);
		const channels = file.facts.audio!.channels;
		return [{ path, channels, firstChannel, samples, course, inFlicks: at(from), outFlicks: at(to) }];
	});
}

function described(
	id: string,
	{ sets, sources, people, speech }: Judgement,
	fromSeconds: number,
	channels: readonly NumberedChannel[]
): SourcesFile['groups'][number] {
	const at = (frame: number) => rounded(fromSeconds + frame / FRAMES_A_SECOND, 2);
	return {
		id,
		sets: sets.map((set) => ({
			channels: set.channels.map((index) => channels[index]!),
			points: rounded(set.points, 1),
			sentence: set.sentence,
			coverage: rounded(set.coverage, 4)
		})),
		sources: sources.map((source) => ({
			device: source.deviceId,
			channel: source.channel + 1,
			name: source.name,
			points: rounded(source.points, 1),
			sentence: source.sentence,
			coverage: rounded(source.coverage, 4),
			measures: measuresOf(source),
			people: people.map(({ name }, person) => ({
				name,
				points: rounded(source.people[person]?.points ?? 0, 1),
				...(source.people[person]?.speechToNoiseDb === undefined
					? {}
					: { speechToNoiseDb: rounded(source.people[person].speechToNoiseDb, 1) })
			})),
			...(source.sameAs === undefined ? {} : { sameAs: source.sameAs + 1 }),
			...(source.isDead ? { isDead: true as const } : {})
		})),
		people: people.map(({ name, channels: own }) => ({ name, channels: own.map((index) => channels[index]!) })),
		speech: speech.map(({ person, fromFrame, toFrame, confidence }) => ({
			person: people[person]!.name,
			from: at(fromFrame),
			to: at(toFrame),
			confidence: rounded(confidence, 2)
		}))
	};
}

const DIGITS: Readonly<Record<string, number>> = { clippedShare: 5, upperEdgeHz: 0, dropOuts: 0 };

function measuresOf({ measures }: JudgedSource): Readonly<Record<string, number>> {
	return Object.fromEntries(
		Object.entries(measures).flatMap(([name, value]: [string, unknown]) =>
			typeof value === 'number' ? [[name, rounded(value, DIGITS[name] ?? 1)]] : []
		)
	);
}

function rounded(value: number, digits: number): number {
	// Adding zero turns -0 into 0.
	return Number(value.toFixed(digits)) + 0;
}
