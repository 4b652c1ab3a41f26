import { z } from 'zod';
import { Id } from '../fields';

/** What an editor can change of what the audience hears. */
export const MASTER_COMMANDS = {
	'set-master': z.object({
		lineUpId: Id,
		channels: z
			.array(
				z.object({
					deviceId: Id,
					channel: z.number().int().min(0).max(63),
					gainDb: z.number().min(-60).max(24).default(0),
					pan: z.number().min(-1).max(1).default(0)
				})
			)
			.max(64)
	})
} as const;
