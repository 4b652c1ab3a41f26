import { z } from 'zod';
import { Flicks, Id } from '../fields';

/** What an editor can change of a program. */
export const CALL_COMMANDS = {
	call: z.object({ lineUpId: Id, atFlicks: Flicks, deviceId: Id }),
	'change-shot': z.object({ lineUpId: Id, callId: Id, deviceId: Id }),
	'move-call': z.object({ lineUpId: Id, callId: Id, atFlicks: Flicks }),
	'drop-call': z.object({ lineUpId: Id, callId: Id }),
	trim: z.object({ lineUpId: Id, inFlicks: Flicks, outFlicks: Flicks }),
	'trim-to-all-angles': z.object({ lineUpId: Id })
} as const;
