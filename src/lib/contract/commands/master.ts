import { z } from 'zod';
import { MAX_SHIFT_SECONDS } from '../../core/limits/master';
import { secondsToFlicks } from '../../core/time/flicks';
import { Flicks, Id, Name } from '../fields';

const MixedChannels = z
	.array(
		z.object({
			deviceId: Id,
			channel: z.number().int().min(0).max(63),
			gainDb: z.number().min(-60).max(24).default(0),
			pan: z.number().min(-1).max(1).default(0),
			isInverted: z.boolean().default(false),
			lowCutHz: z.number().min(0).max(400).default(0),
			shiftFlicks: Flicks.refine(
				(shift) => Math.abs(shift) <= secondsToFlicks(MAX_SHIFT_SECONDS),
				'That is too far.'
			).default(0)
		})
	)
	.max(64);
const PersonChannels = z.array(z.object({ deviceId: Id, channel: z.number().int().min(0).max(63) })).max(64);

/** What an editor can change of what the audience hears. */
export const MASTER_COMMANDS = {
	'set-master': z.object({ lineUpId: Id, channels: MixedChannels }),
	/** What stands in where the master has a gap, first the first; none for what is proposed. */
	'set-stand-ins': z.object({ lineUpId: Id, standIns: z.array(MixedChannels.min(1)).max(63) }),
	'set-mix': z.object({
		lineUpId: Id,
		opensBySpeech: z.boolean(),
		closedDb: z.number().min(-40).max(0),
		coversGaps: z.boolean()
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
