import { basename } from 'node:path';
import type { MediaFacts } from '../../core/gather/media-facts';
import { airDelayFlicks } from '../../core/shoot/air-delay';
import type { Clip, ClipPart, HeardTimecode, NewFile, SyncPoint } from '../../core/shoot/clip';
import type { Device } from '../../core/shoot/device';
import type { Marker, ShootLineUp, Signature } from '../../core/shoot/line-up';
import type { Placement } from '../../core/shoot/placement';
import type { Shoot } from '../../core/shoot/shoot';
import type { StrayReason } from '../../core/solve/system/line-ups';
import { secondsToFlicks } from '../../core/time/flicks';
import { type Rational, rateInWords } from '../../core/time/rational';
import type { Queryable } from '../db/database';
import { soundKeyOf } from '../media/sound-inputs';
import { ShootError } from './shoot-error';
import { KEPT_DAYS } from './delete';

export interface ShootSummary {
	readonly id: string;
	readonly name: string;
	readonly folder: string;
	readonly clips: number;
	readonly isDemo: boolean;
	/** Deleted; it can be brought back until this day. */
	readonly endsAt: string | null;
}

export async function listShoots(database: Queryable): Promise<readonly ShootSummary[]> {
	return database.query<ShootSummary & Record<string, unknown>>(
		`select id, name, folder, is_demo as "isDemo", (select count(*)::int from clip where clip.shoot_id = shoot.id) as clips,
			to_char(deleted_at + make_interval(days => $1), 'YYYY-MM-DD') as "endsAt"
		 from shoot order by created_at`,
		[KEPT_DAYS]
	);
}

interface ShootRow {
	id: string;
	name: string;
	folder: string;
	main_camera_id: string | null;
	revision: number;
	rate: Rational | null;
	width: number | null;
	height: number | null;
	air_celsius: number;
}
interface DeviceRow {
	id: string;
	folder: string;
	name: string;
	badge: string;
	kind: Device['kind'];
	reasons: string[];
	people: Record<string, string>;
	air_metres: number;
	corrects_drift: boolean;
}
interface FileRow {
	id: string;
	relative_path: string;
	size_bytes: number;
	identity: string | null;
	state: 'waiting' | 'probed' | 'bad' | 'missing';
	channel_of: string | null;
	path: string;
	reason: string | null;
	facts: MediaFacts | null;
	listening_samples: number | null;
	proxy_ready: boolean;
	proxy_seconds: number;
	sharp_sounds: number[];
	heard_timecode: HeardTimecode | null;
}
interface ClipRow {
	id: string;
	device_id: string;
	name: string;
	duration_flicks: number;
	scene: string;
	shot: string;
	take: string;
	circled: boolean;
	note: string;
	in_flicks: number | null;
	out_flicks: number | null;
}
interface PartRow {
	clip_id: string;
	file_id: string;
	offset_flicks: number;
}
interface PlacementRow {
	clip_id: string;
	line_up_id: string;
	start_flicks: number;
	rate_ppm: number;
	method: Placement['method'];
	confidence: number;
	residual_seconds: number;
	by_hand: boolean;
	locked: boolean;
}

const ABOUT_AS_LONG = 0.8;

/** The whole shoot as it stands. @throws ShootError there is none of that identity */
export async function loadShoot(database: Queryable, shootId: string): Promise<Shoot> {
	const [shoot] = await database.query<ShootRow>(
		'select id, name, folder, main_camera_id, revision, rate, width, height, air_celsius from shoot where id = $1 and deleted_at is null',
		[shootId]
	);
	if (!shoot) throw new ShootError('not-found', 'There is no such shoot.');
	const of = <Row>(sql: string) => database.query<Row>(sql, [shootId]);
	const sources = await of<Shoot['sources'][number] & Record<string, unknown>>(
		'select id, path, kind from source where shoot_id = $1 order by position, path'
	);
	const deviceRows = await of<DeviceRow>(
		'select id, folder, name, badge, kind, reasons, people, air_metres, corrects_drift from device where shoot_id = $1 order by position, id'
	);
	const files = await of<FileRow>(
		'select id, path, relative_path, size_bytes, identity, state, channel_of, reason, facts, listening_samples, proxy_ready, proxy_seconds, sharp_sounds, heard_timecode from media_file where shoot_id = $1 order by relative_path'
	);
	const clips = await of<ClipRow>(
		'select id, device_id, name, duration_flicks, scene, shot, take, circled, note, in_flicks, out_flicks from clip where shoot_id = $1 order by position, id'
	);
	const parts = await of<PartRow>(
		'select clip_id, file_id, offset_flicks from clip_part join clip on clip.id = clip_id where clip.shoot_id = $1 order by clip_part.position'
	);
	const placements = await of<PlacementRow>(
		'select clip_id, line_up_id, start_flicks, rate_ppm, method, confidence, residual_seconds, by_hand, locked from placement where shoot_id = $1'
	);
	const strays = await of<{ clip_id: string; reason: StrayReason; detail: string }>(
		'select clip_id, reason, detail from stray where shoot_id = $1'
	);
	const points = await of<{
		id: string;
		clip_id: string;
		name: string;
		media_flicks: number;
		sense: SyncPoint['sense'];
	}>('select id, clip_id, name, media_flicks, sense from sync_point where shoot_id = $1 order by media_flicks, id');
	const lineUps = await of<ShootLineUp & Record<string, unknown>>(
		'select id, reference_device_id as "referenceDeviceId", evidence, clocks from line_up where shoot_id = $1 order by position, id'
	);
	const master = await of<{ deviceId: string; channel: number; gainDb: number; pan: number }>(
		'select device_id as "deviceId", channel, gain_db as "gainDb", pan from master_channel where shoot_id = $1 order by device_id, channel'
	);
	const programs = await of<{ lineUpId: string; inFlicks: number; outFlicks: number }>(
		'select line_up_id as "lineUpId", in_flicks as "inFlicks", out_flicks as "outFlicks" from program where shoot_id = $1'
	);
	const calls = await of<{ id: string; line_up_id: string; atFlicks: number; deviceId: string }>(
		'select id, line_up_id, at_flicks as "atFlicks", device_id as "deviceId" from program_call where shoot_id = $1 order by at_flicks, id'
	);
	const markers = await of<Marker & Record<string, unknown>>(
		'select id, line_up_id as "lineUpId", at_flicks as "atFlicks", name from marker where shoot_id = $1 order by at_flicks, id'
	);
	const signatures = await of<Signature & Record<string, unknown>>(
		`select id, line_up_id as "lineUpId", signed_by as "signedBy", to_char(signed_on, 'YYYY-MM-DD') as "signedOn", remark, digest
		 from signature where shoot_id = $1 order by signed_at`
	);
	const [undo] = await of<{ label: string }>(
		`select label from edit where shoot_id = $1 and state = 'done' order by id desc limit 1`
	);
	const [redo] = await of<{ label: string }>(
		`select label from edit where shoot_id = $1 and state = 'undone' order by id limit 1`
	);

	const fileById = new Map(files.map((file) => [file.id, file]));
	const partsOf = groupBy(parts, (part) => part.clip_id);
	const placementOf = new Map(placements.map((row) => [row.clip_id, row]));
	const strayOf = new Map(strays.map((row) => [row.clip_id, row]));
	const pointsOf = groupBy(points, (point) => point.clip_id);
	const deviceById = new Map(deviceRows.map((row) => [row.id, row]));
	const builtClips = clips.map((row): Clip => {
		const own = (partsOf.get(row.id) ?? []).map((part) => clipPart(part, fileById.get(part.file_id)!));
		const firstFacts = fileById.get(partsOf.get(row.id)?.[0]?.file_id ?? '')?.facts;
		const heard = fileById.get(partsOf.get(row.id)?.[0]?.file_id ?? '')?.heard_timecode;
		const placement = placementOf.get(row.id);
		const stray = strayOf.get(row.id);
		return {
			id: row.id,
			deviceId: row.device_id,
			name: row.name,
			durationFlicks: row.duration_flicks,
			parts: own,
			scene: row.scene,
			shot: row.shot,
			take: row.take,
			circled: row.circled,
			note: row.note,
			syncPoints: (pointsOf.get(row.id) ?? []).map((point) => ({
				id: point.id,
				clipId: row.id,
				name: point.name,
				mediaFlicks: point.media_flicks,
				sense: point.sense
			})),
			sharpSounds: own.flatMap((part) =>
				fileById.get(part.fileId)!.sharp_sounds.map((flicks) => part.offsetFlicks + flicks)
			),
			...(row.in_flicks === null ? {} : { inFlicks: row.in_flicks }),
			...(row.out_flicks === null ? {} : { outFlicks: row.out_flicks }),
			...(placement ? { placement: placementFrom(placement, deviceById.get(row.device_id)!, shoot.air_celsius) } : {}),
			...(stray ? { stray: stray.reason, ...(stray.detail ? { strayDetail: stray.detail } : {}) } : {}),
			...timeOf(firstFacts ?? undefined),
			...(heard && 'channel' in heard ? { heardTimecode: heard } : {})
		};
	});
	const devices = deviceRows.map(({ people, air_metres, corrects_drift, ...row }): Device => ({
		...row,
		airMetres: air_metres,
		correctsDrift: corrects_drift,
		channelNames: channelNamesOf(row.id, builtClips, fileById).map((name, channel) => people[channel] ?? name)
	}));
	const mainCamera =
		devices.find((device) => device.id === shoot.main_camera_id) ?? proposedMainCamera(devices, builtClips);
	const picture = builtClips
		.filter((clip) => clip.deviceId === mainCamera?.id)
		.flatMap((clip) => clip.parts)[0]?.picture;
	return {
		id: shoot.id,
		name: shoot.name,
		folder: shoot.folder,
		revision: shoot.revision,
		rate: shoot.rate ?? picture?.rate ?? { num: 25, den: 1 },
		width: shoot.width ?? picture?.width ?? 1920,
		height: shoot.height ?? picture?.height ?? 1080,
		hasOwnRate: shoot.rate !== null,
		airCelsius: shoot.air_celsius,
		sources,
		...(mainCamera ? { mainCameraId: mainCamera.id } : {}),
		devices,
		clips: builtClips,
		badFiles: files
			.filter((file) => file.state === 'bad' || file.state === 'missing')
			.map((file) => ({
				fileId: file.id,
				relativePath: file.relative_path,
				reason: file.reason ?? '',
				isMissing: file.state === 'missing'
			})),
		newFiles: newFiles(files, parts),
		lineUps,
		master,
		programs: programs.map((program) => ({
			...program,
			calls: calls
				.filter((call) => call.line_up_id === program.lineUpId)
				.map(({ id, atFlicks, deviceId }) => ({ id, atFlicks, deviceId }))
		})),
		markers,
		signatures,
		...(undo ? { undo: undo.label } : {}),
		...(redo ? { redo: redo.label } : {})
	};
}

function timeOf(
	facts: MediaFacts | undefined
): Pick<Clip, 'timecode' | 'timecodeWords' | 'clockSeconds' | 'date' | 'maker'> {
	if (!facts) return {};
	const { timecode, timecodeRate, dropFrame, clockSeconds, creationTime } = facts;
	const maker = [facts.make, facts.model, facts.serial && `number ${facts.serial}`].filter(Boolean).join(' ');
	return {
		...(timecode ? { timecode } : {}),
		...(timecodeRate ? { timecodeWords: `${rateInWords(timecodeRate)}${dropFrame ? ' drop-frame' : ''}` } : {}),
		...(clockSeconds === undefined ? {} : { clockSeconds }),
		...(creationTime && /^\d{4}-\d\d-\d\d/.test(creationTime) ? { date: creationTime.slice(0, 10) } : {}),
		...(maker ? { maker } : {})
	};
}

/** The first camera that recorded about as long as any: it sees most of what there is. */
function proposedMainCamera(devices: readonly Device[], clips: readonly Clip[]): Device | undefined {
	const cameras = devices.filter((device) => device.kind === 'camera');
	const lengths = cameras.map((device) =>
		clips.filter((clip) => clip.deviceId === device.id).reduce((sum, clip) => sum + clip.durationFlicks, 0)
	);
	return cameras[lengths.findIndex((length) => length >= ABOUT_AS_LONG * Math.max(...lengths))];
}

function groupBy<Item>(items: readonly Item[], key: (item: Item) => string): ReadonlyMap<string, readonly Item[]> {
	const groups = new Map<string, Item[]>();
	for (const item of items) {
		const group = groups.get(key(item));
		if (group) group.push(item);
		else groups.set(key(item), [item]);
	}
	return groups;
}

function placementFrom(row: PlacementRow, device: DeviceRow, airCelsius: number): Placement {
	return {
		lineUpId: row.line_up_id,
		startFlicks: row.start_flicks,
		ratePpm: device.corrects_drift ? row.rate_ppm : 0,
		measuredRatePpm: row.rate_ppm,
		method: row.method,
		confidence: row.confidence,
		residualSeconds: row.residual_seconds,
		byHand: row.by_hand,
		isLocked: row.locked,
		airFlicks: airDelayFlicks(device.air_metres, airCelsius)
	};
}

/** Files that are in no clip yet: to be read, or read and to be sorted. */
function newFiles(files: readonly FileRow[], parts: readonly PartRow[]): readonly NewFile[] {
	const inClips = new Set(parts.map((part) => part.file_id));
	return files
		.filter(
			(file) =>
				file.state === 'waiting' || (file.state === 'probed' && file.channel_of === null && !inClips.has(file.id))
		)
		.map((file) => ({
			fileId: file.id,
			relativePath: file.relative_path,
			sizeBytes: file.size_bytes,
			...(file.state === 'probed' && file.facts
				? { part: clipPart({ clip_id: '', file_id: file.id, offset_flicks: 0 }, file), ...timeOf(file.facts) }
				: {})
		}));
}

function clipPart(part: PartRow, file: FileRow): ClipPart {
	const facts = file.facts!;
	return {
		fileId: file.id,
		identity: soundKeyOf(file.identity ?? '', facts),
		path: file.path,
		relativePath: file.relative_path,
		sizeBytes: file.size_bytes,
		...(file.state === 'missing' ? { isMissing: true } : {}),
		offsetFlicks: part.offset_flicks,
		durationFlicks: secondsToFlicks(facts.durationSeconds),
		container: facts.container,
		...(facts.audio
			? {
					sound: {
						codec: facts.audio.codec,
						sampleRate: facts.audio.sampleRate,
						channels: facts.audio.channels,
						streams: facts.audio.streams ?? 1,
						...(facts.audio.isDeep ? { isDeep: true } : {}),
						...(facts.audio.channelFiles
							? { channelFiles: facts.audio.channelFiles.map((one) => basename(one.path)) }
							: {}),
						startFlicks: secondsToFlicks(facts.audio.startSeconds),
						...(file.listening_samples === null ? {} : { listeningSamples: file.listening_samples })
					}
				}
			: {}),
		...(facts.video
			? {
					picture: {
						codec: facts.video.codec,
						rate: facts.video.rate,
						width: facts.video.width,
						height: facts.video.height,
						startFlicks: secondsToFlicks(facts.video.startSeconds),
						isVariableRate: facts.isVariableRate ?? false,
						proxyReady: file.proxy_ready,
						...(file.proxy_ready || file.proxy_seconds === 0
							? {}
							: { proxyFlicks: secondsToFlicks(file.proxy_seconds) })
					}
				}
			: {})
	};
}

function channelNamesOf(
	deviceId: string,
	clips: readonly Clip[],
	fileById: ReadonlyMap<string, FileRow>
): readonly string[] {
	let names: readonly string[] = [];
	for (const clip of clips) {
		if (clip.deviceId !== deviceId) continue;
		for (const part of clip.parts) {
			const own = fileById.get(part.fileId)?.facts?.audio?.channelNames ?? [];
			if (own.length > names.length) names = own;
		}
	}
	return names;
}
