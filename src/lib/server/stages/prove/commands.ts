import type { PROVE_COMMANDS } from '../../../contract/commands/prove';
import type { Clip, SyncPoint } from '../../../core/shoot/clip';
import { timecodePlace } from '../../../core/shoot/timecode-place';
import { CONFIDENCE_ALONE } from '../../../core/limits/solve';
import { toTimeline } from '../../../core/shoot/placement';
import type { Shoot } from '../../../core/shoot/shoot';
import type { Queryable } from '../../db/database';
import type { CommandEntries, EditContext } from '../../edits/command';
import { assertOnLineUp, placeClips } from '../../shoots/clip-rows';
import {
	clipOf,
	clipsOf,
	clipWords,
	deviceOf,
	lineUpOf,
	movableClip,
	placedClip,
	unlockedClip
} from '../../shoots/found';
import { ShootError } from '../../shoots/shoot-error';
import { lineUpByPoints, placeByEdge } from './line-up-by-points';
import { signLineUp } from './sign-line-up';

/** How what an editor changes of where clips lie, and of what speaks for it, is carried out. */
export const PROVE_ENTRIES: CommandEntries<keyof typeof PROVE_COMMANDS> = {
	'shift-clips': {
		label: (shoot, { clipIds }) => `Move ${clipWords(clipsOf(shoot, clipIds))}`,
		apply: ({ transaction, shoot }, { clipIds, byFlicks }) => shiftClips(transaction, clipsOf(shoot, clipIds), byFlicks)
	},
	'fit-clip': {
		label: (shoot, { clipId, ontoClipId }) => `Fit ${clipOf(shoot, clipId).name} to ${clipOf(shoot, ontoClipId).name}`,
		apply: ({ transaction, shoot }, { clipId, byFlicks }) => shiftClips(transaction, [clipOf(shoot, clipId)], byFlicks)
	},
	'set-start': {
		label: (shoot, { clipId }) => `Set the start of ${clipOf(shoot, clipId).name}`,
		apply: async ({ transaction, shoot }, { clipId, startFlicks }) => {
			movableClip(clipOf(shoot, clipId));
			await transaction.query('update placement set start_flicks = $2, by_hand = true where clip_id = $1', [
				clipId,
				startFlicks
			]);
		}
	},
	'lock-clips': {
		label: (shoot, { clipIds, locked }) => `${locked ? 'Lock' : 'Unlock'} ${clipWords(clipsOf(shoot, clipIds))}`,
		apply: async ({ transaction, shoot }, { clipIds, locked }) => {
			for (const clip of clipsOf(shoot, clipIds)) placedClip(clip);
			await transaction.query('update placement set locked = $2 where clip_id = any($1) and locked <> $2', [
				clipIds,
				locked
			]);
		}
	},
	'add-sync-point': {
		label: (shoot, { clipId, name }) => `Mark ${name} in ${clipOf(shoot, clipId).name}`,
		apply: async ({ transaction, shoot }, { clipId, name, mediaFlicks, sense }) => {
			assertWithin(clipOf(shoot, clipId), mediaFlicks);
			await transaction.query(
				'insert into sync_point (shoot_id, clip_id, name, media_flicks, sense) values ($1, $2, $3, $4, $5)',
				[shoot.id, clipId, name, mediaFlicks, sense]
			);
		}
	},
	'drop-sync-point': {
		label: () => 'Remove a sync point',
		apply: async ({ transaction, shoot }, { pointId }) => {
			await transaction.query('delete from sync_point where id = $1 and shoot_id = $2', [pointId, shoot.id]);
		}
	},
	'place-by-sync-point': {
		label: (shoot, { pointId }) => {
			const { clip, point } = pointOf(shoot, pointId);
			return `Place ${clip.name} by the sync point ${point.name}`;
		},
		apply: (context, { pointId, ontoPointId }) =>
			placeBySyncPoint(context, pointOf(context.shoot, pointId), pointOf(context.shoot, ontoPointId))
	},
	'set-in-out': {
		label: (shoot, { clipId }) => `Set in and out point of ${clipOf(shoot, clipId).name}`,
		apply: ({ transaction, shoot }, { clipId, ...edges }) => setInOut(transaction, clipOf(shoot, clipId), edges)
	},
	'line-up-by-points': {
		label: (_shoot, { way }) => `Line up by ${way}s`,
		apply: lineUpByPoints
	},
	'place-by-edge': {
		label: (shoot, { clipId, ontoClipId, way }) =>
			`Place ${clipOf(shoot, clipId).name} onto ${clipOf(shoot, ontoClipId).name} by ${way}s`,
		apply: placeByEdge
	},
	'place-by-timecode': {
		label: (shoot, { clipId }) => `Place ${clipOf(shoot, clipId).name} by its timecode`,
		apply: placeByTimecode
	},
	'set-air-delay': {
		label: (shoot, { deviceId }) => `Set the air delay of ${deviceOf(shoot, deviceId).name}`,
		apply: async ({ transaction }, { deviceId, metres }) => {
			await transaction.query('update device set air_metres = $2 where id = $1', [deviceId, metres]);
		}
	},
	'set-air-temperature': {
		label: (_shoot, { celsius }) => `Set the temperature of the air to ${celsius} °C`,
		apply: async ({ transaction, shoot }, { celsius }) => {
			await transaction.query('update shoot set air_celsius = $2 where id = $1', [shoot.id, celsius]);
		}
	},
	'correct-drift': {
		label: (shoot, { deviceIds, corrects }) => {
			const devices = deviceIds.map((id) => deviceOf(shoot, id));
			const whose = devices.length === 1 ? devices[0]!.name : `${devices.length} devices`;
			return `${corrects ? 'Correct' : 'Do not correct'} the drift of ${whose}`;
		},
		apply: async ({ transaction, shoot }, { deviceIds, corrects }) => {
			await transaction.query(
				'update device set corrects_drift = $2 where id = any($1) and corrects_drift <> $2 and shoot_id = $3',
				[deviceIds, corrects, shoot.id]
			);
		}
	},
	'add-marker': {
		label: (_shoot, { name }) => `Set the marker ${name}`,
		apply: async ({ transaction, shoot }, { lineUpId, atFlicks, name }) => {
			lineUpOf(shoot, lineUpId);
			await transaction.query('insert into marker (shoot_id, line_up_id, at_flicks, name) values ($1, $2, $3, $4)', [
				shoot.id,
				lineUpId,
				atFlicks,
				name
			]);
		}
	},
	'drop-marker': {
		label: () => 'Remove a marker',
		apply: async ({ transaction, shoot }, { markerId }) => {
			await transaction.query('delete from marker where id = $1 and shoot_id = $2', [markerId, shoot.id]);
		}
	},
	sign: {
		label: (_shoot, { signedBy }) => `Sign the report as ${signedBy}`,
		apply: async ({ transaction, shoot }, command) => {
			lineUpOf(shoot, command.lineUpId);
			await signLineUp(transaction, shoot, command);
		}
	}
};

function assertWithin(clip: Clip, mediaFlicks: number): void {
	if (mediaFlicks > clip.durationFlicks)
		throw new ShootError('outside-clip', 'That moment lies after the end of the clip.');
}

async function placeByTimecode(
	{ transaction, shoot }: EditContext,
	{ clipId, lineUpId }: { readonly clipId: string; readonly lineUpId: string }
): Promise<void> {
	const clip = unlockedClip(clipOf(shoot, clipId));
	const lineUp = lineUpOf(shoot, lineUpId);
	const placed = shoot.clips.flatMap((one) =>
		one.placement?.lineUpId === lineUpId && one !== clip ? [placedClip(one)] : []
	);
	const startFlicks = timecodePlace(clip, placed, lineUp.referenceDeviceId);
	if (startFlicks === undefined)
		throw new ShootError('no-timecode-place', 'By timecode nothing else was recorded at its time.');
	const sameDevice = placed.find((one) => one.deviceId === clip.deviceId);
	await placeClips(transaction, shoot.id, [
		{
			clipId,
			lineUpId,
			startFlicks,
			ratePpm: sameDevice?.placement.measuredRatePpm ?? 0,
			method: 'timecode',
			confidence: CONFIDENCE_ALONE,
			residualSeconds: 0,
			byHand: true
		}
	]);
}

async function shiftClips(transaction: Queryable, clips: readonly Clip[], byFlicks: number): Promise<void> {
	for (const clip of clips) assertOnLineUp(movableClip(clip).placement.startFlicks + byFlicks);
	await transaction.query(
		'update placement set start_flicks = start_flicks + $2, by_hand = true where clip_id = any($1)',
		[clips.map((clip) => clip.id), byFlicks]
	);
}

async function setInOut(
	transaction: Queryable,
	clip: Clip,
	{ inFlicks = clip.inFlicks, outFlicks = clip.outFlicks }: { inFlicks?: number | null; outFlicks?: number | null }
): Promise<void> {
	assertWithin(clip, Math.max(inFlicks ?? 0, outFlicks ?? 0));
	if (typeof inFlicks === 'number' && typeof outFlicks === 'number' && inFlicks >= outFlicks)
		throw new ShootError('in-after-out', 'The in point must lie before the out point.');
	await transaction.query('update clip set in_flicks = $2, out_flicks = $3 where id = $1', [
		clip.id,
		inFlicks ?? null,
		outFlicks ?? null
	]);
}

/** Lays a clip so that its point falls onto the same moment as a point of a placed clip. */
async function placeBySyncPoint(
	{ transaction, shoot }: EditContext,
	moved: PointOfClip,
	onto: PointOfClip
): Promise<void> {
	if (moved.clip.id === onto.clip.id)
		throw new ShootError('same-clip', 'The two points must lie in two different clips.');
	const { placement: anchor } = placedClip(onto.clip);
	unlockedClip(moved.clip);
	// Other clips of the device, placed before, know the clock's rate.
	const sibling = shoot.clips.find(
		(one) => one.deviceId === moved.clip.deviceId && one.id !== moved.clip.id && one.placement
	);
	const ratePpm = sibling?.placement?.measuredRatePpm ?? moved.clip.placement?.measuredRatePpm ?? 0;
	const startFlicks = Math.round(
		toTimeline(anchor, onto.point.mediaFlicks) - moved.point.mediaFlicks * (1 + ratePpm * 1e-6)
	);
	await placeClips(transaction, shoot.id, [
		{
			clipId: moved.clip.id,
			lineUpId: anchor.lineUpId,
			startFlicks,
			ratePpm,
			method: 'sync point',
			confidence: 1,
			residualSeconds: 0,
			byHand: true
		}
	]);
}

interface PointOfClip {
	readonly clip: Clip;
	readonly point: SyncPoint;
}

function pointOf(shoot: Shoot, id: string): PointOfClip {
	for (const clip of shoot.clips) for (const point of clip.syncPoints) if (point.id === id) return { clip, point };
	throw new ShootError('no-such-point', 'There is no such sync point in this shoot.');
}
