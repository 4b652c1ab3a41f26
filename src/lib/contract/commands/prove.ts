import { z } from 'zod';
import { Flicks, Id, Ids, MediaFlicks, Name, words } from '../fields';

export const POINT_WAYS = ['sync point', 'in point', 'out point', 'clip start'] as const;
export type PointWay = (typeof POINT_WAYS)[number];

/** What an editor can change of where clips lie, and what speaks for it. */
export const PROVE_COMMANDS = {
	'shift-clips': z.object({ clipIds: Ids, byFlicks: Flicks }),
	/** Takes over what the engine has measured at one passage. */
	'fit-clip': z.object({ clipId: Id, ontoClipId: Id, byFlicks: Flicks }),
	'set-start': z.object({ clipId: Id, startFlicks: Flicks }),
	'lock-clips': z.object({ clipIds: Ids, locked: z.boolean() }),
	'add-sync-point': z.object({
		clipId: Id,
		mediaFlicks: MediaFlicks,
		name: Name,
		sense: z.enum(['heard', 'seen']).default('heard')
	}),
	'drop-sync-point': z.object({ pointId: Id }),
	'place-by-sync-point': z.object({ pointId: Id, ontoPointId: Id }),
	'set-in-out': z.object({
		clipId: Id,
		inFlicks: MediaFlicks.nullable().optional(),
		outFlicks: MediaFlicks.nullable().optional()
	}),
	'line-up-by-points': z.object({
		way: z.enum(POINT_WAYS),
		/** Which clips; nothing for all that have points. */
		clipIds: Ids.optional(),
		/** What has a place keeps it: points are used together with what sound found. */
		keepsPlaces: z.boolean()
	}),
	/** One clip onto another by the same edge of both; the other one stays. */
	'place-by-edge': z.object({
		clipId: Id,
		ontoClipId: Id,
		way: z.enum(POINT_WAYS).exclude(['sync point'])
	}),
	/** One stray where its timecode says, though nothing proves its clock. */
	'place-by-timecode': z.object({ clipId: Id, lineUpId: Id }),
	'set-air-delay': z.object({ deviceId: Id, metres: z.number().min(-200).max(200) }),
	'set-air-temperature': z.object({ celsius: z.number().min(-40).max(60) }),
	'correct-drift': z.object({ deviceIds: Ids, corrects: z.boolean() }),
	'add-marker': z.object({ lineUpId: Id, atFlicks: Flicks, name: Name }),
	'drop-marker': z.object({ markerId: Id }),
	sign: z.object({
		lineUpId: Id,
		signedBy: Name,
		signedOn: z.iso.date('The date is written as 2026-05-16.'),
		remark: words(500).default('')
	})
} as const;
