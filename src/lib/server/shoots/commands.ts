import type { SHOOT_COMMANDS } from '../../contract/commands/shoot';
import type { CommandEntries } from '../edits/command';
import { cameraOf, clipOf, deviceOf } from './found';
import { ShootError } from './shoot-error';

/** How what an editor changes of a shoot as a whole, and of the names in it, is carried out. */
export const SHOOT_ENTRIES: CommandEntries<keyof typeof SHOOT_COMMANDS> = {
	'rename-shoot': {
		label: (_shoot, { name }) => `Rename the shoot to ${name}`,
		apply: async ({ transaction, shoot }, { name }) => {
			await transaction.query('update shoot set name = $2 where id = $1', [shoot.id, name]);
		}
	},
	'rename-device': {
		label: (shoot, { deviceId, name }) => `Rename ${deviceOf(shoot, deviceId).name} to ${name}`,
		apply: async ({ transaction }, { deviceId, name }) => {
			await transaction.query('update device set name = $2 where id = $1', [deviceId, name]);
		}
	},
	'rename-clip': {
		label: (shoot, { clipId, name }) => `Rename ${clipOf(shoot, clipId).name} to ${name}`,
		apply: async ({ transaction }, { clipId, name }) => {
			await transaction.query('update clip set name = $2 where id = $1', [clipId, name]);
		}
	},
	'set-badge': {
		label: (shoot, { deviceId, badge }) => `Give ${deviceOf(shoot, deviceId).name} the badge ${badge}`,
		apply: async ({ transaction, shoot }, { deviceId, badge }) => {
			if (shoot.devices.some((one) => one.badge === badge && one.id !== deviceId))
				throw new ShootError('badge-taken', `The badge ${badge} belongs to another device.`);
			await transaction.query('update device set badge = $2 where id = $1', [deviceId, badge]);
		}
	},
	'set-main-camera': {
		label: (shoot, { deviceId }) =>
			`Make ${cameraOf(shoot, deviceId, 'Only a camera can be the main camera.').name} the main camera`,
		apply: async ({ transaction, shoot }, { deviceId }) => {
			await transaction.query('update shoot set main_camera_id = $2 where id = $1', [shoot.id, deviceId]);
		}
	}
};
