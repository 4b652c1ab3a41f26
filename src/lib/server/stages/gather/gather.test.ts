import { copyFile, mkdir, mkdtemp, rename, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { linearTimecodeWriter } from '../../../../../tests/support/linear-timecode/write';
import { flicksToSeconds } from '../../../core/time/flicks';
import { runTool } from '../../media/run-tool';
import { layBlankDatabase } from '../../../../../tests/support/blank-database';
import { openRuntime } from '../../open-runtime';
import type { Runtime } from '../../runtime';
import { createShoot } from '../../shoots/create';
import { parseCommand } from '../../../contract/commands/commands';
import { applyEdit } from '../../edits/apply';
import { undo } from '../../edits/log';
import { findAgain } from './find-again';
import { loadShoot } from '../../shoots/view';

let base: string;
let cards: string;
let runtime: Runtime;
let shootId: string;

async function make(path: string, ...args: readonly string[]): Promise<void> {
	await mkdir(dirname(join(cards, path)), { recursive: true });
	await runTool('ffmpeg', ['-v', 'error', ...args, join(cards, path)]);
}

const picture = (seconds: number) => ['-f', 'lavfi', '-i', `testsrc2=s=128x72:r=25:d=${seconds}`];
const sound = (seconds: number, frequency: number) => ['-f', 'lavfi', '-i', `sine=f=${frequency}:r=48000:d=${seconds}`];
const dated = (time: string) => ['-metadata', `creation_time=2026-05-16T${time}Z`];

async function settled(): Promise<void> {
	for (;;) {
		const jobs = await runtime.queue.list(shootId);
		if (jobs.every((job) => job.state !== 'running' && job.state !== 'waiting')) return;
		await new Promise((resolve) => setTimeout(resolve, 100));
	}
}

const load = () => loadShoot(runtime.database, shootId);
const edit = (command: object) => applyEdit(runtime.shoots, shootId, parseCommand(command));

/** Names of the clips of each device, by its name. */
async function contents(): Promise<Record<string, readonly string[]>> {
	const shoot = await load();
	return Object.fromEntries(
		shoot.devices.map((device) => [
			device.name,
			shoot.clips
				.filter((clip) => clip.deviceId === device.id)
				.map((clip) => clip.name)
				.sort()
		])
	);
}

beforeAll(async () => {
	base = await mkdtemp(join(tmpdir(), 'open-choir-gather-'));
	cards = join(base, 'cards');
	const [h264, aac] = [
		['-c:v', 'libx264', '-preset', 'ultrafast'],
		['-c:a', 'aac']
	];
	// Two cameras of one kind in one heap, the same count apart, running at once.
	for (const [index, time] of ['09:00:00', '09:01:00'].entries()) {
		await make(`DSC_041${index}.MOV`, ...picture(4), ...sound(4, 300 + index), ...h264, ...aac, ...dated(time));
		await make(`DSC_053${index}.MOV`, ...picture(5), ...sound(5, 400 + index), ...h264, ...aac, ...dated(time));
	}
	for (const channel of [1, 2, 3]) await make(`T01_Tr${channel}.WAV`, ...sound(6, 500 + channel));
	await make('music.flac', ...sound(3, 900));
	// A recorder that got timecode as sound on its second channel, at 25 a second from 09:59:57:10 on.
	const timecode = await (await linearTimecodeWriter(base))({ fps: 25 });
	await writeFile(join(base, 'timecode.f32'), new Uint8Array(timecode.buffer));
	const written = ['-f', 'f32le', '-ar', '48000', '-ac', '1', '-i', join(base, 'timecode.f32')];
	await make(
		'feed/field_0001.wav',
		...sound(10, 250),
		...written,
		'-filter_complex',
		'[0][1]amerge=inputs=2',
		'-c:a',
		'pcm_s16le'
	);
	await copyFile(join(cards, 'DSC_0410.MOV'), join(cards, 'DSC_0410 copy.MOV'));
	await writeFile(join(cards, 'notes.txt'), 'Not a recording.');
	await writeFile(join(cards, 'DSC_0999.MOV'), '');
	await layBlankDatabase(join(base, 'data', 'database'));
	runtime = await openRuntime({
		dataFolder: join(base, 'data'),
		mediaFolders: [base],
		demo: false,
		logLevel: 'silent'
	});
	shootId = await createShoot(runtime, 'Heap', cards);
	await settled();
}, 120_000);

afterAll(async () => {
	await runtime.close();
	await rm(base, { recursive: true, force: true });
});

describe('gathering', () => {
	it('sorts a heap into devices, and puts the channels of a take together', async () => {
		expect(await contents()).toEqual({
			'Camera DSC 1': ['DSC_0410', 'DSC_0411'],
			'Camera DSC 2': ['DSC_0530', 'DSC_0531'],
			'Recorder T': ['T01'],
			Music: ['music'],
			Feed: ['field_0001']
		});
		const { clips, devices } = await load();
		const take = clips.find((clip) => clip.name === 'T01')!;
		expect(take.parts[0]!.sound).toMatchObject({
			channels: 3,
			channelFiles: ['T01_Tr1.WAV', 'T01_Tr2.WAV', 'T01_Tr3.WAV']
		});
		expect(take.parts[0]!.sound!.listeningSamples).toBe(6 * 48_000);
		expect(devices[0]!.reasons.join(' ')).toContain('no device records two clips at once');
	});

	it('hears timecode that was recorded as sound, and says on which channel', async () => {
		const { clips } = await load();
		const heard = clips.find((clip) => clip.name === 'field_0001')!.heardTimecode!;
		expect(heard).toMatchObject({ channel: 1, frameSeconds: 0.04 });
		expect(heard.seconds).toBeCloseTo(9 * 3600 + 59 * 60 + 57 + 10 / 25, 3);
		expect(heard.quality).toBeGreaterThan(0.95);
		expect(clips.filter((clip) => clip.heardTimecode)).toHaveLength(1);
	});

	it('says of each file that is not used why', async () => {
		const bad = (await load()).badFiles.map((file) => [file.relativePath, file.reason]);
		expect(bad).toEqual([
			['DSC_0410 copy.MOV', 'It is a copy of DSC_0410.MOV, which is used.'],
			['DSC_0999.MOV', 'The file is empty.'],
			['notes.txt', 'It is not a media file, or its beginning is damaged.']
		]);
	});

	it('lets the editor put it otherwise, and takes each step back', async () => {
		const before = await contents();
		const { clips, devices } = await load();
		const clip = (name: string) => clips.find((one) => one.name === name)!.id;
		const device = (name: string) => devices.find((one) => one.name === name)!.id;
		const steps: readonly (readonly [object, Record<string, readonly string[]>])[] = [
			[
				{ kind: 'move-clips', clipIds: [clip('DSC_0531')], deviceId: device('Camera DSC 1') },
				{ ...before, 'Camera DSC 1': ['DSC_0410', 'DSC_0411', 'DSC_0531'], 'Camera DSC 2': ['DSC_0530'] }
			],
			[
				{ kind: 'split-device', clipIds: [clip('DSC_0411')], name: 'Other' },
				{ ...before, 'Camera DSC 1': ['DSC_0410', 'DSC_0531'], 'Camera DSC 2': ['DSC_0530'], Other: ['DSC_0411'] }
			],
			[
				{ kind: 'merge-devices', deviceId: device('Camera DSC 2'), intoDeviceId: device('Camera DSC 1') },
				{
					'Camera DSC 1': ['DSC_0410', 'DSC_0530', 'DSC_0531'],
					Other: ['DSC_0411'],
					'Recorder T': ['T01'],
					Music: ['music'],
					Feed: ['field_0001']
				}
			]
		];
		const states = [before];
		for (const [command, expected] of steps) {
			await edit(command);
			states.push(await contents());
			expect(states.at(-1)).toEqual(expected);
		}
		for (const state of states.slice(0, -1).reverse()) {
			await undo(runtime.shoots, shootId);
			expect(await contents()).toEqual(state);
		}
	});

	it('joins clips by hand and takes them apart again, where they lie', async () => {
		const { clips } = await load();
		const own = clips.filter((clip) => clip.name.startsWith('DSC_041'));
		await edit({ kind: 'join-clips', clipIds: own.map((clip) => clip.id) });
		const joined = (await load()).clips.find((clip) => clip.name === 'DSC_0410')!;
		expect(joined.parts.map((part) => flicksToSeconds(part.offsetFlicks))).toEqual([
			0,
			flicksToSeconds(own[0]!.durationFlicks)
		]);
		expect((await load()).clips).toHaveLength(clips.length - 1);
		await edit({ kind: 'take-apart', clipId: joined.id });
		expect((await load()).clips.map((clip) => [clip.name, clip.durationFlicks]).sort()).toEqual(
			clips.map((clip) => [clip.name, clip.durationFlicks]).sort()
		);
		await undo(runtime.shoots, shootId);
		await undo(runtime.shoots, shootId);
		expect(await contents()).toMatchObject({ 'Camera DSC 1': ['DSC_0410', 'DSC_0411'] });
		await expect(edit({ kind: 'take-apart', clipId: own[0]!.id })).rejects.toThrow('nothing to take apart');
	});

	it('names clips, notes and channels, and sets the rate of the line-up', async () => {
		const { clips, devices } = await load();
		const [one, two] = clips;
		await edit({
			kind: 'name-clips',
			names: [
				{ clipId: one!.id, name: 'Talk 1' },
				{ clipId: two!.id, name: 'Talk 2' }
			]
		});
		await edit({ kind: 'note-clips', notes: [{ clipId: one!.id, scene: '4', take: '2', circled: true }] });
		await edit({
			kind: 'name-channel',
			deviceId: devices.find((device) => device.name === 'Recorder T')!.id,
			channel: 1,
			name: 'Host'
		});
		await edit({ kind: 'set-rate', rate: { num: 30_000, den: 1001 }, width: 1280, height: 720 });
		const shoot = await load();
		expect(shoot.clips.find((clip) => clip.id === one!.id)).toMatchObject({
			name: 'Talk 1',
			scene: '4',
			take: '2',
			circled: true,
			note: ''
		});
		expect(shoot.devices.find((device) => device.name === 'Recorder T')!.channelNames).toContain('Host');
		expect(shoot).toMatchObject({ rate: { num: 30_000, den: 1001 }, width: 1280, hasOwnRate: true });
		for (let step = 0; step < 4; step++) await undo(runtime.shoots, shootId);
		expect(await load()).toMatchObject({ hasOwnRate: false, rate: { num: 25, den: 1 } });
		expect((await load()).clips[0]!.name).toBe(one!.name);
	});

	it('adds a later card to its device, and moves nothing that was decided', async () => {
		const { devices } = await load();
		await edit({ kind: 'rename-device', deviceId: devices[0]!.id, name: 'Wide' });
		// As an older version had read it: it knew of one sound stream only.
		const older = `update media_file set facts = facts #- '{audio,streams}' where shoot_id = $1 and path = $2`;
		await runtime.database.query(older, [shootId, join(cards, 'DSC_0410.MOV')]);
		await make('DSC_0412.MOV', ...picture(3), ...sound(3, 777), '-c:v', 'libx264', '-c:a', 'aac', ...dated('09:02:00'));
		await runtime.queue.add(shootId, 'gather', {});
		await settled();
		expect(await contents()).toMatchObject({
			Wide: ['DSC_0410', 'DSC_0411', 'DSC_0412'],
			'Camera DSC 2': ['DSC_0530', 'DSC_0531']
		});
		const [read] = await runtime.database.query<{ streams: number; state: string }>(
			`select facts #> '{audio,streams}' as streams, state from media_file where shoot_id = $1 and path = $2`,
			[shootId, join(cards, 'DSC_0410.MOV')]
		);
		expect(read).toEqual({ streams: 1, state: 'probed' });
	});

	it('flags what is gone and finds it again in a moved folder, whatever it is called', async () => {
		const before = await contents();
		const later = join(base, 'disk 2', 'moved');
		await mkdir(dirname(later));
		await rename(cards, later);
		await rename(join(later, 'music.flac'), join(later, 'tune.flac'));
		await runtime.queue.add(shootId, 'gather', {});
		await settled();
		const lost = await load();
		// What was never used is not missed.
		expect(lost.badFiles.some((file) => file.relativePath === 'notes.txt')).toBe(false);
		expect(lost.badFiles.every((file) => file.isMissing)).toBe(true);
		expect(lost.clips.every((clip) => clip.parts.every((part) => part.isMissing))).toBe(true);
		await expect(findAgain(runtime, shootId, join(base, 'data', 'demo'))).rejects.toThrow('None of the');
		expect(await findAgain(runtime, shootId, later)).toMatchObject({ missing: 0 });
		await runtime.queue.add(shootId, 'gather', {});
		await settled();
		const again = await load();
		expect(again.badFiles.filter((file) => file.isMissing)).toEqual([]);
		expect(await contents()).toEqual(before);
		expect(again.clips.find((clip) => clip.name === 'music')!.parts[0]!.path).toBe(join(later, 'tune.flac'));
		expect(again.clips.find((clip) => clip.name === 'T01')!.parts[0]!.sound!.listeningSamples).toBe(6 * 48_000);
	});

	it('takes a take of one file a channel apart, and undoes that', async () => {
		const take = (await load()).clips.find((clip) => clip.name === 'T01')!;
		const before = take.parts[0]!;
		expect((await edit({ kind: 'take-apart', clipId: take.id })).rows.media_file).toBeDefined();
		await runtime.queue.add(shootId, 'prepare', {});
		await settled();
		const apart = (await load()).clips.filter((clip) => clip.name.startsWith('T01'));
		expect(apart.map((clip) => clip.name).sort()).toEqual(['T01_Tr1', 'T01_Tr2', 'T01_Tr3']);
		expect(apart.every((clip) => clip.parts[0]!.sound!.channels === 1)).toBe(true);
		expect(apart.map((clip) => clip.parts[0]!.sound!.listeningSamples)).toEqual([288_000, 288_000, 288_000]);
		expect((await undo(runtime.shoots, shootId)).rows.media_file).toBeDefined();
		await runtime.queue.add(shootId, 'prepare', {});
		await settled();
		const again = (await load()).clips.filter((clip) => clip.name.startsWith('T01'));
		expect(again.map((clip) => clip.name)).toEqual(['T01']);
		expect(again[0]!.parts).toEqual([before]);
	});
});
