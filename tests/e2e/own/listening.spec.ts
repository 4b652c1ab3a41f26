import { expect, test } from '@playwright/test';
import { mkdir, mkdtemp, open, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { flicksToSeconds, secondsToFlicks } from '../../../src/lib/core/time/flicks';
import type { Shoot } from '../../../src/lib/core/shoot/shoot';
import { IS_LONG } from '../../support/long-checks';
import { type RunningServer, startServer, waitFor } from '../support/server';
import { readShoot } from '../support/shoot';

/**
 * What comes out of the page's audio graph, recorded by rendering it offline: two lanes (of two hours, in full), each with clicks
 * whose places are known, one of them on a clock that is 50 ppm off.
 */
const RATE = 8000;
const SECONDS = IS_LONG ? 7200 : 900;
const OUT_RATE = 48_000;
let server: RunningServer;
let folder: string;

/** A wave file of silence with a click every so many seconds. @param bytes a sample: 2, or 3 for a deep sound */
async function writeClicks(path: string, everySeconds: number, firstSeconds: number, bytes: 2 | 3): Promise<void> {
	const samples = SECONDS * RATE;
	const head = Buffer.alloc(44);
	head.write('RIFF', 0, 'latin1');
	head.writeUInt32LE(36 + bytes * samples, 4);
	head.write('WAVEfmt ', 8, 'latin1');
	head.writeUInt32LE(16, 16);
	head.writeUInt16LE(1, 20);
	head.writeUInt16LE(1, 22);
	head.writeUInt32LE(RATE, 24);
	head.writeUInt32LE(bytes * RATE, 28);
	head.writeUInt16LE(bytes, 32);
	head.writeUInt16LE(8 * bytes, 34);
	head.write('data', 36, 'latin1');
	head.writeUInt32LE(bytes * samples, 40);
	const file = await open(path, 'w');
	await file.write(head);
	const second = Buffer.alloc(bytes * RATE);
	for (let at = 0; at < SECONDS; at++) {
		second.fill(0);
		const since = (((at - firstSeconds) % everySeconds) + everySeconds) % everySeconds;
		if (since < 1e-9 || since > everySeconds - 1e-9) second.writeIntLE(24_000 * 256 ** (bytes - 2), 0, bytes);
		await file.write(second);
	}
	await file.close();
}

test.beforeAll(async () => {
	test.setTimeout(300_000);
	folder = await mkdtemp(join(tmpdir(), 'open-choir-listening-'));
	for (const [name, every, first, bytes] of [
		['left', 5, 1, 2],
		['right', 7, 2, 3]
	] as const) {
		await mkdir(join(folder, 'media', name), { recursive: true });
		await writeClicks(join(folder, 'media', name, `${name}.wav`), every, first, bytes);
	}
	server = await startServer(join(folder, 'data'), ['--media', join(folder, 'media'), '--no-demo']);
});
test.afterAll(async () => {
	await server?.stop();
	await rm(folder, { recursive: true, force: true });
});

async function ask<Answer>(path: string, body?: object): Promise<Answer> {
	const init = body ? { method: 'POST', body: JSON.stringify(body) } : {};
	return (await (
		await fetch(server.address + path, { ...init, headers: { 'content-type': 'application/json' } })
	).json()) as Answer;
}

test('is exact to the sample between lanes, without gaps, at the beginning and at the end', async ({ page }) => {
	const { id } = await ask<{ id: string }>('/api/shoots', { name: 'Clicks', folder: join(folder, 'media') });
	const load = () => readShoot(server.address, id);
	const edit = (command: object) => ask<object>(`/api/shoots/${id}/edits`, command);
	await waitFor(
		async () => (await load()).clips.filter((clip) => clip.parts[0]?.sound?.listeningSamples).length === 2,
		240_000,
		500
	);
	const { clips } = await load();
	expect(clips.map((clip) => [clip.name, clip.parts[0]!.sound!.isDeep ?? false])).toEqual([
		['left', false],
		['right', true]
	]);
	const clipOf = (shoot: Shoot, name: string) => shoot.clips.find((clip) => clip.name === name)!;
	const first = await load();
	// The right one begins 3.25 s later, on a clock of +50 ppm: told by two events in both.
	for (const [name, seconds] of [
		['a', 10],
		['b', SECONDS - 10]
	] as const) {
		const other = (seconds - 3.25) / (1 + 50e-6);
		await edit({
			kind: 'add-sync-point',
			clipId: clipOf(first, 'left').id,
			name,
			mediaFlicks: secondsToFlicks(seconds)
		});
		await edit({
			kind: 'add-sync-point',
			clipId: clipOf(first, 'right').id,
			name,
			mediaFlicks: secondsToFlicks(other)
		});
	}
	await edit({ kind: 'line-up-by-points', way: 'sync point', keepsPlaces: false });
	const placed = await load();
	const [left, right] = ['left', 'right'].map((name) => clipOf(placed, name));
	// Two marks a quarter of an hour apart tell a clock less exactly than two that lie two hours apart.
	const ratePpm = right!.placement!.ratePpm - left!.placement!.ratePpm;
	expect(Math.abs(ratePpm - 50)).toBeLessThan(IS_LONG ? 0.5 : 15);

	await page.addInitScript(offlineAudio);
	for (const [from, seconds] of [
		['0 s', IS_LONG ? 120 : 60],
		[`${SECONDS - 70} s`, 60]
	] as const) {
		// An offline graph renders once: each recording begins with a new page.
		await page.goto(`${server.address}/shoots/${id}/prove`);
		await page.getByTestId('lane-1').waitFor();
		await page.keyboard.press('ArrowDown');
		await page.keyboard.press('d');
		await page.keyboard.press('x');
		await expect(page.getByTestId('hears')).toContainText('left ear');
		const isLeftFirst = (await page.getByTestId('hears').innerText()).includes(
			`${placed.devices.find((one) => one.id === left!.deviceId)!.badge} in the left`
		);
		await page.keyboard.press('g');
		await page.getByRole('textbox', { name: 'Go to a time of the line-up' }).fill(from);
		await page.keyboard.press('Enter');
		const recorded = await page.evaluate(record, seconds);
		// The first click of the lane that is exact tells when playing began; all others follow from it.
		const lanes = isLeftFirst ? recorded.clicks : [recorded.clicks[1]!, recorded.clicks[0]!];
		const began = recorded.beganSample;
		const expected = (clip: typeof left, every: number, firstClick: number) => {
			const out: number[] = [];
			for (let click = firstClick; click < SECONDS; click += every) {
				const { startFlicks, ratePpm } = clip!.placement!;
				const at = flicksToSeconds(startFlicks) + click * (1 + ratePpm * 1e-6) - parseFloat(from);
				const sample = began + at * OUT_RATE;
				if (at >= 0.01 && sample < (seconds - 0.1) * OUT_RATE) out.push(sample);
			}
			return out;
		};
		for (const [found, wanted] of [
			[lanes[0]!, expected(left, 5, 1)],
			[lanes[1]!, expected(right, 7, 2)]
		] as const) {
			expect(wanted.length).toBeGreaterThan(6);
			expect(found).toHaveLength(wanted.length);
			for (const [index, sample] of wanted.entries()) expect(Math.abs(found[index]! - sample)).toBeLessThan(0.5);
		}
	}
});

/** Runs in the page, before it: the audio graph renders into memory, as fast as the page lays sound ahead. */
function offlineAudio(): void {
	const realTimeout = window.setTimeout.bind(window);
	// Sound is laid ahead by the clock of the graph, which runs faster here.
	window.setTimeout = ((work: () => void, ms?: number) => realTimeout(work, Math.min(ms ?? 0, 4))) as typeof setTimeout;
	class Recorded extends OfflineAudioContext {
		constructor() {
			super(2, 120 * 48_000, 48_000);
			(window as unknown as { recorded: Recorded[] }).recorded.push(this);
		}
		override resume(): Promise<void> {
			return Promise.resolve();
		}
		goOn(): Promise<void> {
			return super.resume();
		}
		getOutputTimestamp(): AudioTimestamp {
			return { contextTime: this.currentTime, performanceTime: performance.now() };
		}
		close(): Promise<void> {
			return Promise.resolve();
		}
	}
	(window as unknown as { recorded: Recorded[] }).recorded = [];
	(window as unknown as { AudioContext: unknown }).AudioContext = Recorded;
}

/** Runs in the page: plays, records so many seconds, and finds the clicks of both ears. */
async function record(seconds: number): Promise<{ readonly clicks: number[][]; readonly beganSample: number }> {
	const { recorded } = window as unknown as {
		recorded: (OfflineAudioContext & { goOn(): Promise<void> })[];
	};
	const play = document.querySelector<HTMLButtonElement>('[data-testid="play"]')!;
	const starts: number[] = [];
	const start = AudioBufferSourceNode.prototype.start;
	AudioBufferSourceNode.prototype.start = function (when, offset) {
		starts.push(when ?? 0);
		start.call(this, when, offset);
	};
	const waited = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
	const until = async (isTrue: () => boolean) => {
		for (let round = 0; round < 3000 && !isTrue(); round++) await waited(4);
	};
	play.click();
	await until(() => starts.length >= 2);
	const graph = recorded.at(-1)!;
	const end = Math.min(seconds, 119);
	const pause = (at: number): void => {
		void graph.suspend(at).then(async () => {
			// Until what comes next is laid.
			await until(() => Math.max(...starts) > at + 0.9);
			if (at + 0.4 < end) pause(at + 0.4);
			await graph.goOn();
		});
	};
	pause(0.4);
	const buffer = await graph.startRendering();
	const clicks = [0, 1].map((channel) => {
		const data = buffer.getChannelData(channel).subarray(0, end * 48_000);
		const found: number[] = [];
		for (let i = 1; i < data.length - 1; i++) {
			if (data[i]! < 0.2 || data[i]! < data[i - 1]! || data[i]! <= data[i + 1]!) continue;
			// Between the samples: a parabola through the top three.
			const bend = data[i - 1]! - 2 * data[i]! + data[i + 1]!;
			found.push(i + (0.5 * (data[i - 1]! - data[i + 1]!)) / bend);
		}
		return found;
	});
	// What is heard is the first to start; what is laid beside it may come late, and starts in its midst.
	return { clicks, beganSample: Math.round(starts[0]! * 48_000) };
}
