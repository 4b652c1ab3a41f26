import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { MediaFacts } from '../../src/lib/core/gather/media-facts';
import type { HeardSpeech } from '../../src/lib/core/program/heard-speech';
import { mixedSound } from '../../src/lib/core/program/mixed-sound';
import { soundRuns } from '../../src/lib/core/program/sound-runs';
import { placedClips } from '../../src/lib/core/shoot/lookup';
import type { Shoot } from '../../src/lib/core/shoot/shoot';
import { FLICKS_PER_SECOND, secondsToFlicks } from '../../src/lib/core/time/flicks';
import { createPrecedence } from '../../src/lib/server/jobs/precedence';
import mix from '../../src/lib/server/engine/mix.worker';
import { openListeningSource } from '../../src/lib/server/media/listening/read-listening';
import { openMediaCache } from '../../src/lib/server/media/media-cache';
import { probeFile } from '../../src/lib/server/media/probe';
import { runTool } from '../../src/lib/server/media/run-tool';
import { soundFilesOf } from '../../src/lib/server/media/sound-inputs';
import { type ListeningFiles, soundOfMix } from '../../src/lib/ui/playback/listening-sound';
import { LINE_UP, sampleShoot } from '../support/sample-shoot';

/**
 * What is heard in the page is what leaves: the page's chunks of half a second against the movie's sound of one piece, over all
 * that a mix can be: levels, sides, polarity, low cuts, shifts, clocks, a gap with a stand-in, openings by who speaks.
 */
const RATE = 48_000;
const SECONDS = 60;
const CHUNK = RATE / 2;

let folder: string;
let files: ReadonlyMap<string, { readonly path: string; readonly key: string; readonly facts: MediaFacts }>;

const noise = (seed: number) => ['-f', 'lavfi', '-i', `anoisesrc=d=${SECONDS}:c=pink:a=0.3:seed=${seed}:r=48000`];

beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-page-mix-'));
	const made: Record<string, readonly string[]> = {
		'recorder.wav': [...noise(1), ...noise(2), ...noise(3), '-filter_complex', 'amerge=3', '-c:a', 'pcm_s24le'],
		'camera.m4a': [...noise(4), ...noise(5), '-filter_complex', 'amerge=2', '-ar', '44100', '-c:a', 'aac']
	};
	const pairs = Object.entries(made).map(async ([name, args], index) => {
		const path = join(folder, name);
		await runTool('ffmpeg', ['-v', 'error', ...args, '-y', path]);
		return [name, { path, key: `${index}`.repeat(32), facts: await probeFile(path) }] as const;
	});
	files = new Map(await Promise.all(pairs));
	const source = openListeningSource(openMediaCache(join(folder, 'cache')), createPrecedence());
	vi.stubGlobal('fetch', async (address: string) => {
		const asked = new URL(address, 'http://page');
		const file = files.get(asked.pathname.split('/').at(-1)!)!;
		const { from, to, channels } = Object.fromEntries(asked.searchParams) as Record<string, string>;
		const samples = await source.read(file, Number(from), Number(to), channels!.split(',').map(Number));
		return new Response(samples.buffer as ArrayBuffer);
	});
});
afterAll(async () => {
	vi.unstubAllGlobals();
	await rm(folder, { recursive: true, force: true });
});

/** A recorder whose card was changed from 25 s to 33 s of the line-up, and a camera that runs on another clock. */
function shootOf(change: (lineUp: Shoot['lineUps'][number]) => Partial<Shoot['lineUps'][number]>): Shoot {
	const sample = sampleShoot(
		[
			{ badge: '1', start: 0, length: 25, files: [SECONDS] },
			{ badge: '1', start: 33, length: 27, files: [SECONDS], offset: -25 },
			{ badge: 'B', start: 2.000_01, length: SECONDS - 3, ratePpm: 62 }
		],
		{
			master: [
				{ deviceId: 'device-1', channel: 0, gainDb: -6, pan: -0.5, lowCutHz: 80 },
				{ deviceId: 'device-1', channel: 1, gainDb: -4, isInverted: true, shiftFlicks: secondsToFlicks(0.00731) },
				{ deviceId: 'device-1', channel: 2, gainDb: -9, pan: 1 }
			]
		}
	);
	const clips = sample.clips.map((clip) => {
		const name = clip.deviceId === 'device-1' ? 'recorder.wav' : 'camera.m4a';
		const { key, facts } = files.get(name)!;
		const audio = facts.audio!;
		const sound = {
			...clip.parts[0]!.sound!,
			channels: audio.channels,
			isDeep: audio.isDeep ?? false,
			samples: SECONDS * RATE
		};
		return { ...clip, parts: clip.parts.map((part) => ({ ...part, fileId: name, identity: key, sound })) };
	});
	return { ...sample, clips, lineUps: sample.lineUps.map((one) => ({ ...one, ...change(one) })) };
}

const person = (id: string, channel: number) => ({
	id,
	name: id,
	mark: 0,
	channels: [{ deviceId: 'device-1', channel }]
});
const SPEECH: HeardSpeech = {
	people: [person('host', 0), person('guest', 1)],
	speech: Array.from({ length: 12 }, (_, index) => ({
		personId: index % 2 === 0 ? 'host' : 'guest',
		inFlicks: secondsToFlicks(index * 5 + 0.123),
		outFlicks: secondsToFlicks(index * 5 + 4.4),
		confidence: 1,
		isByHand: false
	})),
	sets: [],
	sources: [],
	personIds: ['host', 'guest']
};

async function bothMixes(shoot: Shoot, heard: HeardSpeech | undefined, inFlicks: number, outFlicks: number) {
	const runs = soundRuns(placedClips(shoot, LINE_UP));
	const { intervals } = mixedSound(shoot, LINE_UP, runs, { inFlicks, outFlicks }, heard);
	const target = join(folder, 'mix.f32');
	await mix({
		intervals: intervals.map((interval) => ({
			interval,
			files: interval.run.files.map(({ fileId }) => soundFilesOf(files.get(fileId)!.path, files.get(fileId)!.facts))
		})),
		inFlicks,
		outFlicks,
		target
	});
	const file = new Float32Array(new Uint8Array(await readFile(target)).buffer);
	// The page plays from the beginning of the line-up, whatever the program is.
	const all = mixedSound(shoot, LINE_UP, runs, { inFlicks: 0, outFlicks: secondsToFlicks(SECONDS) }, heard);
	const listening: ListeningFiles = new Map(
		[...files].map(([fileId, { key, facts }]) => [
			fileId,
			{
				fileId,
				identity: key,
				channels: facts.audio!.channels,
				samples: SECONDS * RATE,
				isDeep: facts.audio!.isDeep ?? false
			}
		])
	);
	const page = new Float32Array(file.length);
	for (let at = 0; at < file.length / 2; at += CHUNK) {
		const samples = Math.min(CHUNK, file.length / 2 - at);
		const fromFlicks = inFlicks + (at * FLICKS_PER_SECOND) / RATE;
		const sides = await soundOfMix(all.intervals, listening, { fromFlicks, samples }, {});
		for (let i = 0; i < samples; i++) {
			page[2 * (at + i)] = sides?.[0]![i] ?? 0;
			page[2 * (at + i) + 1] = sides?.[1]![i] ?? 0;
		}
	}
	return { file, page };
}

/** Of the strongest sample that differs, and of the mix itself: dB of full scale. */
function levels({ file, page }: { readonly file: Float32Array; readonly page: Float32Array }) {
	let [most, power] = [0, 0];
	for (let i = 0; i < file.length; i++) {
		most = Math.max(most, Math.abs(file[i]! - page[i]!));
		power += file[i]! ** 2;
	}
	return { differenceDb: 20 * Math.log10(most), levelDb: 10 * Math.log10(power / file.length) };
}

describe('the page’s mix', () => {
	it.each([
		['as it is chosen', {}, undefined],
		['with microphones that open by who speaks', { opensBySpeech: true }, SPEECH],
		['without what covers gaps', { coversGaps: false }, SPEECH]
	] as const)(
		'is the movie’s under -80 dB of full scale, at every sample: %s',
		async (_, changed, heard) => {
			const shoot = shootOf(({ mix: usual }) => ({ mix: { ...usual, ...changed } }));
			const { differenceDb, levelDb } = levels(
				await bothMixes(shoot, heard, secondsToFlicks(3.1), secondsToFlicks(57.7))
			);
			expect(differenceDb).toBeLessThan(-80);
			expect(levelDb).toBeGreaterThan(-40);
		},
		60_000
	);

	it('has the camera where the recorder’s card was changed, and silence where nothing may stand in', async () => {
		const [inFlicks, outFlicks] = [secondsToFlicks(27), secondsToFlicks(32)];
		const covered = await bothMixes(
			shootOf(() => ({})),
			undefined,
			inFlicks,
			outFlicks
		);
		expect(levels(covered).levelDb).toBeGreaterThan(-40);
		const bare = await bothMixes(
			shootOf(({ mix: usual }) => ({ mix: { ...usual, coversGaps: false } })),
			undefined,
			inFlicks,
			outFlicks
		);
		expect(bare.page.every((sample) => sample === 0) && bare.file.every((sample) => sample === 0)).toBe(true);
	}, 60_000);
});
