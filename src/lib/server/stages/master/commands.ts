import type { MASTER_COMMANDS } from '../../../contract/commands/master';
import type { MasterChannel } from '../../../core/shoot/decisions';
import { MARKS, type PersonChannel } from '../../../core/shoot/person';
import type { Queryable } from '../../db/database';
import type { CommandEntries } from '../../edits/command';
import { deviceOf, lineUpOf, personOf } from '../../shoots/found';
import { ShootError } from '../../shoots/shoot-error';

/** How what an editor changes of what the audience hears, and of who speaks, is carried out. */
export const MASTER_ENTRIES: CommandEntries<keyof typeof MASTER_COMMANDS> = {
	'set-master': {
		label: () => 'Choose the master audio',
		apply: async ({ transaction, shoot }, { lineUpId, channels }) => {
			lineUpOf(shoot, lineUpId);
			for (const { deviceId } of channels) deviceOf(shoot, deviceId);
			await transaction.query('delete from master_channel where line_up_id = $1 and turn = 0', [lineUpId]);
			await insertMixed(transaction, shoot.id, lineUpId, [channels], 0);
		}
	},
	'set-stand-ins': {
		label: () => 'Choose what stands in for the master',
		apply: async ({ transaction, shoot }, { lineUpId, standIns }) => {
			lineUpOf(shoot, lineUpId);
			for (const { deviceId } of standIns.flat()) deviceOf(shoot, deviceId);
			await transaction.query('delete from master_channel where line_up_id = $1 and turn > 0', [lineUpId]);
			await insertMixed(transaction, shoot.id, lineUpId, standIns, 1);
		}
	},
	'set-mix': {
		label: (shoot, { lineUpId, opensBySpeech, coversGaps }) => {
			const { mix } = lineUpOf(shoot, lineUpId);
			if (mix.opensBySpeech !== opensBySpeech)
				return opensBySpeech ? 'Open microphones by who speaks' : 'Leave all microphones open';
			if (mix.coversGaps !== coversGaps) return coversGaps ? 'Cover gaps of the master' : 'Leave gaps of the master';
			return 'Turn down who does not speak';
		},
		apply: async ({ transaction, shoot }, { lineUpId, opensBySpeech, closedDb, coversGaps }) => {
			lineUpOf(shoot, lineUpId);
			const values = [shoot.id, lineUpId, opensBySpeech, closedDb, coversGaps];
			const changed = await transaction.query(
				`update mix set opens_by_speech = $3, closed_db = $4, covers_gaps = $5
				 where shoot_id = $1 and line_up_id = $2 returning id`,
				values
			);
			if (changed.length > 0) return;
			await transaction.query(
				'insert into mix (shoot_id, line_up_id, opens_by_speech, closed_db, covers_gaps) values ($1, $2, $3, $4, $5)',
				values
			);
		}
	},
	'add-person': {
		label: (_, { name }) => `Add ${name}`,
		apply: async ({ transaction, shoot }, { id, name, channels }) => {
			for (const { deviceId } of channels) deviceOf(shoot, deviceId);
			await insertPeople(transaction, shoot.id, shoot.people, [{ id, name, channels }]);
		}
	},
	'name-person': {
		label: (shoot, { personId, name }) => `Rename ${personOf(shoot, personId).name} to ${name}`,
		apply: async ({ transaction }, { personId, name }) => {
			await transaction.query('update person set name = $2 where id = $1', [personId, name]);
		}
	},
	'drop-person': {
		label: (shoot, { personId }) => `Remove ${personOf(shoot, personId).name}`,
		apply: async ({ transaction }, { personId }) => {
			await transaction.query('delete from speech_correction where person_id = $1', [personId]);
			await transaction.query('delete from person_channel where person_id = $1', [personId]);
			await transaction.query('delete from person where id = $1', [personId]);
		}
	},
	'set-person-channels': {
		label: (shoot, { personId }) => `Choose the microphones of ${personOf(shoot, personId).name}`,
		apply: async ({ transaction, shoot }, { personId, channels }) => {
			for (const { deviceId } of channels) deviceOf(shoot, deviceId);
			await transaction.query('delete from person_channel where person_id = $1', [personId]);
			await insertChannels(transaction, shoot.id, personId, channels);
		}
	},
	'correct-speech': {
		label: (shoot, { corrections }) => {
			const people = [...new Set(corrections.map((one) => one.personId))].map((id) => personOf(shoot, id).name);
			return `Correct when ${people.join(' and ')} ${people.length === 1 ? 'speaks' : 'speak'}`;
		},
		apply: async ({ transaction, shoot }, { lineUpId, corrections }) => {
			lineUpOf(shoot, lineUpId);
			if (corrections.some((one) => one.outFlicks <= one.inFlicks))
				throw new ShootError('in-after-out', 'A stretch must end after it begins.');
			await transaction.query(
				`insert into speech_correction (shoot_id, line_up_id, person_id, in_flicks, out_flicks, speaks, position)
				 select $1, $2, "personId", "inFlicks", "outFlicks", speaks,
					coalesce((select max(position) from speech_correction where line_up_id = $2), 0) + number
				 from rows from (jsonb_to_recordset($3) as ("personId" uuid, "inFlicks" int8, "outFlicks" int8, speaks boolean))
					with ordinality as new ("personId", "inFlicks", "outFlicks", speaks, number)`,
				[shoot.id, lineUpId, JSON.stringify(corrections)]
			);
		}
	}
};

/** Puts channels that are mixed together in turns, from one on. */
async function insertMixed(
	transaction: Queryable,
	shootId: string,
	lineUpId: string,
	turns: readonly (readonly MasterChannel[])[],
	firstTurn: number
): Promise<void> {
	for (const [index, channels] of turns.entries())
		await transaction.query(
			`insert into master_channel (shoot_id, line_up_id, turn, device_id, channel, gain_db, pan, is_inverted, low_cut_hz, shift_flicks)
			 select $1, $2, $3, "deviceId", channel, "gainDb", pan, "isInverted", "lowCutHz", "shiftFlicks"
			 from jsonb_to_recordset($4) as new ("deviceId" uuid, channel int, "gainDb" float8, pan float8, "isInverted" boolean, "lowCutHz" float8, "shiftFlicks" int8)`,
			[shootId, lineUpId, firstTurn + index, JSON.stringify(channels)]
		);
}

/** Puts people after those that are there, each with a mark that is used least. */
export async function insertPeople(
	transaction: Queryable,
	shootId: string,
	known: readonly { readonly mark: number }[],
	people: readonly { readonly id: string; readonly name: string; readonly channels: readonly PersonChannel[] }[]
): Promise<void> {
	const marks = known.map((one) => one.mark);
	for (const [index, { id, name, channels }] of people.entries()) {
		const mark = leastUsed(marks);
		marks.push(mark);
		await transaction.query('insert into person (id, shoot_id, name, mark, position) values ($1, $2, $3, $4, $5)', [
			id,
			shootId,
			name,
			mark,
			known.length + index
		]);
		await insertChannels(transaction, shootId, id, channels);
	}
}

function leastUsed(marks: readonly number[]): number {
	const uses = Array.from({ length: MARKS }, (_, mark) => marks.filter((one) => one === mark).length);
	return uses.indexOf(Math.min(...uses));
}

async function insertChannels(
	transaction: Queryable,
	shootId: string,
	personId: string,
	channels: readonly PersonChannel[]
): Promise<void> {
	for (const [position, { deviceId, channel }] of channels.entries())
		await transaction.query(
			'insert into person_channel (shoot_id, person_id, device_id, channel, position) values ($1, $2, $3, $4, $5)',
			[shootId, personId, deviceId, channel, position]
		);
}
