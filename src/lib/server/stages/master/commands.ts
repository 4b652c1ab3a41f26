import type { MASTER_COMMANDS } from '../../../contract/commands/master';
import type { CommandEntries } from '../../edits/command';
import { deviceOf, lineUpOf } from '../../shoots/found';

/** How what an editor changes of what the audience hears is carried out. */
export const MASTER_ENTRIES: CommandEntries<keyof typeof MASTER_COMMANDS> = {
	'set-master': {
		label: () => 'Choose the master audio',
		apply: async ({ transaction, shoot }, { lineUpId, channels }) => {
			lineUpOf(shoot, lineUpId);
			for (const { deviceId } of channels) deviceOf(shoot, deviceId);
			await transaction.query('delete from master_channel where line_up_id = $1', [lineUpId]);
			await transaction.query(
				`insert into master_channel (shoot_id, line_up_id, device_id, channel, gain_db, pan)
				 select $1, $2, "deviceId", channel, "gainDb", pan
				 from jsonb_to_recordset($3) as new ("deviceId" uuid, channel int, "gainDb" float8, pan float8)`,
				[shoot.id, lineUpId, JSON.stringify(channels)]
			);
		}
	}
};
