import { z } from 'zod';
import { MAX_PICTURE_RATE, MIN_PICTURE_RATE } from '../../core/limits/recording';
import { ratePerSecond } from '../../core/time/rational';
import { Id, Ids, words } from '../fields';

/** What an editor can change of how files became devices and clips. */
export const GATHER_COMMANDS = {
	'move-clips': z.object({ clipIds: Ids, deviceId: Id }),
	'split-device': z.object({ clipIds: Ids, name: words(100).min(1) }),
	'merge-devices': z.object({ deviceId: Id, intoDeviceId: Id }),
	'reorder-device': z.object({ deviceId: Id, place: z.number().int().min(0).max(1000) }),
	'take-apart': z.object({ clipId: Id }),
	'join-clips': z.object({ clipIds: Ids.min(2) }),
	'name-clips': z.object({
		names: z
			.array(z.object({ clipId: Id, name: words(200).min(1) }))
			.min(1)
			.max(5000)
	}),
	'note-clips': z.object({
		notes: z
			.array(
				z.object({
					clipId: Id,
					scene: words(100).optional(),
					shot: words(100).optional(),
					take: words(100).optional(),
					circled: z.boolean().optional(),
					note: words(2000).optional()
				})
			)
			.min(1)
			.max(5000)
	}),
	'name-channel': z.object({ deviceId: Id, channel: z.number().int().min(0).max(63), name: words(100) }),
	'set-rate': z.object({
		/** Nothing: the main camera's. */
		rate: z
			.object({ num: z.number().int().min(1).max(240_000), den: z.number().int().min(1).max(1001) })
			.refine(
				(rate) => ratePerSecond(rate) >= MIN_PICTURE_RATE && ratePerSecond(rate) <= MAX_PICTURE_RATE,
				`A line-up has ${MIN_PICTURE_RATE} to ${MAX_PICTURE_RATE} frames a second.`
			)
			.nullable(),
		width: z.number().int().min(16).max(16_384).nullable(),
		height: z.number().int().min(16).max(16_384).nullable()
	})
} as const;
