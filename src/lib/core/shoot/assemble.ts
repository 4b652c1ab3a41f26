import { MAX_CLIP_SECONDS, MAX_LINE_UP_SECONDS } from '../limits/recording';
import { secondsToFlicks } from '../time/flicks';
import { airDelayFlicks } from './air-delay';
import type { Clip, ClipPart, NewFile } from './clip';
import { groupBy } from './grouping';
import { type MasterChannel, type StoredProgram, USUAL_MIX } from './decisions';
import type { Device } from './device';
import type { ShootLineUp } from './line-up';
import type { Person } from './person';
import type { Placement } from './placement';
import type { RowStore, ShootRows } from './rows';
import type { Shoot } from './shoot';

/** A shoot with the rows it was made of: what has not changed is taken over, object by object. */
export interface AssembledShoot {
	readonly rows: RowStore;
	readonly shoot: Shoot;
	readonly parts: Memory;
	readonly clips: MadeClips;
}

/** What was made, with what it was made of. */
interface Made {
	readonly from: readonly unknown[];
	readonly made: unknown;
}
type Memory = ReadonlyMap<string, Made>;

/** Made of rows alone. */
export interface ShootSteps {
	readonly revision: number;
	readonly undo: string | null;
	readonly redo: string | null;
}

/** A camera that recorded about as long as any sees most of what there is. */
const ABOUT_AS_LONG = 0.8;

/**
 * Puts a shoot together from its rows. Clips, devices, line-ups whose rows are the same as before are the same objects as
 * before, so that whoever watches them sees only what has changed.
 * @throws RangeError there is no row of the shoot itself
 */
export function assembleShoot(rows: RowStore, steps: ShootSteps, before?: AssembledShoot): AssembledShoot {
	const [row] = rows.shoot.values();
	if (!row) throw new RangeError('These rows are of no shoot.');
	const memory = new Map<string, Made>();
	/** @param from all that the result depends on */
	function keep<Result>(key: string, from: readonly unknown[], make: () => Result): Result {
		const old = before?.parts.get(key);
		const made = old && areSame(old.from, from) ? old : { from, made: make() };
		memory.set(key, made);
		return made.made as Result;
	}

	const NONE: readonly never[] = [];
	const { clips: allClips, made: madeClips } = keep(
		'clips',
		[
			rows.clip,
			rows.clip_part,
			rows.media_file,
			rows.placement,
			rows.stray,
			rows.sync_point,
			rows.device,
			row.airCelsius
		],
		() => assembleClips(rows, row, before?.clips)
	);
	const clipsOfDevice = keep('clips by device', [allClips], () => groupBy(allClips, (clip) => clip.deviceId));
	const deviceRows = keep('device order', [rows.device], () =>
		[...rows.device.values()].sort((a, b) => a.position - b.position || compare(a.id, b.id))
	);
	const fileNames = keep(
		'channel names',
		[allClips, rows.media_file],
		() => new Map([...clipsOfDevice].map(([id, own]) => [id, namesOfFiles(own, rows.media_file)]))
	);
	const devices = deviceRows.map((device) => {
		const named = fileNames.get(device.id) ?? NONE;
		return keep(`device ${device.id}`, [device, ...named], () => deviceFrom(device, named));
	});
	const allDevices = keep('devices', devices, () => devices);
	const masters = keep('masters', [rows.master_channel], () =>
		groupSorted(
			rows.master_channel,
			'lineUpId',
			(a, b) => a.turn - b.turn || compare(a.deviceId, b.deviceId) || a.channel - b.channel
		)
	);
	const mixes = keep('mixes', [rows.mix], () => groupSorted(rows.mix, 'lineUpId', (a, b) => compare(a.id, b.id)));
	const corrections = keep('corrections', [rows.speech_correction], () =>
		groupSorted(rows.speech_correction, 'lineUpId', (a, b) => a.position - b.position || compare(a.id, b.id))
	);
	const lineUps = [...rows.line_up.values()]
		.sort((a, b) => a.position - b.position || compare(a.id, b.id))
		.map((lineUp) =>
			keep(
				`line-up ${lineUp.id}`,
				[
					lineUp,
					...(masters.get(lineUp.id) ?? NONE),
					...(mixes.get(lineUp.id) ?? NONE),
					...(corrections.get(lineUp.id) ?? NONE)
				],
				() =>
					lineUpFrom(
						lineUp,
						masters.get(lineUp.id) ?? NONE,
						mixes.get(lineUp.id)?.[0],
						corrections.get(lineUp.id) ?? NONE
					)
			)
		);
	const calls = keep('calls', [rows.program_call], () =>
		groupSorted(rows.program_call, 'lineUpId', (a, b) => a.atFlicks - b.atFlicks || compare(a.id, b.id))
	);
	const programs = [...rows.program.values()].map((program) =>
		keep(`program ${program.id}`, [program, ...(calls.get(program.lineUpId) ?? NONE)], () =>
			programFrom(program, calls.get(program.lineUpId) ?? NONE)
		)
	);
	const mainCamera =
		allDevices.find((device) => device.id === row.mainCameraId) ?? proposedMainCamera(allDevices, clipsOfDevice);
	const picture = (clipsOfDevice.get(mainCamera?.id ?? '') ?? NONE).flatMap((clip: Clip) => clip.parts)[0]?.picture;
	const shoot: Shoot = {
		id: row.id,
		name: row.name,
		folder: row.folder,
		revision: steps.revision,
		rate: row.rate ?? picture?.rate ?? { num: 25, den: 1 },
		width: row.width ?? picture?.shown.width ?? 1920,
		height: row.height ?? picture?.shown.height ?? 1080,
		hasOwnRate: row.rate !== null,
		airCelsius: row.airCelsius,
		sources: keep('sources', [rows.source], () =>
			[...rows.source.values()]
				.sort((a, b) => a.position - b.position || compare(a.path, b.path))
				.map(({ position: _position, ...source }) => source)
		),
		...(mainCamera ? { mainCameraId: mainCamera.id } : {}),
		devices: allDevices,
		clips: allClips,
		...keep('loose files', [rows.media_file, rows.clip_part], () => looseFiles(rows)),
		lineUps: keep('line-ups', lineUps, () => lineUps),
		programs: keep('programs', programs, () => programs),
		markers: keep('markers', [rows.marker], () =>
			[...rows.marker.values()].sort((a, b) => a.atFlicks - b.atFlicks || compare(a.id, b.id))
		),
		signatures: keep('signatures', [rows.signature], () =>
			[...rows.signature.values()]
				.sort((a, b) => compare(a.signedAt, b.signedAt))
				.map(({ signedAt: _signedAt, ...signature }) => signature)
		),
		handOffs: keep('hand-offs', [rows.hand_off], () =>
			[...rows.hand_off.values()].sort((a, b) => compare(b.madeAt, a.madeAt))
		),
		people: keep('people', [rows.person, rows.person_channel], () => peopleFrom(rows)),
		...(steps.undo === null ? {} : { undo: steps.undo }),
		...(steps.redo === null ? {} : { redo: steps.redo })
	};
	return { rows, shoot, parts: memory, clips: madeClips };
}

/** Clips by what they are made of. */
type MadeClips = ReadonlyMap<string, { readonly from: readonly unknown[]; readonly clip: Clip }>;

/** All clips in order; those whose rows are the same as before are the same objects, and so is their list. */
function assembleClips(
	rows: RowStore,
	shoot: ShootRows['shoot'],
	before: MadeClips | undefined
): { readonly clips: readonly Clip[]; readonly made: MadeClips } {
	const NONE: readonly never[] = [];
	const parts = groupSorted(rows.clip_part, 'clipId', (a, b) => a.position - b.position);
	const placements = byClip(rows.placement);
	const strays = byClip(rows.stray);
	const points = groupSorted(rows.sync_point, 'clipId', (a, b) => a.mediaFlicks - b.mediaFlicks || compare(a.id, b.id));
	const sorted = [...rows.clip.values()].sort((a, b) => a.position - b.position || compare(a.id, b.id));
	const made = new Map<string, { readonly from: readonly unknown[]; readonly clip: Clip }>();
	for (const row of sorted) {
		const own = parts.get(row.id) ?? NONE;
		const files = own.map((part) => rows.media_file.get(part.fileId));
		const device = rows.device.get(row.deviceId);
		const [placement, stray, syncPoints] = [placements.get(row.id), strays.get(row.id), points.get(row.id) ?? NONE];
		const from = [
			row,
			placement,
			stray,
			device?.correctsDrift,
			device?.airMetres,
			shoot.airCelsius,
			...own,
			...files,
			...syncPoints
		];
		const old = before?.get(row.id);
		made.set(
			row.id,
			old && areSame(old.from, from)
				? old
				: { from, clip: clipFrom(row, own, files, placement, stray, syncPoints, device, shoot) }
		);
	}
	return { clips: [...made.values()].map(({ clip }) => clip), made };
}

function clipFrom(
	row: ShootRows['clip'],
	parts: readonly ShootRows['clip_part'][],
	files: readonly (ShootRows['media_file'] | undefined)[],
	placement: ShootRows['placement'] | undefined,
	stray: ShootRows['stray'] | undefined,
	syncPoints: readonly ShootRows['sync_point'][],
	device: ShootRows['device'] | undefined,
	shoot: ShootRows['shoot']
): Clip {
	const known = parts.flatMap((part, index): { part: ClipPart; file: ShootRows['media_file'] }[] => {
		const file = files[index];
		return file?.part ? [{ part: { ...file.part, offsetFlicks: part.offsetFlicks }, file }] : [];
	});
	const first = known[0]?.file;
	const isBeyond = isBeyondLimits(row, placement);
	// Every clip has the same fields in the same order: what goes through thousands of them is three times as fast.
	return {
		id: row.id,
		deviceId: row.deviceId,
		name: row.name,
		durationFlicks: Math.min(row.durationFlicks, MAX_CLIP_FLICKS),
		parts: known.map(({ part }) => part),
		scene: row.scene,
		shot: row.shot,
		take: row.take,
		circled: row.circled,
		note: row.note,
		placement: placement && !isBeyond ? placementFrom(placement, device, shoot.airCelsius) : undefined,
		stray: isBeyond ? 'beyond limits' : stray?.reason,
		strayDetail: stray?.detail || undefined,
		syncPoints,
		inFlicks: row.inFlicks ?? undefined,
		outFlicks: row.outFlicks ?? undefined,
		sharpSounds: known.flatMap(({ part, file }) => file.sharpSounds.map((flicks) => part.offsetFlicks + flicks)),
		timecode: first?.time.timecode,
		timecodeWords: first?.time.timecodeWords,
		clockSeconds: first?.time.clockSeconds,
		heardTimecode: first?.heardTimecode ?? undefined,
		date: first?.time.date,
		recordedAt: first?.time.recordedAt,
		maker: first?.time.maker
	};
}

const MAX_CLIP_FLICKS = secondsToFlicks(MAX_CLIP_SECONDS);
const MAX_LINE_UP_FLICKS = secondsToFlicks(MAX_LINE_UP_SECONDS);

/** Older versions stored what they were told: such a clip is shown as bad, and the shoot opens. */
function isBeyondLimits(row: ShootRows['clip'], placement: ShootRows['placement'] | undefined): boolean {
	return row.durationFlicks > MAX_CLIP_FLICKS || Math.abs(placement?.startFlicks ?? 0) > MAX_LINE_UP_FLICKS;
}

function placementFrom(
	row: ShootRows['placement'],
	device: ShootRows['device'] | undefined,
	airCelsius: number
): Placement {
	const isCorrected = device?.correctsDrift ?? true;
	return {
		lineUpId: row.lineUpId,
		startFlicks: row.startFlicks,
		ratePpm: isCorrected ? row.ratePpm : 0,
		...(isCorrected && row.bend ? { bend: row.bend } : {}),
		...(row.bend ? { measuredBend: row.bend } : {}),
		measuredRatePpm: row.ratePpm,
		method: row.method,
		confidence: row.confidence,
		residualSeconds: row.residualSeconds,
		byHand: row.byHand,
		isLocked: row.isLocked,
		airFlicks: airDelayFlicks(device?.airMetres ?? 0, airCelsius)
	};
}

function deviceFrom({ position: _position, ...row }: ShootRows['device'], named: readonly string[]): Device {
	return { ...row, channelNames: named.map((name, channel) => row.channelNames[channel] ?? name) };
}

/** The names that most channels of one of the device's files have. */
function namesOfFiles(clips: readonly Clip[], files: RowStore['media_file']): readonly string[] {
	let names: readonly string[] = [];
	for (const clip of clips)
		for (const part of clip.parts) {
			const own = files.get(part.fileId)?.channelNames ?? [];
			if (own.length > names.length) names = own;
		}
	return names;
}

function lineUpFrom(
	{ position: _position, ...row }: ShootRows['line_up'],
	channels: readonly ShootRows['master_channel'][],
	mix: ShootRows['mix'] | undefined,
	corrections: readonly ShootRows['speech_correction'][]
): ShootLineUp {
	const ofTurn = (turn: number) =>
		channels
			.filter((one) => one.turn === turn)
			.map(({ id: _id, lineUpId: _lineUpId, turn: _turn, ...channel }): MasterChannel => channel);
	const turns = [...new Set(channels.map((one) => one.turn))].filter((turn) => turn > 0);
	return {
		...row,
		master: ofTurn(0),
		standIns: turns.map(ofTurn),
		mix: mix ? { opensBySpeech: mix.opensBySpeech, closedDb: mix.closedDb, coversGaps: mix.coversGaps } : USUAL_MIX,
		corrections: corrections.map(({ personId, inFlicks, outFlicks, speaks }) => ({
			personId,
			inFlicks,
			outFlicks,
			speaks
		}))
	};
}

function peopleFrom(rows: RowStore): readonly Person[] {
	const channels = groupSorted(
		rows.person_channel,
		'personId',
		(a, b) => a.position - b.position || compare(a.id, b.id)
	);
	return [...rows.person.values()]
		.sort((a, b) => a.position - b.position || compare(a.id, b.id))
		.map(({ id, name, mark }) => ({
			id,
			name,
			mark,
			channels: (channels.get(id) ?? []).map(({ deviceId, channel }) => ({ deviceId, channel }))
		}));
}

function programFrom(
	{ lineUpId, inFlicks, outFlicks }: ShootRows['program'],
	calls: readonly ShootRows['program_call'][]
): StoredProgram {
	return {
		lineUpId,
		inFlicks,
		outFlicks,
		calls: calls.map(({ id, atFlicks, deviceId }) => ({ id, atFlicks, deviceId }))
	};
}

/** The first camera that recorded about as long as any: it sees most of what there is. */
function proposedMainCamera(
	devices: readonly Device[],
	clipsOfDevice: ReadonlyMap<string, readonly Clip[]>
): Device | undefined {
	const cameras = devices.filter((device) => device.kind === 'camera');
	const lengths = cameras.map((device) =>
		(clipsOfDevice.get(device.id) ?? []).reduce((sum, clip) => sum + clip.durationFlicks, 0)
	);
	return cameras[lengths.findIndex((length) => length >= ABOUT_AS_LONG * Math.max(...lengths))];
}

/** Files that are in no clip: bad ones, and those that are to be read or to be sorted. */
function looseFiles(rows: RowStore): Pick<Shoot, 'badFiles' | 'newFiles'> {
	const files = [...rows.media_file.values()].sort((a, b) => compare(a.relativePath, b.relativePath));
	const inClips = new Set([...rows.clip_part.values()].map((part) => part.fileId));
	return {
		badFiles: files
			.filter((file) => file.state === 'bad' || file.state === 'missing')
			.map((file) => ({
				fileId: file.id,
				relativePath: file.relativePath,
				reason: file.reason ?? '',
				isMissing: file.state === 'missing'
			})),
		newFiles: files
			.filter(
				(file) => file.state === 'waiting' || (file.state === 'probed' && !file.isChannel && !inClips.has(file.id))
			)
			.map((file): NewFile => ({
				fileId: file.id,
				relativePath: file.relativePath,
				sizeBytes: file.sizeBytes,
				...(file.state === 'probed' && file.part ? { part: { ...file.part, offsetFlicks: 0 }, ...file.time } : {})
			}))
	};
}

function areSame(a: readonly unknown[], b: readonly unknown[]): boolean {
	return a.length === b.length && a.every((one, index) => one === b[index]);
}

function byClip<Row extends { readonly clipId: string }>(rows: ReadonlyMap<string, Row>): ReadonlyMap<string, Row> {
	return new Map([...rows.values()].map((row) => [row.clipId, row]));
}

function groupSorted<Row, Key extends keyof Row>(
	rows: ReadonlyMap<string, Row>,
	key: Key,
	order: (a: Row, b: Row) => number
): ReadonlyMap<Row[Key], readonly Row[]> {
	return groupBy([...rows.values()].sort(order), (row) => row[key]);
}

function compare(a: string, b: string): number {
	return a < b ? -1 : a > b ? 1 : 0;
}
