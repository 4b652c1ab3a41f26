import { createHash } from 'node:crypto';
import { link, mkdir, rm, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { createPeakBuilder } from '../../src/lib/core/signal/peaks';
import type { Database } from '../../src/lib/server/db/database';
import { openMediaCache } from '../../src/lib/server/media/media-cache';

/** What a large shoot is: lined up, called and edited before. */
export interface LargeShoot {
	readonly name: string;
	readonly devices: number;
	readonly clips: number;
	readonly clipSeconds: number;
	readonly hours: number;
	readonly calls: number;
	readonly pairs: number;
	readonly edits: number;
}

/** Every device records again and again. */
export const LARGE_SHOOT: LargeShoot = {
	name: 'Two thousand clips',
	devices: 20,
	clips: 2000,
	clipSeconds: 100,
	hours: 3,
	calls: 400,
	pairs: 6000,
	edits: 200
};

/** A long day of long recordings. */
export const LONG_DAY: LargeShoot = {
	name: 'Four hours, 20 devices, 300 clips',
	devices: 20,
	clips: 300,
	clipSeconds: 950,
	hours: 4,
	calls: 400,
	pairs: 900,
	edits: 50
};

const LISTENING_RATE = 48_000;

/**
 * Writes a large shoot straight into the database: no file of it exists, every row does.
 * @returns its identity
 */
export async function writeLargeShoot(
	database: Database,
	{ name, devices, clips, clipSeconds, hours, calls, pairs, edits }: LargeShoot = LARGE_SHOOT
): Promise<string> {
	const [shoot] = await database.query<{ id: string }>(
		`insert into shoot (name, folder) values ($1, '/nowhere') returning id`,
		[name]
	);
	const id = shoot!.id;
	await database.query(
		`insert into device (shoot_id, folder, name, badge, kind, position, reasons)
		 select $1, 'd' || i, 'Device ' || i, case when i < 12 then chr(65 + i) else (i - 11)::text end,
			case when i < 12 then 'camera' else 'recorder' end, i, '["One folder, one make and model."]'
		 from generate_series(0, $2 - 1) as i`,
		[id, devices]
	);
	await database.query(
		`insert into media_file (shoot_id, path, relative_path, size_bytes, modified_ms, identity, digest, state, facts, listening_samples, sharp_sounds)
		 select $1, '/nowhere/d' || (i % $2) || '/C' || i || '.MP4', 'd' || (i % $2) || '/C' || lpad(i::text, 4, '0') || '.MP4', 1000000 + i, i, md5($5 || i::text), md5($5 || i::text), 'probed',
			case when i % $2 < 12 then jsonb_build_object('container', 'mov', 'durationSeconds', $4::int, 'containerStartSeconds', 0, 'clockSeconds', 36000 + i, 'timecode', '10:00:00:00', 'make', 'Maker', 'model', 'Model ' || (i % $2),
				'video', '{"codec": "h264", "width": 1920, "height": 1080, "rate": {"num": 25, "den": 1}, "startSeconds": 0}'::jsonb,
				'audio', '{"codec": "aac", "sampleRate": 48000, "channels": 2, "startSeconds": 0, "channelNames": ["", ""]}'::jsonb)
			else jsonb_build_object('container', 'wav', 'durationSeconds', $4::int, 'containerStartSeconds', 0, 'clockSeconds', 36000 + i,
				'audio', '{"codec": "pcm_s24le", "sampleRate": 48000, "channels": 4, "startSeconds": 0, "channelNames": ["Host", "Guest", "Choir", "Room"]}'::jsonb) end,
			$4 * 48000, '[70560000000, 35280000000]'
		 from generate_series(0, $3 - 1) as i`,
		[id, devices, clips, clipSeconds, prefixOf(name)]
	);
	await database.query(
		`insert into clip (shoot_id, device_id, name, duration_flicks, position, scene, take)
		 select $1, device.id, 'C' || lpad(i::text, 4, '0'), $4::bigint * 705600000, i, (i / 100)::text, (i % 100)::text
		 from generate_series(0, $3 - 1) as i join device on device.shoot_id = $1 and device.position = i % $2`,
		[id, devices, clips, clipSeconds]
	);
	await database.query(
		`insert into clip_part (shoot_id, clip_id, file_id, position, offset_flicks)
		 select $1, clip.id, media_file.id, 0, 0 from clip join media_file on media_file.shoot_id = $1 and clip.shoot_id = $1
			and media_file.relative_path like '%' || clip.name || '.MP4'`,
		[id]
	);
	const [lineUp] = await database.query<{ id: string }>(
		`insert into line_up (shoot_id, reference_device_id, position, evidence)
		 select $1, (select id from device where shoot_id = $1 and position = 12), 0,
			(select jsonb_agg(jsonb_build_object('a', a.id, 'b', b.id, 'lagSeconds', 1.25, 'overlapSeconds', 80, 'residualSeconds', 0.0004, 'windows', 40, 'agreeing', 38, 'strength', 31.5))
			 from clip a join clip b on b.shoot_id = $1 and b.position between a.position + 1 and a.position + $2 where a.shoot_id = $1)
		 returning id`,
		[id, Math.ceil(pairs / clips)]
	);
	await database.query(
		`insert into placement (shoot_id, clip_id, line_up_id, start_flicks, rate_ppm, method, confidence, residual_seconds)
		 select $1, id, $2, ((position / $3) * ($4::float8 * 3600 / ($5 / $3)) * 705600000)::bigint + position * 7056, (position % $3) * 3 - 20, 'audio', 0.999, 0.0004
		 from clip where shoot_id = $1`,
		[id, lineUp!.id, devices, hours, clips]
	);
	await database.query(
		`insert into master_channel (shoot_id, line_up_id, device_id, channel) select $1, $2, id, channel from device, generate_series(0, 3) as channel where shoot_id = $1 and position = 12`,
		[id, lineUp!.id]
	);
	await database.query(
		'insert into program (shoot_id, line_up_id, in_flicks, out_flicks) values ($1, $2, 0, $3::bigint * 3600 * 705600000)',
		[id, lineUp!.id, hours]
	);
	await database.query(
		`insert into program_call (shoot_id, line_up_id, at_flicks, device_id)
		 select $1, $2, i::bigint * ($3 * 3600 / $4) * 705600000, device.id from generate_series(0, $4 - 1) as i
		 join device on device.shoot_id = $1 and device.position = (i * 7) % 12`,
		[id, lineUp!.id, hours, calls]
	);
	await database.query(
		`insert into edit (shoot_id, label, command) select $1, 'Call A', '{"kind": "call"}' from generate_series(1, $2)`,
		[id, edits]
	);
	await database.query('delete from changed_row where shoot_id = $1', [id]);
	await database.query('analyze');
	return id;
}

/** Identities of its files begin so: those of the first large shoot as they always were. */
function prefixOf(name: string): string {
	return name === LARGE_SHOOT.name ? '' : name;
}

/** Waveforms of its files, in the caches' folder: all the same, each under its own name. */
export async function writeLargePeaks(
	cacheFolder: string,
	{ name, clips, clipSeconds }: LargeShoot = LARGE_SHOOT
): Promise<void> {
	const cache = openMediaCache(cacheFolder);
	const builder = createPeakBuilder(1);
	const second = new Int16Array(LISTENING_RATE);
	for (let at = 0; at < clipSeconds; at++) {
		for (let i = 0; i < second.length; i++) {
			const sample = at * LISTENING_RATE + i;
			second[i] = 9000 * Math.sin(sample / 5000) * Math.sin(sample / 7);
		}
		builder.add(second);
	}
	const { peaks } = builder.finish();
	const first = `${cacheFolder}/large-${clipSeconds}.peaks`;
	await mkdir(cacheFolder, { recursive: true });
	await writeFile(first, new Uint8Array(peaks.buffer));
	for (let index = 0; index < clips; index++) {
		const identity = createHash('md5')
			.update(`${prefixOf(name)}${index}`)
			.digest('hex');
		const path = cache.path(identity, 'peaks.s16');
		await mkdir(dirname(path), { recursive: true });
		await rm(path, { force: true });
		await link(first, path);
	}
}
