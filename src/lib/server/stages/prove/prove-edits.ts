import { z } from 'zod';
import type { Clip } from '../../../core/shoot/clip';
import { type Placement, toTimeline } from '../../../core/shoot/placement';
import type { Shoot } from '../../../core/shoot/shoot';
import type { Queryable } from '../../db/database';
import { Flicks } from '../../shoots/flicks-schema';
import { layByEdge, lineUpByPoints, POINT_WAYS } from './line-up-by-points';
import { ShootError } from '../../shoots/shoot-error';
import { signLineUp } from './sign-line-up';

const Id = z.uuid();
const Ids = z.array(Id).min(1).max(5000);
const Name = z.string().trim().min(1).max(100);
const MediaFlicks = Flicks.min(0);

/** What an editor can change of where clips lie, and what speaks for it. */
export const PROVE_COMMANDS = [
	z.object({ kind: z.literal('shift-clips'), clipIds: Ids, byFlicks: Flicks }),
	/** Takes over what the engine has measured at one passage. */
	z.object({ kind: z.literal('fit-clip'), clipId: Id, ontoClipId: Id, byFlicks: Flicks }),
	z.object({ kind: z.literal('set-start'), clipId: Id, startFlicks: Flicks }),
	z.object({ kind: z.literal('lock-clips'), clipIds: Ids, locked: z.boolean() }),
	z.object({
		kind: z.literal('add-sync-point'),
		clipId: Id,
		mediaFlicks: MediaFlicks,
		name: Name,
		sense: z.enum(['heard', 'seen']).default('heard')
	}),
	z.object({ kind: z.literal('drop-sync-point'), pointId: Id }),
	z.object({ kind: z.literal('place-by-sync-point'), pointId: Id, ontoPointId: Id }),
	z.object({
		kind: z.literal('set-in-out'),
		clipId: Id,
		inFlicks: MediaFlicks.nullable().optional(),
		outFlicks: MediaFlicks.nullable().optional()
	}),
	z.object({
		kind: z.literal('line-up-by-points'),
		way: z.enum(POINT_WAYS),
		/** Which clips; nothing for all that have points. */
		clipIds: Ids.optional(),
		/** What has a place keeps it: points are used together with what sound found. */
		keepsPlaces: z.boolean()
	}),
	/** One clip onto another by the same edge of both; the other one stays. */
	z.object({
		kind: z.literal('lay-by-edge'),
		clipId: Id,
		ontoClipId: Id,
		way: z.enum(POINT_WAYS).exclude(['sync point'])
	}),
	z.object({ kind: z.literal('set-air-delay'), deviceId: Id, metres: z.number().min(-200).max(200) }),
	z.object({ kind: z.literal('set-air-temperature'), celsius: z.number().min(-40).max(60) }),
	z.object({ kind: z.literal('correct-drift'), deviceIds: Ids, corrects: z.boolean() }),
	z.object({ kind: z.literal('add-marker'), lineUpId: Id, atFlicks: Flicks, name: Name }),
	z.object({ kind: z.literal('drop-marker'), markerId: Id }),
	z.object({
		kind: z.literal('sign'),
		lineUpId: Id,
		signedBy: Name,
		signedOn: z.iso.date('The date is written as 2026-05-16.'),
		remark: z.string().trim().max(500).default('')
	})
] as const;
export type ProveCommand = z.infer<(typeof PROVE_COMMANDS)[number]>;

export function isProveCommand(command: { readonly kind: string }): command is ProveCommand {
	return PROVE_COMMANDS.some((one) => one.shape.kind.value === command.kind);
}

/** Carries out a command within a transaction. @returns what was done, in words for the list of changes */
export async function carryOutProve(transaction: Queryable, shoot: Shoot, command: ProveCommand): Promise<string> {
	switch (command.kind) {
		case 'shift-clips':
			return shiftClips(transaction, movable(shoot, command.clipIds), command.byFlicks);
		case 'fit-clip': {
			const [clip] = movable(shoot, [command.clipId]);
			const onto = clipOf(shoot, command.ontoClipId);
			await shiftClips(transaction, [clip!], command.byFlicks);
			return `Fit ${clip!.name} to ${onto.name}`;
		}
		case 'set-start': {
			const [clip] = movable(shoot, [command.clipId]);
			await transaction.query('update placement set start_flicks = $2, by_hand = true where clip_id = $1', [
				clip!.id,
				command.startFlicks
			]);
			return `Set the start of ${clip!.name}`;
		}
		case 'lock-clips': {
			const clips = command.clipIds.map((id) => clipOf(shoot, id));
			for (const clip of clips) placed(clip);
			await transaction.query('update placement set locked = $2 where clip_id = any($1) and locked <> $2', [
				command.clipIds,
				command.locked
			]);
			return `${command.locked ? 'Lock' : 'Unlock'} ${clipWords(clips)}`;
		}
		case 'add-sync-point': {
			const clip = clipOf(shoot, command.clipId);
			withinClip(clip, command.mediaFlicks);
			await transaction.query(
				'insert into sync_point (shoot_id, clip_id, name, media_flicks, sense) values ($1, $2, $3, $4, $5)',
				[shoot.id, command.clipId, command.name, command.mediaFlicks, command.sense]
			);
			return `Mark ${command.name} in ${clip.name}`;
		}
		case 'drop-sync-point':
			await transaction.query('delete from sync_point where id = $1 and shoot_id = $2', [command.pointId, shoot.id]);
			return 'Remove a sync point';
		case 'place-by-sync-point':
			return placeBySyncPoint(transaction, shoot, command.pointId, command.ontoPointId);
		case 'set-in-out':
			return setInOut(transaction, clipOf(shoot, command.clipId), command);
		case 'line-up-by-points':
			return lineUpByPoints(transaction, shoot, command);
		case 'lay-by-edge':
			return layByEdge(transaction, shoot, command);
		case 'set-air-delay':
			await transaction.query('update device set air_metres = $2 where id = $1', [
				deviceOf(shoot, command.deviceId).id,
				command.metres
			]);
			return `Set the air delay of ${deviceOf(shoot, command.deviceId).name}`;
		case 'set-air-temperature':
			await transaction.query('update shoot set air_celsius = $2 where id = $1', [shoot.id, command.celsius]);
			return `Set the temperature of the air to ${command.celsius} °C`;
		case 'correct-drift': {
			const devices = command.deviceIds.map((id) => deviceOf(shoot, id));
			await transaction.query(
				'update device set corrects_drift = $2 where id = any($1) and corrects_drift <> $2 and shoot_id = $3',
				[command.deviceIds, command.corrects, shoot.id]
			);
			const whose = devices.length === 1 ? devices[0]!.name : `${devices.length} devices`;
			return `${command.corrects ? 'Correct' : 'Do not correct'} the drift of ${whose}`;
		}
		case 'add-marker':
			lineUpOf(shoot, command.lineUpId);
			await transaction.query('insert into marker (shoot_id, line_up_id, at_flicks, name) values ($1, $2, $3, $4)', [
				shoot.id,
				command.lineUpId,
				command.atFlicks,
				command.name
			]);
			return `Set the marker ${command.name}`;
		case 'drop-marker':
			await transaction.query('delete from marker where id = $1 and shoot_id = $2', [command.markerId, shoot.id]);
			return 'Remove a marker';
		case 'sign':
			lineUpOf(shoot, command.lineUpId);
			return signLineUp(transaction, shoot, command);
	}
}

function lineUpOf(shoot: Shoot, id: string): void {
	if (!shoot.lineUps.some((one) => one.id === id))
		throw new ShootError('not-found', 'There is no such line-up in this shoot.');
}

function deviceOf(shoot: Shoot, id: string): Shoot['devices'][number] {
	const device = shoot.devices.find((one) => one.id === id);
	if (!device) throw new ShootError('not-found', 'There is no such device in this shoot.');
	return device;
}

function clipOf(shoot: Shoot, id: string): Clip {
	const clip = shoot.clips.find((one) => one.id === id);
	if (!clip) throw new ShootError('not-found', 'There is no such clip in this shoot.');
	return clip;
}

function placed(clip: Clip): Placement {
	if (!clip.placement) throw new ShootError('not-possible', `${clip.name} has no place on a line-up yet.`);
	return clip.placement;
}

/** Clips that may be moved. @throws ShootError one has no place, or is locked */
function movable(shoot: Shoot, ids: readonly string[]): readonly Clip[] {
	return ids.map((id) => {
		const clip = clipOf(shoot, id);
		if (placed(clip).isLocked) throw new ShootError('not-possible', `${clip.name} is locked. Unlock it to move it.`);
		return clip;
	});
}

function clipWords(clips: readonly Clip[]): string {
	return clips.length === 1 ? clips[0]!.name : `${clips.length} clips`;
}

function withinClip(clip: Clip, mediaFlicks: number): void {
	if (mediaFlicks > clip.durationFlicks)
		throw new ShootError('not-possible', 'That moment lies after the end of the clip.');
}

async function shiftClips(transaction: Queryable, clips: readonly Clip[], byFlicks: number): Promise<string> {
	await transaction.query(
		'update placement set start_flicks = start_flicks + $2, by_hand = true where clip_id = any($1)',
		[clips.map((clip) => clip.id), byFlicks]
	);
	return `Move ${clipWords(clips)}`;
}

async function setInOut(
	transaction: Queryable,
	clip: Clip,
	{ inFlicks = clip.inFlicks, outFlicks = clip.outFlicks }: { inFlicks?: number | null; outFlicks?: number | null }
): Promise<string> {
	withinClip(clip, Math.max(inFlicks ?? 0, outFlicks ?? 0));
	if (typeof inFlicks === 'number' && typeof outFlicks === 'number' && inFlicks >= outFlicks)
		throw new ShootError('not-possible', 'The in point must lie before the out point.');
	await transaction.query('update clip set in_flicks = $2, out_flicks = $3 where id = $1', [
		clip.id,
		inFlicks ?? null,
		outFlicks ?? null
	]);
	return `Set in and out point of ${clip.name}`;
}

/** Lays a clip so that its point falls onto the same moment as a point of a placed clip. */
async function placeBySyncPoint(
	transaction: Queryable,
	shoot: Shoot,
	pointId: string,
	ontoPointId: string
): Promise<string> {
	const points = shoot.clips.flatMap((clip) => clip.syncPoints.map((point) => ({ clip, point })));
	const moved = points.find((one) => one.point.id === pointId);
	const onto = points.find((one) => one.point.id === ontoPointId);
	if (!moved || !onto) throw new ShootError('not-found', 'There is no such sync point in this shoot.');
	if (moved.clip.id === onto.clip.id)
		throw new ShootError('not-possible', 'The two points must lie in two different clips.');
	const anchor = placed(onto.clip);
	if (moved.clip.placement?.isLocked)
		throw new ShootError('not-possible', `${moved.clip.name} is locked. Unlock it to move it.`);
	// Other clips of the device, placed before, know the clock's rate.
	const sibling = shoot.clips.find(
		(one) => one.deviceId === moved.clip.deviceId && one.id !== moved.clip.id && one.placement
	);
	const ratePpm = sibling?.placement?.measuredRatePpm ?? moved.clip.placement?.measuredRatePpm ?? 0;
	const startFlicks = Math.round(
		toTimeline(anchor, onto.point.mediaFlicks) - moved.point.mediaFlicks * (1 + ratePpm * 1e-6)
	);
	await transaction.query('delete from stray where clip_id = $1', [moved.clip.id]);
	await transaction.query('delete from placement where clip_id = $1', [moved.clip.id]);
	await transaction.query(
		`insert into placement (shoot_id, clip_id, line_up_id, start_flicks, rate_ppm, method, confidence, residual_seconds, by_hand) values ($1, $2, $3, $4, $5, 'sync point', 1, 0, true)`,
		[shoot.id, moved.clip.id, anchor.lineUpId, startFlicks, ratePpm]
	);
	return `Place ${moved.clip.name} by the sync point ${moved.point.name}`;
}
