import type { GATHER_COMMANDS } from '../../../contract/commands/gather';
import { comparePaths } from '../../../core/gather/compare-paths';
import { MAX_CLIP_DAYS, MAX_CLIP_SECONDS } from '../../../core/limits/recording';
import type { Clip, ClipPart } from '../../../core/shoot/clip';
import { badgesFor, type Device } from '../../../core/shoot/device';
import type { Shoot } from '../../../core/shoot/shoot';
import { secondsToFlicks } from '../../../core/time/flicks';
import type { Queryable } from '../../db/database';
import type { CommandEntries } from '../../edits/command';
import { addPart, copyClip, copyPlacement } from '../../shoots/clip-rows';
import { clipOf, clipsOf, clipWords, deviceOf } from '../../shoots/found';
import { ShootError } from '../../shoots/shoot-error';

/** How what an editor changes of how files became devices and clips is carried out. */
export const GATHER_ENTRIES: CommandEntries<keyof typeof GATHER_COMMANDS> = {
	'move-clips': {
		label: (shoot, { clipIds, deviceId }) =>
			`Move ${clipWords(clipsOf(shoot, clipIds))} to ${deviceOf(shoot, deviceId).name}`,
		apply: ({ transaction, shoot }, { clipIds, deviceId }) =>
			moveClips(transaction, shoot, clipsOf(shoot, clipIds), deviceOf(shoot, deviceId))
	},
	'split-device': {
		label: (shoot, { clipIds, name }) => `Make ${clipWords(clipsOf(shoot, clipIds))} a device of their own, ${name}`,
		apply: ({ transaction, shoot }, { clipIds, name }) => splitDevice(transaction, shoot, clipsOf(shoot, clipIds), name)
	},
	'merge-devices': {
		label: (shoot, { deviceId, intoDeviceId }) =>
			`Take ${deviceOf(shoot, deviceId).name} and ${deviceOf(shoot, intoDeviceId).name} for one device`,
		apply: ({ transaction, shoot }, { deviceId, intoDeviceId }) =>
			mergeDevices(transaction, shoot, deviceOf(shoot, deviceId), deviceOf(shoot, intoDeviceId))
	},
	'reorder-device': {
		label: (shoot, { deviceId, place }) =>
			`Put ${deviceOf(shoot, deviceId).name} in place ${Math.min(place, shoot.devices.length - 1) + 1}`,
		apply: ({ transaction, shoot }, { deviceId, place }) =>
			reorder(transaction, shoot, deviceOf(shoot, deviceId), place)
	},
	'take-apart': {
		label: (shoot, { clipId }) => {
			const clip = clipOf(shoot, clipId);
			return `Take ${clip.name} apart${holdsChannels(clip) ? ' into its channels' : ''}`;
		},
		apply: ({ transaction, shoot }, { clipId }) => takeApart(transaction, clipOf(shoot, clipId)),
		changesFiles: true
	},
	'join-clips': {
		label: (_shoot, { clipIds }) => `Join ${clipIds.length} clips to one recording`,
		apply: ({ transaction, shoot }, { clipIds }) => joinClips(transaction, clipsOf(shoot, clipIds))
	},
	'name-clips': {
		label: (shoot, { names }) => {
			const [clip] = clipsOf(
				shoot,
				names.map((one) => one.clipId)
			);
			return names.length === 1 ? `Rename ${clip!.name} to ${names[0]!.name}` : `Rename ${names.length} clips`;
		},
		apply: ({ transaction }, { names }) => nameClips(transaction, names)
	},
	'note-clips': {
		label: (shoot, { notes }) =>
			`Note scene and take of ${clipWords(
				clipsOf(
					shoot,
					notes.map((one) => one.clipId)
				)
			)}`,
		apply: ({ transaction }, { notes }) => noteClips(transaction, notes)
	},
	'name-channel': {
		label: (shoot, { deviceId, channel }) => `Name channel ${channel + 1} of ${deviceOf(shoot, deviceId).name}`,
		apply: async ({ transaction }, { deviceId, channel, name }) => {
			await transaction.query(
				`update device set channel_names = case when $3 = '' then channel_names - $2 else channel_names || jsonb_build_object($2::text, $3::text) end where id = $1`,
				[deviceId, `${channel}`, name]
			);
		}
	},
	'set-rate': {
		label: () => 'Set the frame rate and size of the line-up',
		apply: async ({ transaction, shoot }, { rate, width, height }) => {
			await transaction.query('update shoot set rate = $2, width = $3, height = $4 where id = $1', [
				shoot.id,
				rate && JSON.stringify(rate),
				width,
				height
			]);
		}
	}
};

/** What a device must tell to take clips over. */
type ClipHolder = Pick<Device, 'id' | 'name' | 'kind'>;

async function moveClips(
	transaction: Queryable,
	shoot: Shoot,
	clips: readonly Clip[],
	into: ClipHolder
): Promise<void> {
	await transaction.query('update clip set device_id = $2 where id = any($1) and device_id <> $2', [
		clips.map((clip) => clip.id),
		into.id
	]);
	for (const device of shoot.devices) if (device.id !== into.id) await dropIfEmpty(transaction, shoot, device, into);
}

async function splitDevice(transaction: Queryable, shoot: Shoot, clips: readonly Clip[], name: string): Promise<void> {
	const kind = clips.some((clip) => clip.parts[0]?.picture) ? 'camera' : 'recorder';
	const [row] = await transaction.query<{ id: string }>(
		`insert into device (shoot_id, folder, name, badge, kind, position, reasons)
		 select $1, '', $2, $3, $4, coalesce(max(position), 0) + 1, '["You decided it so."]' from device where shoot_id = $1 and kind = $4 returning id`,
		[shoot.id, name, freeBadge(shoot, kind), kind]
	);
	await moveClips(transaction, shoot, clips, { id: row!.id, name, kind });
}

function freeBadge(shoot: Shoot, kind: Device['kind']): string {
	const taken = new Set(shoot.devices.map((device) => device.badge));
	return badgesFor(Array.from({ length: shoot.devices.length + 1 }, () => kind)).find((badge) => !taken.has(badge))!;
}

async function mergeDevices(transaction: Queryable, shoot: Shoot, from: Device, into: Device): Promise<void> {
	if (from.id === into.id) throw new ShootError('same-device', 'Choose two different devices.');
	await transaction.query('update clip set device_id = $2 where device_id = $1', [from.id, into.id]);
	await dropIfEmpty(transaction, shoot, from, into);
}

/** A device without clips goes; what was decided about it goes to the one that has its clips now. */
async function dropIfEmpty(transaction: Queryable, shoot: Shoot, device: Device, into: ClipHolder): Promise<void> {
	const [left] = await transaction.query('select 1 from clip where device_id = $1 limit 1', [device.id]);
	if (left) return;
	const values = [device.id, into.id];
	await transaction.query(
		'update master_channel set device_id = $2 where device_id = $1 and not exists (select from master_channel other where other.device_id = $2 and other.line_up_id = master_channel.line_up_id and other.turn = master_channel.turn and other.channel = master_channel.channel)',
		values
	);
	await transaction.query('update person_channel set device_id = $2 where device_id = $1', values);
	await transaction.query('update program_call set device_id = $2 where device_id = $1', values);
	await transaction.query('update line_up set reference_device_id = $2 where reference_device_id = $1', values);
	if (shoot.mainCameraId === device.id)
		await transaction.query('update shoot set main_camera_id = $2 where id = $1', [
			shoot.id,
			into.kind === 'camera' ? into.id : null
		]);
	await transaction.query('delete from device where id = $1', [device.id]);
}

async function reorder(transaction: Queryable, shoot: Shoot, device: Device, place: number): Promise<void> {
	const others = shoot.devices.filter((one) => one.id !== device.id);
	const order = [...others.slice(0, place), device, ...others.slice(place)];
	for (const [position, one] of order.entries())
		await transaction.query('update device set position = $2 where id = $1 and position <> $2', [one.id, position]);
}

/** One take, of which each channel is a file. */
function holdsChannels({ parts }: Clip): boolean {
	return parts.length === 1 && parts[0]!.sound?.channelFiles !== undefined;
}

/** Each file of a joined recording becomes a clip again; it stays where it lies. */
async function takeApart(transaction: Queryable, clip: Clip): Promise<void> {
	const [first, ...others] = clip.parts;
	if (first && holdsChannels(clip)) return takeChannelsApart(transaction, clip, first);
	if (!first || others.length === 0)
		throw new ShootError('one-file', `${clip.name} is one file: there is nothing to take apart.`);
	for (const [index, part] of others.entries()) {
		const copyId = await copyClip(transaction, clip.id, nameOfFile(part.relativePath), part.durationFlicks);
		await transaction.query(
			'update clip_part set clip_id = $3, position = 0, offset_flicks = 0 where clip_id = $1 and file_id = $2',
			[clip.id, part.fileId, copyId]
		);
		const end = others[index + 1]?.offsetFlicks ?? clip.durationFlicks;
		await transaction.query(
			'update sync_point set clip_id = $2, media_flicks = media_flicks - $3 where clip_id = $1 and media_flicks >= $3 and media_flicks < $4',
			[clip.id, copyId, part.offsetFlicks, end]
		);
		if (clip.placement)
			await copyPlacement(transaction, clip.id, copyId, { placement: clip.placement, mediaFlicks: part.offsetFlicks });
	}
	await transaction.query('update clip set duration_flicks = $2 where id = $1', [clip.id, first.durationFlicks]);
}

/** Each channel's file becomes a clip of its own; they stay where they lie. */
async function takeChannelsApart(transaction: Queryable, clip: Clip, part: ClipPart): Promise<void> {
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
		const copyId = await copyClip(transaction, clip.id, nameOfFile(file.relative_path), secondsToFlicks(file.seconds));
		await addPart(transaction, copyId, { fileId: file.id, position: 0, offsetFlicks: 0 });
		await copyPlacement(transaction, clip.id, copyId);
	}
	await transaction.query('update clip set name = $2 where id = $1', [clip.id, nameOfFile(part.relativePath)]);
}

/** Clips of one device become one recording, end to end in the order of their names; the first one's place counts. */
async function joinClips(transaction: Queryable, clips: readonly Clip[]): Promise<void> {
	const sorted = [...clips].sort((a, b) =>
		comparePaths(a.parts[0]?.relativePath ?? a.name, b.parts[0]?.relativePath ?? b.name)
	);
	const [first, ...others] = sorted;
	if (sorted.some((clip) => clip.deviceId !== first!.deviceId))
		throw new ShootError('not-one-device', 'Only clips of one device can be one recording.');
	const wholeFlicks = sorted.reduce((sum, clip) => sum + clip.durationFlicks, 0);
	if (wholeFlicks > secondsToFlicks(MAX_CLIP_SECONDS))
		throw new ShootError('too-long', `A recording is ${MAX_CLIP_DAYS} days long at most.`);
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
}

function nameOfFile(path: string): string {
	return path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]+$/, '');
}

async function nameClips(
	transaction: Queryable,
	names: readonly { readonly clipId: string; readonly name: string }[]
): Promise<void> {
	await transaction.query(
		`update clip set name = new.name from jsonb_to_recordset($1) as new ("clipId" uuid, name text) where clip.id = new."clipId" and clip.name <> new.name`,
		[JSON.stringify(names)]
	);
}

async function noteClips(transaction: Queryable, notes: readonly { readonly clipId: string }[]): Promise<void> {
	await transaction.query(
		`update clip set scene = coalesce(new.scene, clip.scene), shot = coalesce(new.shot, clip.shot), take = coalesce(new.take, clip.take),
			circled = coalesce(new.circled, clip.circled), note = coalesce(new.note, clip.note)
		 from jsonb_to_recordset($1) as new ("clipId" uuid, scene text, shot text, take text, circled boolean, note text)
		 where clip.id = new."clipId"`,
		[JSON.stringify(notes)]
	);
}
