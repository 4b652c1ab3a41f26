import { z } from 'zod';
import { Flicks, Id, Name } from '../fields';

const PersonChannels = z.array(z.object({ deviceId: Id, channel: z.number().int().min(0).max(63) })).max(64);

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
	}),
	'add-person': z.object({ id: Id, name: Name, channels: PersonChannels.default([]) }),
	'name-person': z.object({ personId: Id, name: Name }),
	'drop-person': z.object({ personId: Id }),
	/** All channels that hear a person, closest first. */
	'set-person-channels': z.object({ personId: Id, channels: PersonChannels }),
	/** That somebody speaks in a stretch, or does not; kept against what is found later. */
	'correct-speech': z.object({
		lineUpId: Id,
		corrections: z
			.array(z.object({ personId: Id, inFlicks: Flicks, outFlicks: Flicks, speaks: z.boolean() }))
			.min(1)
			.max(100)
	})
} as const;
