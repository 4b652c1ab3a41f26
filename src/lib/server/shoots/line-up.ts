import type { MediaFacts } from '../../core/devices/media-facts';
import { rangeOfAllAngles, anglesOf } from '../../core/program/program';
import type { Clip, Shoot } from '../../core/shoot/shoot';
import type { JoinableFile, Recording } from '../../core/devices/spanned';
import type { AlignedLineUp } from '../../core/solve/align';
import { flicksToSeconds, secondsToFlicks } from '../../core/time/flicks';
import type { Queryable } from '../db/database';
import type { JobContext } from '../jobs/job-queue';
import { readAnalysis } from '../media/prepare-file';
import type { Runtime } from '../runtime';
import { type AlignedRecordings, alignRecordings, type SoundSource } from './align-recordings';
import { recordEdit } from './edit-log';
import { fileSound } from './file-sound';
import { loadShoot } from './load-shoot';

/** Job: lines up all clips by sound. What was set by hand stays; the result is one edit. */
export async function lineUp(runtime: Runtime, context: JobContext): Promise<Record<string, unknown>> {
	const { database, pool } = runtime;
	const shoot = await loadShoot(database, context.shootId);
	const files = new Map(
		(
			await database.query<{ id: string; path: string; identity: string; facts: MediaFacts }>(
				`select id, path, identity, facts from media_file where shoot_id = $1 and state = 'probed'`,
				[context.shootId]
			)
		).map((file) => [file.id, file])
	);
	// A clip with a missing file cannot be heard; it keeps its place, if it has one.
	const clips = shoot.clips.filter((clip) => clip.parts.every((part) => files.has(part.fileId)));
	const recordings = clips.map((clip): Recording => ({
		device: clip.deviceId,
		parts: clip.parts.map((part) => ({
			offsetSeconds: flicksToSeconds(part.offsetFlicks),
			file: { id: part.fileId, device: clip.deviceId, path: part.relativePath, facts: files.get(part.fileId)!.facts }
		}))
	}));
	const aligned = await alignRecordings(recordings, storedSound(runtime, files, context.signal), pool, {
		signal: context.signal,
		...(typeof context.input['reference'] === 'string' ? { reference: context.input['reference'] } : {}),
		onProgress: ({ share, what }) => context.progress(share, what === '' ? 'Comparing' : `Listening to ${what}`)
	});
	context.signal.throwIfAborted();
	await recordEdit(database, context.shootId, { kind: 'line-up' }, (transaction) =>
		storeAlignment(transaction, context.shootId, clips, aligned)
	);
	const placed = aligned.alignment.lineUps.reduce((sum, one) => sum + one.placed.length, 0);
	return {
		placed,
		strays: aligned.alignment.strays.length,
		decodeSeconds: aligned.decodeSeconds,
		alignSeconds: aligned.alignSeconds
	};
}

/** Sound of the shoot's files: what has been prepared is taken from there, anything else is decoded as it is needed. */
function storedSound(
	{ cache, pool }: Runtime,
	files: ReadonlyMap<string, { readonly path: string; readonly identity: string; readonly facts: MediaFacts }>,
	signal: AbortSignal
): SoundSource {
	const direct = fileSound(pool, signal);
	const inPlace = (file: JoinableFile): JoinableFile => ({ ...file, id: files.get(file.id)!.path });
	return {
		isSeekable: (file) => direct.isSeekable(file),
		async read(file, stretches, channel) {
			const { identity } = files.get(file.id)!;
			return channel === undefined && (await cache.has(identity, 'analysis.s16'))
				? readAnalysis(cache, identity, stretches)
				: direct.read(inPlace(file), stretches, channel);
		}
	};
}

async function storeAlignment(
	transaction: Queryable,
	shootId: string,
	clips: readonly Clip[],
	aligned: AlignedRecordings
): Promise<string> {
	const before = await loadShoot(transaction, shootId);
	await transaction.query('delete from stray where shoot_id = $1', [shootId]);
	await transaction.query('delete from placement where shoot_id = $1 and not by_hand', [shootId]);
	const byHand = new Set(before.clips.filter((clip) => clip.placement?.byHand).map((clip) => clip.id));
	const used = new Set<string>();
	for (const [position, lineUp] of aligned.alignment.lineUps.entries()) {
		const ids = lineUp.placed.map((placed) => clips[placed.clip]!.id);
		const old = before.lineUps.find(
			(one) =>
				!used.has(one.id) && before.clips.some((clip) => clip.placement?.lineUpId === one.id && ids.includes(clip.id))
		);
		const lineUpId = await storeLineUp(transaction, shootId, lineUp, position, old?.id);
		used.add(lineUpId);
		const shift = old ? keptOrigin(before, old.id, lineUp, clips) : 0;
		for (const placement of lineUp.placed) {
			const clipId = clips[placement.clip]!.id;
			if (byHand.has(clipId)) continue;
			await transaction.query(
				`insert into placement (shoot_id, clip_id, line_up_id, start_flicks, rate_ppm, method, confidence, residual_seconds, parts) values ($1, $2, $3, $4, $5, 'audio', $6, $7, $8)`,
				[
					shootId,
					clipId,
					lineUpId,
					secondsToFlicks(placement.startSeconds) + shift,
					placement.ratePpm,
					placement.confidence,
					placement.residualSeconds,
					placement.parts.map((part) => ({
						fromFlicks: secondsToFlicks(part.fromSeconds),
						startFlicks: secondsToFlicks(part.startSeconds) + shift
					}))
				]
			);
		}
	}
	for (const stray of aligned.alignment.strays) {
		const clip = clips[stray.clip]!;
		if (byHand.has(clip.id)) continue;
		const unreadable = clip.parts.some((part) => aligned.unreadable.has(part.fileId));
		await transaction.query('insert into stray (shoot_id, clip_id, reason) values ($1, $2, $3)', [
			shootId,
			clip.id,
			unreadable ? 'unreadable' : stray.reason
		]);
	}
	await transaction.query(
		'delete from line_up where shoot_id = $1 and not exists (select from placement where line_up_id = line_up.id)',
		[shootId]
	);
	await beginPrograms(transaction, shootId);
	return 'Line up by sound';
}

async function storeLineUp(
	transaction: Queryable,
	shootId: string,
	lineUp: AlignedLineUp,
	position: number,
	oldId: string | undefined
): Promise<string> {
	if (oldId) {
		await transaction.query('update line_up set reference_device_id = $2, position = $3 where id = $1', [
			oldId,
			lineUp.referenceDevice,
			position
		]);
		return oldId;
	}
	const [row] = await transaction.query<{ id: string }>(
		'insert into line_up (shoot_id, reference_device_id, position) values ($1, $2, $3) returning id',
		[shootId, lineUp.referenceDevice, position]
	);
	return row!.id;
}

/** A line-up that is made again keeps its zero, so that the program on it stays where it is. */
function keptOrigin(before: Shoot, lineUpId: string, lineUp: AlignedLineUp, clips: readonly Clip[]): number {
	const common = lineUp.placed.flatMap((placement) => {
		const clip = before.clips.find((one) => one.id === clips[placement.clip]!.id);
		return clip?.placement?.lineUpId === lineUpId ? [{ placement, clip, old: clip.placement }] : [];
	});
	const reference =
		common.find((one) => one.clip.deviceId === lineUp.referenceDevice && !one.old.byHand) ??
		common.find((one) => !one.old.byHand) ??
		common[0];
	return reference ? reference.old.startFlicks - secondsToFlicks(reference.placement.startSeconds) : 0;
}

/** Room microphones are no voices: they are left out of the first proposal of a master. */
const ROOM_NAMES = /room|amb|audience|saal|raum/i;

/** A shoot without a master gets the reference recorder's voices, and a line-up without a program gets one. */
async function beginPrograms(transaction: Queryable, shootId: string): Promise<void> {
	await proposeMaster(transaction, await loadShoot(transaction, shootId));
	const shoot = await loadShoot(transaction, shootId);
	for (const lineUp of shoot.lineUps) {
		const angles = anglesOf(shoot, lineUp.id);
		if (angles.length === 0 || shoot.programs.some((program) => program.lineUpId === lineUp.id)) continue;
		const range = rangeOfAllAngles(shoot, lineUp.id);
		const first = angles.includes(shoot.mainCameraId ?? '') ? shoot.mainCameraId : angles[0];
		await transaction.query(
			'insert into program (shoot_id, line_up_id, in_flicks, out_flicks) values ($1, $2, $3, $4)',
			[shootId, lineUp.id, range.inFlicks, range.outFlicks]
		);
		await transaction.query(
			'insert into program_call (shoot_id, line_up_id, at_flicks, device_id) values ($1, $2, $3, $4)',
			[shootId, lineUp.id, range.inFlicks, first]
		);
	}
}

async function proposeMaster(transaction: Queryable, shoot: Shoot): Promise<void> {
	const reference = shoot.devices.find((device) => device.id === shoot.lineUps[0]?.referenceDeviceId);
	if (shoot.master.length > 0 || !reference) return;
	const own = shoot.clips.filter((clip) => clip.deviceId === reference.id);
	const channels = Math.max(0, ...own.flatMap((clip) => clip.parts.map((part) => part.sound?.channels ?? 0)));
	const all = Array.from({ length: channels }, (_, channel) => channel);
	const voices = channels > 2 ? all.filter((channel) => !ROOM_NAMES.test(reference.channelNames[channel] ?? '')) : all;
	for (const channel of voices.length > 0 ? voices : all) {
		const pan = channels === 2 ? (channel === 0 ? -1 : 1) : 0;
		await transaction.query('insert into master_channel (shoot_id, device_id, channel, pan) values ($1, $2, $3, $4)', [
			shoot.id,
			reference.id,
			channel,
			pan
		]);
	}
}
