import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { runProgram } from '../../scripts/outside-programs';
import { parseCommand } from '../../src/lib/contract/commands/commands';
import { beyondLimits } from '../../src/lib/core/gather/beyond-limits';
import { joinSpanned } from '../../src/lib/core/gather/spanned';
import { secondsToFlicks } from '../../src/lib/core/time/flicks';
import { applyEdit } from '../../src/lib/server/edits/apply';
import { undo } from '../../src/lib/server/edits/log';
import { probeFile } from '../../src/lib/server/media/probe';
import { listShoots, loadShoot } from '../../src/lib/server/shoots/view';
import { fillOldDatabase } from '../support/old-database';
import { openTestDatabase, type TestDatabase } from '../support/test-database';

/** What a file claims, or a command asks for, beyond all that a recording can be. */
let folder: string;
let opened: TestDatabase;
let shootId: string;
beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-claims-'));
	opened = await openTestDatabase(fillOldDatabase);
	shootId = (await listShoots(opened.database))[0]!.id;
});
afterAll(async () => {
	await opened.close();
	await rm(folder, { recursive: true });
});

/** Where timescale and duration stand behind the box's name, in version 0 (ISO/IEC 14496-12, 8.2.2, 8.3.2, 8.4.2; from memory). */
const TIMES = { mvhd: [16, 20], mdhd: [16, 20], tkhd: [undefined, 24] } as const;

/** A second of a real MP4 whose every index claims 2^31 - 1 seconds. */
async function lyingMovie(): Promise<string> {
	const path = join(folder, 'lies.mp4');
	const source = ['-f', 'lavfi', '-i', 'testsrc2=size=64x36:rate=25:duration=1', '-f', 'lavfi', '-i', 'sine=d=1'];
	await runProgram('ffmpeg', ['-v', 'error', ...source, '-c:v', 'libx264', '-c:a', 'aac', path]);
	const bytes = await readFile(path);
	for (const [name, [timescaleAt, durationAt]] of Object.entries(TIMES))
		for (let at = bytes.indexOf(name, 0, 'latin1'); at >= 0; at = bytes.indexOf(name, at + 4, 'latin1')) {
			if (timescaleAt !== undefined) bytes.writeUInt32BE(1, at + timescaleAt);
			bytes.writeUInt32BE(0x7fffffff, at + durationAt);
		}
	await writeFile(path, bytes);
	return path;
}

const facts = (more: object) => ({
	container: 'wav',
	containerStartSeconds: 0,
	durationSeconds: 60,
	audio: { codec: 'pcm_s16le', sampleRate: 48_000, channels: 2, startSeconds: 0, channelNames: ['', ''] },
	...more
});

describe('a file that claims what no recording can be', () => {
	it('is told as bad: a second that claims 68 years', async () => {
		await expect(probeFile(await lyingMovie())).rejects.toThrow(/claims to last [\d,]+ days/);
	});

	it.each([
		['a length', { durationSeconds: 8 * 86_400 }, 'days'],
		['a length that is no number', { durationSeconds: NaN }, 'days'],
		['channels', { audio: { ...facts({}).audio, channels: 1e7 } }, '10,000,000 channels'],
		['a sample rate', { audio: { ...facts({}).audio, sampleRate: 1 } }, '1 samples a second'],
		[
			'a frame rate',
			{ video: { codec: 'h264', width: 64, height: 36, rate: { num: 90_000, den: 1 }, startSeconds: 0 } },
			'90,000 pictures a second'
		],
		[
			'a picture',
			{ video: { codec: 'png', width: 30_000, height: 30_000, rate: { num: 25, den: 1 }, startSeconds: 0 } },
			'30,000 by 30,000'
		],
		['a start', { clockSeconds: -1e12 }, 'begin']
	] as const)('%s', (_, claim, words) => {
		expect(beyondLimits(facts(claim))).toContain(words);
		expect(beyondLimits(facts({}))).toBeUndefined();
	});

	it('does not grow beyond it by being joined', () => {
		const day = (index: number) => ({
			id: `${index}`,
			device: 'a',
			path: `T01_000${index + 1}.WAV`,
			facts: facts({ durationSeconds: 86_400, clockSeconds: 0, clockDaySeconds: 86_400, clockFrameSeconds: 1 / 48_000 })
		});
		const recordings = joinSpanned(Array.from({ length: 9 }, (_, index) => day(index)));
		expect(recordings.map(({ parts }) => parts.length)).toEqual([7, 2]);
	});
});

describe('a place that no line-up has', () => {
	const edit = (command: object) => applyEdit(opened.shoots, shootId, parseCommand(command));

	it('is refused, however it is come to', async () => {
		const clip = (await loadShoot(opened.database, shootId)).clips.find((one) => one.placement)!;
		expect(() => parseCommand({ kind: 'shift-clips', clipIds: [clip.id], byFlicks: -(2 ** 52) })).toThrow('14 days');
		const days = secondsToFlicks(10 * 86_400);
		await edit({ kind: 'shift-clips', clipIds: [clip.id], byFlicks: -days });
		await expect(edit({ kind: 'shift-clips', clipIds: [clip.id], byFlicks: -days })).rejects.toThrow('14 days');
		await undo(opened.shoots, shootId);
	});

	it('and a length that none has, stored by an older version, open with the clip told as bad', async () => {
		const placed = (await loadShoot(opened.database, shootId)).clips.filter((one) => one.placement);
		const [far, long, odd] = placed.map((clip) => clip.id);
		await opened.database.query('update placement set start_flicks = -4611686018427387904 where clip_id = $1', [far]);
		await opened.database.query('update clip set duration_flicks = 4611686018427387904 where id = $1', [long]);
		await opened.database.query(
			`update media_file set facts = facts || '{"durationSeconds": 2147483647}' where id in (select file_id from clip_part where clip_id = $1)`,
			[odd]
		);
		const shoot = await loadShoot(opened.database, shootId);
		expect(() => JSON.stringify(shoot)).not.toThrow();
		for (const id of [far, long]) {
			const clip = shoot.clips.find((one) => one.id === id)!;
			expect(clip).toMatchObject({ stray: 'beyond limits', placement: undefined });
			expect(clip.durationFlicks).toBeLessThanOrEqual(secondsToFlicks(7 * 86_400));
		}
		expect(shoot.clips.find((one) => one.id === odd)!.parts).toEqual([]);
		expect(shoot.badFiles.map((file) => file.reason).join()).toContain('days');
		// What is bad can still be renamed, and the shoot be changed.
		await edit({ kind: 'rename-clip', clipId: odd!, name: 'Odd' });
		await edit({ kind: 'shift-clips', clipIds: [placed[3]!.id], byFlicks: 1000 });
	});
});
