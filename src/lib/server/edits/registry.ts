import { z } from 'zod';
import { editProgram, rangeOfAllAngles } from '../../core/program/program';
import type { StoredProgram } from '../../core/shoot/decisions';
import type { Shoot } from '../../core/shoot/shoot';
import type { Queryable } from '../db/database';
import { Flicks } from '../shoots/flicks-schema';
import { carryOutGather, GATHER_COMMANDS, isGatherCommand } from '../stages/gather/gather-edits';
import { carryOutProve, isProveCommand, PROVE_COMMANDS } from '../stages/prove/prove-edits';
import { ShootError } from '../shoots/shoot-error';

const Id = z.uuid();
const Name = z.string().trim().min(1).max(100);

/** What an editor can ask to change. */
export const EditCommand = z.discriminatedUnion('kind', [
	z.object({ kind: z.literal('rename-shoot'), name: Name }),
	z.object({ kind: z.literal('rename-device'), deviceId: Id, name: Name }),
	z.object({
		kind: z.literal('set-badge'),
		deviceId: Id,
		badge: z
			.string()
			.trim()
			.toUpperCase()
			.regex(/^[A-Z0-9]{1,3}$/, 'A badge is one to three letters or digits.')
	}),
	...GATHER_COMMANDS,
	z.object({ kind: z.literal('rename-clip'), clipId: Id, name: Name }),
	z.object({ kind: z.literal('set-main-camera'), deviceId: Id }),
	...PROVE_COMMANDS,
	z.object({
		kind: z.literal('set-master'),
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
	z.object({ kind: z.literal('call'), lineUpId: Id, atFlicks: Flicks, deviceId: Id }),
	z.object({ kind: z.literal('change-shot'), lineUpId: Id, callId: Id, deviceId: Id }),
	z.object({ kind: z.literal('move-call'), lineUpId: Id, callId: Id, atFlicks: Flicks }),
	z.object({ kind: z.literal('drop-call'), lineUpId: Id, callId: Id }),
	z.object({ kind: z.literal('trim'), lineUpId: Id, inFlicks: Flicks, outFlicks: Flicks }),
	z.object({ kind: z.literal('trim-to-all-angles'), lineUpId: Id })
]);
export type EditCommand = z.infer<typeof EditCommand>;

/** Carries out a command within a transaction. @returns what was done, in words for the list of changes */
export async function carryOut(transaction: Queryable, shoot: Shoot, command: EditCommand): Promise<string> {
	const device = (id: string) =>
		found(
			shoot.devices.find((one) => one.id === id),
			'device'
		);
	const clip = (id: string) =>
		found(
			shoot.clips.find((one) => one.id === id),
			'clip'
		);
	if (isGatherCommand(command)) return carryOutGather(transaction, shoot, command);
	if (isProveCommand(command)) return carryOutProve(transaction, shoot, command);
	switch (command.kind) {
		case 'rename-shoot':
			await transaction.query('update shoot set name = $2 where id = $1', [shoot.id, command.name]);
			return `Rename the shoot to ${command.name}`;
		case 'rename-device':
			await transaction.query('update device set name = $2 where id = $1', [device(command.deviceId).id, command.name]);
			return `Rename ${device(command.deviceId).name} to ${command.name}`;
		case 'set-badge':
			if (shoot.devices.some((one) => one.badge === command.badge && one.id !== command.deviceId))
				throw new ShootError('not-possible', `The badge ${command.badge} belongs to another device.`);
			await transaction.query('update device set badge = $2 where id = $1', [
				device(command.deviceId).id,
				command.badge
			]);
			return `Give ${device(command.deviceId).name} the badge ${command.badge}`;
		case 'rename-clip':
			await transaction.query('update clip set name = $2 where id = $1', [clip(command.clipId).id, command.name]);
			return `Rename ${clip(command.clipId).name} to ${command.name}`;
		case 'set-main-camera':
			if (device(command.deviceId).kind !== 'camera')
				throw new ShootError('not-possible', 'Only a camera can be the main camera.');
			await transaction.query('update shoot set main_camera_id = $2 where id = $1', [shoot.id, command.deviceId]);
			return `Make ${device(command.deviceId).name} the main camera`;
		case 'set-master':
			for (const one of command.channels) device(one.deviceId);
			await transaction.query('delete from master_channel where shoot_id = $1', [shoot.id]);
			for (const one of command.channels) {
				await transaction.query(
					'insert into master_channel (shoot_id, device_id, channel, gain_db, pan) values ($1, $2, $3, $4, $5)',
					[shoot.id, one.deviceId, one.channel, one.gainDb, one.pan]
				);
			}
			return 'Choose the master audio';
		case 'trim-to-all-angles':
			return changeProgram(transaction, shoot, command.lineUpId, {
				kind: 'trim',
				...rangeOfAllAngles(shoot, command.lineUpId)
			});
		default:
			if ('deviceId' in command && device(command.deviceId).kind !== 'camera')
				throw new ShootError('not-possible', 'Only a camera can be called.');
			return changeProgram(
				transaction,
				shoot,
				command.lineUpId,
				command.kind === 'call' ? { ...command, newId: crypto.randomUUID() } : command
			);
	}
}

function found<One>(one: One | undefined, what: string): One {
	if (!one) throw new ShootError('not-found', `There is no such ${what} in this shoot.`);
	return one;
}

async function changeProgram(
	transaction: Queryable,
	shoot: Shoot,
	lineUpId: string,
	edit: Parameters<typeof editProgram>[1]
): Promise<string> {
	const before = found(
		shoot.programs.find((one) => one.lineUpId === lineUpId),
		'program'
	);
	const after = editProgram(before, edit, shoot.rate);
	await storeProgram(transaction, shoot.id, before, after);
	const badge = 'deviceId' in edit ? shoot.devices.find((one) => one.id === edit.deviceId)?.badge : undefined;
	switch (edit.kind) {
		case 'call':
			return `Call ${badge}`;
		case 'change-shot':
			return `Change a shot to ${badge}`;
		case 'move-call':
			return 'Move a call';
		case 'drop-call':
			return 'Drop a call';
		case 'trim':
			return 'Trim the program';
	}
}

async function storeProgram(
	transaction: Queryable,
	shootId: string,
	before: StoredProgram,
	after: StoredProgram
): Promise<void> {
	if (before.inFlicks !== after.inFlicks || before.outFlicks !== after.outFlicks) {
		await transaction.query('update program set in_flicks = $2, out_flicks = $3 where line_up_id = $1', [
			after.lineUpId,
			after.inFlicks,
			after.outFlicks
		]);
	}
	const kept = new Map(after.calls.map((call) => [call.id, call]));
	const known = new Map(before.calls.map((call) => [call.id, call]));
	for (const call of before.calls)
		if (!kept.has(call.id)) await transaction.query('delete from program_call where id = $1', [call.id]);
	for (const call of after.calls) {
		const old = known.get(call.id);
		if (!old)
			await transaction.query(
				'insert into program_call (id, shoot_id, line_up_id, at_flicks, device_id) values ($1, $2, $3, $4, $5)',
				[call.id, shootId, after.lineUpId, call.atFlicks, call.deviceId]
			);
		else if (old.atFlicks !== call.atFlicks || old.deviceId !== call.deviceId)
			await transaction.query('update program_call set at_flicks = $2, device_id = $3 where id = $1', [
				call.id,
				call.atFlicks,
				call.deviceId
			]);
	}
}
