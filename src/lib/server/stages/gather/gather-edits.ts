import { z } from 'zod';
import type { Clip, ClipPart } from '../../../core/shoot/clip';
import { badgesFor, type Device } from '../../../core/shoot/device';
import { toTimeline } from '../../../core/shoot/placement';
import type { Shoot } from '../../../core/shoot/shoot';
import { secondsToFlicks } from '../../../core/time/flicks';
import { comparePaths } from '../../../core/gather/compare-paths';
import type { Queryable } from '../../db/database';
import { ShootError } from '../../shoots/shoot-error';

const Id = z.uuid();
const Ids = z.array(Id).min(1).max(5000);
const Words = (most: number) => z.string().trim().max(most);

/** What an editor can change of how files became devices and clips. */
export const GATHER_COMMANDS = [
	z.object({ kind: z.literal('move-clips'), clipIds: Ids, deviceId: Id }),
	z.object({ kind: z.literal('split-device'), clipIds: Ids, name: Words(100).min(1) }),
	z.object({ kind: z.literal('merge-devices'), deviceId: Id, intoDeviceId: Id }),
	z.object({ kind: z.literal('reorder-device'), deviceId: Id, place: z.number().int().min(0).max(1000) }),
	z.object({ kind: z.literal('take-apart'), clipId: Id }),
	z.object({ kind: z.literal('join-clips'), clipIds: Ids.min(2) }),
	z.object({
		kind: z.literal('name-clips'),
		names: z
			.array(z.object({ clipId: Id, name: Words(200).min(1) }))
			.min(1)
			.max(5000)
	}),
	z.object({
		kind: z.literal('note-clips'),
		notes: z
			.array(
				z.object({
					clipId: Id,
					scene: Words(100).optional(),
					shot: Words(100).optional(),
					take: Words(100).optional(),
					circled: z.boolean().optional(),
					note: Words(2000).optional()
				})
			)
			.min(1)
			.max(5000)
	}),
	z.object({
		kind: z.literal('name-channel'),
		deviceId: Id,
		channel: z.number().int().min(0).max(63),
		name: Words(100)
	}),
	z.object({
		kind: z.literal('set-rate'),
		/** Nothing: the main camera's. */
		rate: z.object({ num: z.number().int().min(1).max(240_000), den: z.number().int().min(1).max(1001) }).nullable(),
		width: z.number().int().min(16).max(16_384).nullable(),
		height: z.number().int().min(16).max(16_384).nullable()
	})
] as const;
export type GatherCommand = z.infer<(typeof GATHER_COMMANDS)[number]>;

export function isGatherCommand(command: { readonly kind: string }): command is GatherCommand {
	return GATHER_COMMANDS.some((one) => one.shape.kind.value === command.kind);
}

/** Carries out a command within a transaction. @returns what was done, in words for the list of changes */
export async function carryOutGather(transaction: Queryable, shoot: Shoot, command: GatherCommand): Promise<string> {
	switch (command.kind) {
		case 'move-clips':
			return moveClips(transaction, shoot, clipsOf(shoot, command.clipIds), deviceOf(shoot, command.deviceId));
		case 'split-device':
			return splitDevice(transaction, shoot, clipsOf(shoot, command.clipIds), command.name);
		case 'merge-devices':
			return mergeDevices(transaction, shoot, deviceOf(shoot, command.deviceId), deviceOf(shoot, command.intoDeviceId));
		case 'reorder-device':
			return reorder(transaction, shoot, deviceOf(shoot, command.deviceId), command.place);
		case 'take-apart':
			return takeApart(transaction, clipsOf(shoot, [command.clipId])[0]!);
		case 'join-clips':
			return joinClips(transaction, clipsOf(shoot, command.clipIds));
		case 'name-clips':
			return nameClips(transaction, shoot, command.names);
		case 'note-clips':
			return noteClips(transaction, shoot, command.notes);
		case 'name-channel':
			await transaction.query(
				`update device set people = case when $3 = '' then people - $2 else people || jsonb_build_object($2::text, $3::text) end where id = $1`,
				[deviceOf(shoot, command.deviceId).id, `${command.channel}`, command.name]
			);
			return `Name channel ${command.channel + 1} of ${deviceOf(shoot, command.deviceId).name}`;
		case 'set-rate':
			await transaction.query('update shoot set rate = $2, width = $3, height = $4 where id = $1', [
				shoot.id,
				command.rate && JSON.stringify(command.rate),
				command.width,
				command.height
			]);
			return 'Set the frame rate and size of the line-up';
	}
}

function deviceOf(shoot: Shoot, id: string): Device {
	const device = shoot.devices.find((one) => one.id === id);
	if (!device) throw new ShootError('not-found', 'There is no such device in this shoot.');
	return device;
}

function clipsOf(shoot: Shoot, ids: readonly string[]): readonly Clip[] {
	const byId = new Map(shoot.clips.map((clip) => [clip.id, clip]));
	return ids.map((id) => {
		const clip = byId.get(id);
		if (!clip) throw new ShootError('not-found', 'There is no such clip in this shoot.');
		return clip;
	});
}

function clipWords(clips: readonly { readonly name: string }[]): string {
	return clips.length === 1 ? clips[0]!.name : `${clips.length} clips`;
}

/** What a device must tell to take clips over. */
type ClipHolder = Pick<Device, 'id' | 'name' | 'kind'>;

async function moveClips(
	transaction: Queryable,
	shoot: Shoot,
	clips: readonly Clip[],
	into: ClipHolder
): Promise<string> {
	await transaction.query('update clip set device_id = $2 where id = any($1) and device_id <> $2', [
		clips.map((clip) => clip.id),
		into.id
	]);
	for (const device of shoot.devices) if (device.id !== into.id) await dropIfEmpty(transaction, shoot, device, into);
	return `Move ${clipWords(clips)} to ${into.name}`;
}

async function splitDevice(
	transaction: Queryable,
	shoot: Shoot,
	clips: readonly Clip[],
	name: string
): Promise<string> {
	const kind = clips.some((clip) => clip.parts[0]?.picture) ? 'camera' : 'recorder';
	const [row] = await transaction.query<{ id: string }>(
		`insert into device (shoot_id, folder, name, badge, kind, position, reasons)
		 select $1, '', $2, $3, $4, coalesce(max(position), 0) + 1, '["You decided it so."]' from device where shoot_id = $1 and kind = $4 returning id`,
		[shoot.id, name, freeBadge(shoot, kind), kind]
	);
	await moveClips(transaction, shoot, clips, { id: row!.id, name, kind });
	return `Make ${clipWords(clips)} a device of their own, ${name}`;
}

function freeBadge(shoot: Shoot, kind: Device['kind']): string {
	const taken = new Set(shoot.devices.map((device) => device.badge));
	return badgesFor(Array.from({ length: shoot.devices.length + 1 }, () => kind)).find((badge) => !taken.has(badge))!;
}

async function mergeDevices(transaction: Queryable, shoot: Shoot, from: Device, into: Device): Promise<string> {
	if (from.id === into.id) throw new ShootError('not-possible', 'Choose two different devices.');
	await transaction.query('update clip set device_id = $2 where device_id = $1', [from.id, into.id]);
	await dropIfEmpty(transaction, shoot, from, into);
	return `Take ${from.name} and ${into.name} for one device`;
}

/** A device without clips goes; what was decided about it goes to the one that has its clips now. */
async function dropIfEmpty(transaction: Queryable, shoot: Shoot, device: Device, into: ClipHolder): Promise<void> {
	const [left] = await transaction.query('select 1 from clip where device_id = $1 limit 1', [device.id]);
	if (left) return;
	const values = [device.id, into.id];
	await transaction.query(
		'update master_channel set device_id = $2 where device_id = $1 and not exists (select from master_channel other where other.device_id = $2 and other.channel = master_channel.channel)',
		values
	);
	await transaction.query('update program_call set device_id = $2 where device_id = $1', values);
	await transaction.query('update line_up set reference_device_id = $2 where reference_device_id = $1', values);
	if (shoot.mainCameraId === device.id)
		await transaction.query('update shoot set main_camera_id = $2 where id = $1', [
			shoot.id,
			into.kind === 'camera' ? into.id : null
		]);
	await transaction.query('delete from device where id = $1', [device.id]);
}

async function reorder(transaction: Queryable, shoot: Shoot, device: Device, place: number): Promise<string> {
	const others = shoot.devices.filter((one) => one.id !== device.id);
	const order = [...others.slice(0, place), device, ...others.slice(place)];
	for (const [position, one] of order.entries())
		await transaction.query('update device set position = $2 where id = $1 and position <> $2', [one.id, position]);
	return `Put ${device.name} in place ${Math.min(place, others.length) + 1}`;
}

/** Each file of a joined recording becomes a clip again; it stays where it lies. */
async function takeApart(transaction: Queryable, clip: Clip): Promise<string> {
	const [first, ...others] = clip.parts;
	if (first && others.length === 0 && first.sound?.channelFiles) return takeChannelsApart(transaction, clip, first);
	if (!first || others.length === 0)
		throw new ShootError('not-possible', `${clip.name} is one file: there is nothing to take apart.`);
	for (const [index, part] of others.entries()) {
		const [row] = await transaction.query<{ id: string }>(
			`insert into clip (shoot_id, device_id, name, duration_flicks, position, scene, shot, take, circled, note)
			 select shoot_id, device_id, $2, $3, position, scene, shot, take, circled, note from clip where id = $1 returning id`,
			[clip.id, nameOfFile(part.relativePath), part.durationFlicks]
		);
		await transaction.query(
			'update clip_part set clip_id = $3, position = 0, offset_flicks = 0 where clip_id = $1 and file_id = $2',
			[clip.id, part.fileId, row!.id]
		);
		const end = others[index + 1]?.offsetFlicks ?? clip.durationFlicks;
		await transaction.query(
			'update sync_point set clip_id = $2, media_flicks = media_flicks - $3 where clip_id = $1 and media_flicks >= $3 and media_flicks < $4',
			[clip.id, row!.id, part.offsetFlicks, end]
		);
		if (clip.placement)
			await transaction.query(
				`insert into placement (shoot_id, clip_id, line_up_id, start_flicks, rate_ppm, method, confidence, residual_seconds, by_hand)
				 select shoot_id, $2, line_up_id, $3, rate_ppm, method, confidence, residual_seconds, by_hand from placement where clip_id = $1`,
				[clip.id, row!.id, Math.round(toTimeline(clip.placement, part.offsetFlicks))]
			);
	}
	await transaction.query('update clip set duration_flicks = $2 where id = $1', [clip.id, first.durationFlicks]);
	return `Take ${clip.name} apart`;
}

/** Each channel's file becomes a clip of its own; they stay where they lie. */
async function takeChannelsApart(transaction: Queryable, clip: Clip, part: ClipPart): Promise<string> {
	await transaction.query(
		`update media_file set facts = own_facts, own_facts = null, listening_samples = null, heard_timecode = null where id = $1`,
		[part.fileId]
	);
	const others = await transaction.query<{ id: string; relative_path: string; seconds: number }>(
		`update media_file set channel_of = null where channel_of = $1
		 returning id, relative_path, (facts->>'durationSeconds')::float8 as seconds`,
		[part.fileId]
	);
	for (const file of others) {
		const [row] = await transaction.query<{ id: string }>(
			`insert into clip (shoot_id, device_id, name, duration_flicks, position, scene, shot, take, circled, note)
			 select shoot_id, device_id, $2, $3, position, scene, shot, take, circled, note from clip where id = $1 returning id`,
			[clip.id, nameOfFile(file.relative_path), secondsToFlicks(file.seconds)]
		);
		await transaction.query('insert into clip_part (clip_id, file_id, position, offset_flicks) values ($1, $2, 0, 0)', [
			row!.id,
			file.id
		]);
		await transaction.query(
			`insert into placement (shoot_id, clip_id, line_up_id, start_flicks, rate_ppm, method, confidence, residual_seconds, by_hand)
			 select shoot_id, $2, line_up_id, start_flicks, rate_ppm, method, confidence, residual_seconds, by_hand from placement where clip_id = $1`,
			[clip.id, row!.id]
		);
	}
	await transaction.query('update clip set name = $2 where id = $1', [clip.id, nameOfFile(part.relativePath)]);
	return `Take ${clip.name} apart into its channels`;
}

/** Clips of one device become one recording, end to end in the order of their names; the first one's place counts. */
async function joinClips(transaction: Queryable, clips: readonly Clip[]): Promise<string> {
	const sorted = [...clips].sort((a, b) => comparePaths(a.parts[0]!.relativePath, b.parts[0]!.relativePath));
	const [first, ...others] = sorted;
	if (sorted.some((clip) => clip.deviceId !== first!.deviceId))
		throw new ShootError('not-possible', 'Only clips of one device can be one recording.');
	let end = first!.durationFlicks;
	let position = first!.parts.length;
	for (const clip of others) {
		for (const part of clip.parts)
			await transaction.query(
				'update clip_part set clip_id = $3, position = $4, offset_flicks = offset_flicks + $5 where clip_id = $1 and file_id = $2',
				[clip.id, part.fileId, first!.id, position++, end]
			);
		await transaction.query('update sync_point set clip_id = $2, media_flicks = media_flicks + $3 where clip_id = $1', [
			clip.id,
			first!.id,
			end
		]);
		await transaction.query('delete from clip where id = $1', [clip.id]);
		end += clip.durationFlicks;
	}
	await transaction.query('update clip set duration_flicks = $2 where id = $1', [first!.id, end]);
	return `Join ${clips.length} clips to one recording`;
}

function nameOfFile(path: string): string {
	return path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]+$/, '');
}

async function nameClips(
	transaction: Queryable,
	shoot: Shoot,
	names: readonly { readonly clipId: string; readonly name: string }[]
): Promise<string> {
	const clips = clipsOf(
		shoot,
		names.map((one) => one.clipId)
	);
	await transaction.query(
		`update clip set name = new.name from jsonb_to_recordset($1) as new ("clipId" uuid, name text) where clip.id = new."clipId" and clip.name <> new.name`,
		[JSON.stringify(names)]
	);
	return names.length === 1 ? `Rename ${clips[0]!.name} to ${names[0]!.name}` : `Rename ${names.length} clips`;
}

async function noteClips(
	transaction: Queryable,
	shoot: Shoot,
	notes: readonly { readonly clipId: string }[]
): Promise<string> {
	const clips = clipsOf(
		shoot,
		notes.map((one) => one.clipId)
	);
	await transaction.query(
		`update clip set scene = coalesce(new.scene, clip.scene), shot = coalesce(new.shot, clip.shot), take = coalesce(new.take, clip.take),
			circled = coalesce(new.circled, clip.circled), note = coalesce(new.note, clip.note)
		 from jsonb_to_recordset($1) as new ("clipId" uuid, scene text, shot text, take text, circled boolean, note text)
		 where clip.id = new."clipId"`,
		[JSON.stringify(notes)]
	);
	return `Note scene and take of ${clipWords(clips)}`;
}
