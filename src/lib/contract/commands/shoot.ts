import { z } from 'zod';
import { Id, Name } from '../fields';

/** What an editor can change of a shoot as a whole, and of the names in it. */
export const SHOOT_COMMANDS = {
	'rename-shoot': z.object({ name: Name }),
	'rename-device': z.object({ deviceId: Id, name: Name }),
	'rename-clip': z.object({ clipId: Id, name: Name }),
	'set-badge': z.object({
		deviceId: Id,
		badge: z
			.string()
			.trim()
			.toUpperCase()
			.regex(/^[A-Z0-9]{1,3}$/, 'A badge is one to three letters or digits.')
	}),
	'set-main-camera': z.object({ deviceId: Id })
} as const;
