import type { CALL_COMMANDS } from '../../../contract/commands/call';
import { editProgram, type ProgramEdit, rangeOfAllAngles } from '../../../core/program/program';
import type { StoredProgram } from '../../../core/shoot/decisions';
import type { Shoot } from '../../../core/shoot/shoot';
import type { Queryable } from '../../db/database';
import type { CommandEntries, EditContext } from '../../edits/command';
import { cameraOf, programOf } from '../../shoots/found';

/** How what an editor changes of a program is carried out. */
export const CALL_ENTRIES: CommandEntries<keyof typeof CALL_COMMANDS> = {
	call: {
		label: (shoot, { deviceId }) => `Call ${angle(shoot, deviceId)}`,
		apply: (context, { lineUpId, atFlicks, deviceId }) =>
			change(context, lineUpId, { kind: 'call', atFlicks, deviceId, newId: crypto.randomUUID() })
	},
	'change-shot': {
		label: (shoot, { deviceId }) => `Change a shot to ${angle(shoot, deviceId)}`,
		apply: (context, { lineUpId, callId, deviceId }) =>
			change(context, lineUpId, { kind: 'change-shot', callId, deviceId })
	},
	'move-call': {
		label: () => 'Move a call',
		apply: (context, { lineUpId, callId, atFlicks }) =>
			change(context, lineUpId, { kind: 'move-call', callId, atFlicks })
	},
	'drop-call': {
		label: () => 'Drop a call',
		apply: (context, { lineUpId, callId }) => change(context, lineUpId, { kind: 'drop-call', callId })
	},
	trim: {
		label: () => 'Trim the program',
		apply: (context, { lineUpId, inFlicks, outFlicks }) =>
			change(context, lineUpId, { kind: 'trim', inFlicks, outFlicks })
	},
	'trim-to-all-angles': {
		label: () => 'Trim the program',
		apply: (context, { lineUpId }) =>
			change(context, lineUpId, { kind: 'trim', ...rangeOfAllAngles(context.shoot, lineUpId) })
	}
};

function angle(shoot: Shoot, deviceId: string): string {
	return cameraOf(shoot, deviceId, 'Only a camera can be called.').badge;
}

async function change({ transaction, shoot }: EditContext, lineUpId: string, edit: ProgramEdit): Promise<void> {
	const before = programOf(shoot, lineUpId);
	await storeProgram(transaction, shoot.id, before, editProgram(before, edit, shoot.rate));
}

async function storeProgram(
	transaction: Queryable,
	shootId: string,
	before: StoredProgram,
	after: StoredProgram
): Promise<void> {
	if (before.inFlicks !== after.inFlicks || before.outFlicks !== after.outFlicks)
		await transaction.query('update program set in_flicks = $2, out_flicks = $3 where line_up_id = $1', [
			after.lineUpId,
			after.inFlicks,
			after.outFlicks
		]);
	const kept = new Set(after.calls.map((call) => call.id));
	const known = new Map(before.calls.map((call) => [call.id, call]));
	const dropped = before.calls.filter((call) => !kept.has(call.id)).map((call) => call.id);
	if (dropped.length > 0) await transaction.query('delete from program_call where id = any($1)', [dropped]);
	const changed = after.calls.filter((call) => {
		const old = known.get(call.id);
		return old?.atFlicks !== call.atFlicks || old.deviceId !== call.deviceId;
	});
	if (changed.length === 0) return;
	await transaction.query(
		`insert into program_call (id, shoot_id, line_up_id, at_flicks, device_id)
		 select id, $1, $2, "atFlicks", "deviceId" from jsonb_to_recordset($3) as new (id uuid, "atFlicks" bigint, "deviceId" uuid)
		 on conflict (id) do update set at_flicks = excluded.at_flicks, device_id = excluded.device_id`,
		[shootId, after.lineUpId, JSON.stringify(changed)]
	);
}
