import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import { fastFftProvider } from '../../server/compute/fast-fft';
import { ANALYSIS_SAMPLE_RATE } from '../features/band-features';
import { align, type AlignableClip } from './align';

const RATE = ANALYSIS_SAMPLE_RATE;

/** Sound with syllables: noise in changing bands, bursts and pauses, as speech has. */
function speechLike(seconds: number, seed: number): Float32Array {
	const random = seededRandom(seed);
	const out = new Float32Array(seconds * RATE);
	let at = 0;
	while (at < out.length) {
		const length = Math.floor((0.06 + 0.25 * random()) * RATE);
		const loud = random() < 0.2 ? 0 : 0.05 + 0.3 * random();
		const resonance = 2 * Math.cos((2 * Math.PI * (250 + 2800 * random() ** 2)) / RATE) * 0.97;
		let [y1, y2] = [0, 0];
		for (let i = 0; i < length && at + i < out.length; i++) {
			const y = 0.2 * (random() - 0.5) + resonance * y1 - 0.94 * y2;
			y2 = y1;
			y1 = y;
			out[at + i] = loud * y * Math.sin((Math.PI * i) / length);
		}
		at += length;
	}
	return out;
}

/** What a device makes of the scene: another clock, another gain, its own noise. */
function record(
	scene: Float32Array,
	fromSeconds: number,
	seconds: number,
	ratePpm: number,
	noise: number,
	seed: number
): Float32Array {
	const random = seededRandom(seed);
	const out = new Float32Array(Math.floor(seconds * RATE));
	for (let i = 0; i < out.length; i++) {
		const position = fromSeconds * RATE + i * (1 + ratePpm * 1e-6);
		const whole = Math.floor(position);
		const part = position - whole;
		out[i] = (1 - part) * (scene[whole] ?? 0) + part * (scene[whole + 1] ?? 0) + noise * (random() + random() - 1);
	}
	return out;
}

function clip(id: string, device: string, samples: Float32Array | undefined, hasPicture = false): AlignableClip {
	return {
		id,
		device,
		samples,
		hasPicture,
		channels: 1,
		durationSeconds: (samples?.length ?? RATE) / RATE,
		soundStartSeconds: 0
	};
}

describe('align', () => {
	const scene = speechLike(300, 1);
	const level = Math.sqrt(scene.reduce((sum, x) => sum + x * x, 0) / scene.length);

	it('finds starts and clock rates, and leaves alone what does not belong', async () => {
		const provider = await fastFftProvider();
		const clips = [
			clip('desk', 'desk', record(scene, 0, 290, 0, level * 0.05, 2)),
			clip('wide', 'wide', record(scene, 7.25, 270, 62, level, 3), true),
			clip('roam-1', 'roam', record(scene, 30.5, 12, -20, level, 4), true),
			clip('roam-2', 'roam', record(scene, 180.125, 25, -20, level, 5), true),
			clip('other-day', 'wide2', speechLike(60, 99), true),
			clip('hush', 'hush', new Float32Array(20 * RATE)),
			clip('blip', 'blip', record(scene, 40, 0.8, 0, 0, 6)),
			clip('mute', 'mute', undefined, true)
		];
		const { lineUps, strays } = align(clips, provider);
		expect(lineUps).toHaveLength(1);
		expect(lineUps[0]!.referenceDevice).toBe('desk');
		const at = new Map(lineUps[0]!.placements.map((placement) => [placement.clipId, placement]));
		expect([...at.keys()].sort()).toEqual(['desk', 'roam-1', 'roam-2', 'wide']);
		const desk = at.get('desk')!.startSeconds;
		// Half a sample of the analysis is 0.06 ms.
		expect(at.get('wide')!.startSeconds - desk).toBeCloseTo(7.25, 4);
		expect(at.get('roam-1')!.startSeconds - desk).toBeCloseTo(30.5, 3);
		expect(at.get('roam-2')!.startSeconds - desk).toBeCloseTo(180.125, 3);
		expect(Math.abs(at.get('wide')!.ratePpm - 62)).toBeLessThan(1);
		expect(strays.map(({ clipId, reason }) => [clipId, reason]).sort()).toEqual([
			['blip', 'too short to tell'],
			['hush', 'silent'],
			['mute', 'no sound stream'],
			['other-day', 'no common sound with anything']
		]);
	});

	it('keeps scenes that share no sound apart, and links clips through a third', async () => {
		const provider = await fastFftProvider();
		const evening = speechLike(120, 31);
		const clips = [
			clip('a1', 'a', record(scene, 0, 60, 0, 0.001, 11)),
			clip('b1', 'b', record(scene, 40, 100, 5, 0.001, 12)),
			clip('c1', 'c', record(scene, 110, 80, -5, 0.001, 13)),
			clip('a2', 'a', record(evening, 0, 80, 0, 0.001, 14)),
			clip('b2', 'b', record(evening, 20, 80, 5, 0.001, 15))
		];
		const { lineUps, strays } = align(clips, provider);
		expect(strays).toEqual([]);
		expect(lineUps.map((one) => one.placements.map((placement) => placement.clipId).sort())).toEqual([
			['a1', 'b1', 'c1'],
			['a2', 'b2']
		]);
		const start = (id: string) => lineUps[0]!.placements.find((placement) => placement.clipId === id)!.startSeconds;
		expect(start('c1') - start('a1')).toBeCloseTo(110, 2);
	});

	it('hears a microphone with its wires crossed', async () => {
		const provider = await fastFftProvider();
		const reversed = record(scene, 12, 60, 0, 0.001, 21).map((x) => -x);
		const { lineUps } = align(
			[clip('a', 'a', record(scene, 0, 100, 0, 0.001, 22)), clip('b', 'b', reversed)],
			provider
		);
		expect(lineUps[0]!.placements.find((one) => one.clipId === 'b')!.startSeconds).toBeCloseTo(12, 3);
	});
});
