import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import { fastFftProvider } from '../../server/engine/fast-fft';
import { ANALYSIS_SAMPLE_RATE, toAnalysisSound } from '../features/band-features';
import { align, type AlignOptions } from './align';
import type { Alignment, Placed } from './alignment';
import type { AlignableClip } from './clip';
import { type Comparer, plainComparer } from './links/comparer';

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

interface HeardClip extends AlignableClip {
	readonly sounds: readonly Float32Array[];
}

function clip(id: string, device: string, samples: Float32Array | undefined, more: Partial<HeardClip> = {}): HeardClip {
	return {
		id,
		device,
		sounds: samples ? [samples] : [],
		hasPicture: false,
		channels: samples ? 1 : 0,
		durationSeconds: (samples?.length ?? RATE) / RATE,
		soundStartSeconds: 0,
		soundSeconds: (samples?.length ?? 0) / RATE,
		...more
	};
}

const asCamera = { hasPicture: true };

/** The engine on sound at hand; a clip of several channels is mixed as their mean. */
async function lineUp(
	clips: readonly HeardClip[],
	options: AlignOptions = {},
	through: (comparer: Comparer) => Comparer = (comparer) => comparer
): Promise<Alignment> {
	const made = new Map<string, Int16Array>();
	const provider = await fastFftProvider();
	const comparer = plainComparer(({ clip: index, channel }) => {
		const key = `${index} ${channel ?? ''}`;
		const { sounds } = clips[index]!;
		const mean = () => sounds[0]!.map((_, i) => sounds.reduce((sum, one) => sum + one[i]!, 0) / sounds.length);
		let own = made.get(key);
		if (!own) made.set(key, (own = toAnalysisSound(channel === undefined ? mean() : sounds[channel]!)));
		return own;
	}, provider);
	return align(clips, through(comparer), options);
}

/** Comparisons end as late as chance will have it. */
function inAnyOrder(seed: number): (comparer: Comparer) => Comparer {
	const random = seededRandom(seed);
	const late = async <Result>(result: Promise<Result>) => {
		await new Promise((resolve) => setTimeout(resolve, 30 * random()));
		return result;
	};
	return (comparer) => ({
		...comparer,
		search: (...of) => late(comparer.search(...of)),
		examine: (...of) => late(comparer.examine(...of))
	});
}

function placedBy(clips: readonly HeardClip[], { lineUps }: Alignment, index = 0): ReadonlyMap<string, Placed> {
	return new Map(lineUps[index]?.placed.map((placed) => [clips[placed.clip]!.id, placed]) ?? []);
}

function straysBy(clips: readonly HeardClip[], { strays }: Alignment): readonly (readonly [string, string])[] {
	return strays.map(({ clip: index, reason }) => [clips[index]!.id, reason] as const).sort();
}

/** The loudest tenth of a second of a stretch. */
function loudest(samples: Float32Array, fromSeconds: number, toSeconds: number): number {
	const power = (at: number) => samples.subarray(at * RATE, (at + 0.1) * RATE).reduce((sum, x) => sum + x * x, 0);
	const places = Array.from({ length: Math.floor((toSeconds - fromSeconds) * 10) }, (_, i) => fromSeconds + i / 10);
	return places.reduce((best, at) => (power(at) > power(best) ? at : best)) + 0.05;
}

describe('align', () => {
	const scene = speechLike(300, 1);
	const level = Math.sqrt(scene.reduce((sum, x) => sum + x * x, 0) / scene.length);

	it('finds starts and clock rates, and leaves alone what does not belong', async () => {
		const clips = [
			clip('desk', 'desk', record(scene, 0, 290, 0, level * 0.05, 2)),
			clip('wide', 'wide', record(scene, 7.25, 270, 62, level, 3), asCamera),
			clip('roam-1', 'roam', record(scene, 30.5, 12, -20, level, 4), asCamera),
			clip('roam-2', 'roam', record(scene, 180.125, 25, -20, level, 5), asCamera),
			clip('other-day', 'wide2', speechLike(60, 99), asCamera),
			clip('hush', 'hush', new Float32Array(20 * RATE)),
			clip('blip', 'blip', record(scene, 40, 0.8, 0, 0, 6)),
			clip('mute', 'mute', undefined, asCamera)
		];
		const result = await lineUp(clips);
		expect(result.lineUps).toHaveLength(1);
		expect(result.lineUps[0]!.referenceDevice).toBe('desk');
		const at = placedBy(clips, result);
		expect([...at.keys()].sort()).toEqual(['desk', 'roam-1', 'roam-2', 'wide']);
		const desk = at.get('desk')!.startSeconds;
		// Half a sample of the analysis is 0.06 ms.
		expect(at.get('wide')!.startSeconds - desk).toBeCloseTo(7.25, 4);
		expect(at.get('roam-1')!.startSeconds - desk).toBeCloseTo(30.5, 3);
		expect(at.get('roam-2')!.startSeconds - desk).toBeCloseTo(180.125, 3);
		expect(Math.abs(at.get('wide')!.ratePpm - 62)).toBeLessThan(1);
		expect(straysBy(clips, result)).toEqual([
			['blip', 'too short to tell'],
			['hush', 'silent'],
			['mute', 'no sound stream'],
			['other-day', 'no common sound with anything']
		]);
	});

	it('keeps scenes that share no sound apart, and links clips through a third', async () => {
		const evening = speechLike(120, 31);
		const clips = [
			clip('a1', 'a', record(scene, 0, 60, 0, 0.001, 11)),
			clip('b1', 'b', record(scene, 40, 100, 5, 0.001, 12)),
			clip('c1', 'c', record(scene, 110, 80, -5, 0.001, 13)),
			clip('a2', 'a', record(evening, 0, 80, 0, 0.001, 14)),
			clip('b2', 'b', record(evening, 20, 80, 5, 0.001, 15))
		];
		const result = await lineUp(clips);
		expect(result.strays).toEqual([]);
		expect(result.lineUps.map((_, index) => [...placedBy(clips, result, index).keys()].sort())).toEqual([
			['a1', 'b1', 'c1'],
			['a2', 'b2']
		]);
		const at = placedBy(clips, result);
		expect(at.get('c1')!.startSeconds - at.get('a1')!.startSeconds).toBeCloseTo(110, 2);
	});

	it('hears a microphone with its wires crossed', async () => {
		const reversed = record(scene, 12, 60, 0, 0.001, 21).map((x) => -x);
		const clips = [clip('a', 'a', record(scene, 0, 100, 0, 0.001, 22)), clip('b', 'b', reversed)];
		expect(placedBy(clips, await lineUp(clips)).get('b')!.startSeconds).toBeCloseTo(12, 3);
	});

	it('takes a clip apart where its recorder lost samples', async () => {
		const whole = record(scene, 5, 280, 30, level * 0.3, 24);
		// Where somebody speaks: in a pause nobody can tell to the moment what is missing.
		const lostAt = loudest(whole, 150, 156);
		const lostSeconds = 0.4;
		const holed = new Float32Array(whole.length - lostSeconds * RATE);
		holed.set(whole.subarray(0, Math.round(lostAt * RATE)));
		holed.set(whole.subarray(Math.round((lostAt + lostSeconds) * RATE)), Math.round(lostAt * RATE));
		const clips = [
			clip('desk', 'desk', record(scene, 0, 290, 0, level * 0.05, 2)),
			clip('holed', 'holed', holed),
			clip('wide', 'wide', record(scene, 3, 260, -40, level, 25), asCamera)
		];
		const result = await lineUp(clips);
		const at = placedBy(clips, result);
		const { parts, losses } = at.get('holed')!;
		const desk = at.get('desk')!.startSeconds;
		expect(losses).toHaveLength(1);
		expect(Math.abs(losses[0]!.atSeconds - lostAt)).toBeLessThan(0.05);
		expect(Math.abs(losses[0]!.lostSeconds - lostSeconds)).toBeLessThan(0.002);
		expect(parts.map((part) => part.startSeconds - desk)).toEqual([expect.closeTo(5, 2), expect.closeTo(5.4, 2)]);
		expect(at.get('desk')!.parts).toEqual([]);
		expect(at.get('wide')!.startSeconds - desk).toBeCloseTo(3, 2);
	});

	it('finds in one channel what the mix hides', async () => {
		const near = record(scene, 20, 120, 0, level * 0.1, 41);
		// The other channel carries another conversation, far louder.
		const loud = speechLike(120, 77).map((x) => 8 * x);
		const clips = [
			clip('desk', 'desk', record(scene, 0, 290, 0, level * 0.05, 2)),
			clip('poly', 'poly', near, { channels: 2, sounds: [loud, near] })
		];
		const result = await lineUp(clips);
		expect(placedBy(clips, result).get('poly')?.startSeconds).toBeCloseTo(20, 2);
	});

	it('lays takes performed to one track over each other', async () => {
		const track = speechLike(100, 51);
		const take = (from: number, seconds: number, seed: number) => {
			const own = speechLike(seconds, seed).map((x) => 0.4 * x);
			return record(track, from, seconds, 15, level * 0.1, seed).map((x, i) => x + own[i]!);
		};
		const clips = [
			clip('track', 'track', track),
			clip('take-1', 'cam', take(2, 80, 61), asCamera),
			clip('take-2', 'cam', take(5, 70, 62), asCamera),
			clip('take-3', 'cam', take(30, 60, 63), asCamera)
		];
		const result = await lineUp(clips);
		expect(result.strays).toEqual([]);
		const at = placedBy(clips, result);
		const zero = at.get('track')!.startSeconds;
		expect(['take-1', 'take-2', 'take-3'].map((id) => at.get(id)!.startSeconds - zero)).toEqual([
			expect.closeTo(2, 2),
			expect.closeTo(5, 2),
			expect.closeTo(30, 2)
		]);
	});

	it('adds later clips without moving what is placed or locked', async () => {
		const fixed = (startSeconds: number, ratePpm: number) => ({ fixed: { lineUp: 'morning', startSeconds, ratePpm } });
		const clips = [
			clip('desk', 'desk', record(scene, 0, 290, 0, level * 0.05, 2), fixed(100, 0)),
			// Put by hand to a place 30 ms off: it must stay there.
			clip('wide', 'wide', record(scene, 7.25, 270, 62, level, 3), fixed(107.28, 62)),
			clip('late', 'late', record(scene, 60, 100, -30, level, 71)),
			clip('later', 'wide', record(scene, 280, 15, 62, level * 0.1, 72))
		];
		const result = await lineUp(clips);
		const at = placedBy(clips, result);
		expect(at.get('desk')!.startSeconds).toBeCloseTo(100, 6);
		expect(at.get('wide')!.startSeconds).toBeCloseTo(107.28, 6);
		expect(Math.abs(at.get('late')!.startSeconds - 160)).toBeLessThan(0.02);
		expect(at.get('later')!.startSeconds).toBeCloseTo(380, 2);
	});

	it('joins what follows on to the sample', async () => {
		const take = record(scene, 10, 240, 40, level * 0.2, 81);
		const cut = Math.round(130.25 * RATE);
		const clips = [
			clip('desk', 'desk', record(scene, 0, 290, 0, level * 0.05, 2)),
			clip('take-1', 'take', take.slice(0, cut)),
			clip('take-2', 'take', take.slice(cut))
		];
		const at = placedBy(clips, await lineUp(clips, { followers: [{ a: 1, b: 2 }] }));
		const [first, second] = [at.get('take-1')!, at.get('take-2')!];
		expect(second.startSeconds - first.startSeconds).toBeCloseTo(130.25 * (1 + first.ratePpm * 1e-6), 6);
	});

	it('joins files that repeat samples at their seam, and leaves apart those that lost some', async () => {
		const take = record(scene, 10, 240, 40, level * 0.2, 82);
		const cut = 130 * RATE;
		const desk = clip('desk', 'desk', record(scene, 0, 290, 0, level * 0.05, 2));
		for (const [seam, tolerance] of [
			[-0.05, 6],
			[-0.8125, 6],
			[-2.5, 6],
			// What is missing is known as well as the others tell it.
			[0.35, 2]
		] as const) {
			const clips = [
				desk,
				clip('take-1', 'take', take.slice(0, cut), { sampleRate: RATE }),
				clip('take-2', 'take', take.slice(cut + Math.round(seam * RATE)), { sampleRate: RATE })
			];
			const at = placedBy(clips, await lineUp(clips, { followers: [{ a: 1, b: 2 }] }));
			const [first, second] = [at.get('take-1')!, at.get('take-2')!];
			const expected = (130 + seam) * (1 + first.ratePpm * 1e-6);
			expect(second.startSeconds - first.startSeconds, `${seam} s`).toBeCloseTo(expected, tolerance);
		}
	});

	it('places even the last second of a take by what it repeats', async () => {
		const take = record(scene, 10, 100, 40, level * 0.2, 83);
		const cut = 99 * RATE;
		const clips = [
			clip('desk', 'desk', record(scene, 0, 290, 0, level * 0.05, 2)),
			clip('take-1', 'take', take.slice(0, cut + 2400), { sampleRate: RATE }),
			clip('take-2', 'take', take.slice(cut), { sampleRate: RATE }),
			// Too short, and nothing of it is heard elsewhere in the take.
			clip('take-9', 'take', record(scene, 250, 1, 40, level * 0.2, 84), { sampleRate: RATE })
		];
		const followers = [
			{ a: 1, b: 2 },
			{ a: 2, b: 3 }
		];
		const result = await lineUp(clips, { followers });
		const at = placedBy(clips, result);
		const [first, last] = [at.get('take-1')!, at.get('take-2')!];
		expect(last.startSeconds - first.startSeconds).toBeCloseTo(99 * (1 + first.ratePpm * 1e-6), 6);
		expect(straysBy(clips, result)).toEqual([['take-9', 'too short to tell']]);
	});

	it('gives the same places to the last bit, in whatever order comparisons end', async () => {
		const clips = [
			clip('desk', 'desk', record(scene, 0, 290, 0, level * 0.05, 2)),
			...[5, 62, 121, 180, 240].map((from, index) =>
				clip(`cam-${index}`, 'cam', record(scene, from, 45, 40, level, 10 + index), asCamera)
			),
			...[20, 70, 150].map((from, index) =>
				clip(`far-${index}`, 'far', record(scene, from, 60, -30, level, 20 + index), asCamera)
			),
			clip('alone', 'alone', record(speechLike(50, 31), 0, 50, 0, level * 0.1, 32))
		];
		const first = await lineUp(clips, { atOnce: 1 });
		for (const [seed, atOnce] of [
			[1, 2],
			[2, 4],
			[3, 16]
		] as const)
			expect(await lineUp(clips, { atOnce }, inAnyOrder(seed))).toEqual(first);
	});

	it('says where a clip could lie that fits two places', async () => {
		const verse = [speechLike(40, 91), speechLike(40, 92), speechLike(40, 93)];
		const chorus = speechLike(30, 94);
		const song = new Float32Array(180 * RATE);
		[verse[0]!, chorus, verse[1]!, chorus, verse[2]!].reduce((at, part) => {
			song.set(part, at);
			return at + part.length;
		}, 0);
		const clips = [
			clip('song', 'song', song),
			clip('chorus', 'cam', record(chorus, 2, 20, 0, level * 0.1, 95), asCamera)
		];
		const result = await lineUp(clips);
		expect(straysBy(clips, result)).toEqual([
			['chorus', 'ambiguous'],
			['song', 'ambiguous']
		]);
		const { ambiguity } = result.strays.find(({ clip: index }) => index === 1)!;
		expect([...ambiguity!.lagsSeconds].sort((a, b) => a - b)).toEqual([expect.closeTo(42, 1), expect.closeTo(112, 1)]);
	});
});
