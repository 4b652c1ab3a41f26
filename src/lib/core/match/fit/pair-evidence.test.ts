import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../../demo/random';
import { ANALYSIS_SAMPLE_RATE } from '../../features/band-features';
import { plainFftProvider } from '../../signal/fft';
import { createWindowCorrelator } from '../windows/window-correlation';
import { straight } from '../windows/lag-curve';
import { pairEvidence, skimmedEvidence } from './pair-evidence';
import { laidAbout } from './window-fit';

const rate = ANALYSIS_SAMPLE_RATE;
const correlate = createWindowCorrelator(plainFftProvider());

/** Noise that comes and goes like syllables. */
function syllables(seconds: number, seed: number): Int16Array {
	const random = seededRandom(seed);
	let level = 0;
	return Int16Array.from({ length: seconds * rate }, (_, i) => {
		if (i % 1600 === 0) level = random() < 0.5 ? 200 : 200 + 6000 * random();
		return level * (random() + random() - 1);
	});
}

/** What another device has of it: later, on another clock, with a leap of the lag somewhere. */
function heard(
	sound: Int16Array,
	{ startSeconds, ratePpm, leap }: { startSeconds: number; ratePpm: number; leap?: readonly [number, number] },
	seed: number
): Int16Array {
	const random = seededRandom(seed);
	const length = sound.length - (startSeconds + 2) * rate;
	return Int16Array.from({ length }, (_, i) => {
		const lost = leap && i / rate > leap[0] ? leap[1] * rate : 0;
		const at = Math.round(startSeconds * rate + i * (1 + ratePpm * 1e-6) + lost);
		return (sound[at] ?? 0) + 300 * (random() - 0.5);
	});
}

describe('a longer overlap, skimmed', () => {
	const a = syllables(420, 1);
	const place = { lagSeconds: 5.02, aroundSeconds: 100, gridSeconds: 0 };

	it('says of clear sound what all of it says', () => {
		const b = heard(a, { startSeconds: 5, ratePpm: 60 }, 2);
		const [skimmed, whole] = [skimmedEvidence(a, b, place, correlate)!, pairEvidence(a, b, place, correlate)!];
		expect(skimmed.isSkimmed).toBe(true);
		expect(skimmed.rate!.differencePpm).toBeCloseTo(-60, 0);
		expect(Math.abs(skimmed.rate!.differencePpm - whole.rate!.differencePpm)).toBeLessThan(0.5);
		expect(Math.abs(skimmed.lagSeconds - whole.lagSeconds)).toBeLessThan(0.1e-3);
		expect(skimmed.strength).toBeGreaterThan(18);
	}, 60_000);

	it('says so quickly where lag and drift are known', () => {
		const b = heard(a, { startSeconds: 5, ratePpm: -40 }, 3);
		const known = { ...place, lagSeconds: 5, aroundSeconds: 5, errorSeconds: 0.05, predictedSlope: 40e-6 };
		const quick = skimmedEvidence(a, b, known, correlate)!;
		// One window in each span: more were looked at otherwise.
		expect(quick.windows).toBeLessThanOrEqual(8);
		expect(quick.rate).toBeUndefined();
		expect(quick.lagSeconds + 207.5 * 40e-6).toBeCloseTo(5, 3);
	}, 60_000);

	it('says nothing where a leap of the lag, noise or another sound wants a closer look', () => {
		const leaping = heard(a, { startSeconds: 5, ratePpm: 60, leap: [330, 0.05] }, 4);
		expect(skimmedEvidence(a, leaping, place, correlate)).toBeUndefined();
		expect(skimmedEvidence(a, syllables(400, 9), place, correlate)).toBeUndefined();
		const random = seededRandom(6);
		const faint = heard(a, { startSeconds: 5, ratePpm: 60 }, 5).map((value) => value / 30 + 3000 * (random() - 0.5));
		expect(skimmedEvidence(a, faint, place, correlate)).toBeUndefined();
		expect(pairEvidence(a, faint, place, correlate)).toBeDefined();
	}, 60_000);

	it('leaves shorter overlaps and parts of clips alone', () => {
		const b = heard(a, { startSeconds: 5, ratePpm: 60 }, 2);
		expect(skimmedEvidence(a.subarray(0, 200 * rate), b, place, correlate)).toBeUndefined();
		const limits = { a: { fromSeconds: 0, toSeconds: 400 } };
		expect(skimmedEvidence(a, b, { ...place, limits }, correlate)).toBeUndefined();
	}, 60_000);
});

describe('windows laid about another course', () => {
	const line = (interceptSeconds: number, slope: number) => straight({ middleSeconds: 0, interceptSeconds, slope });
	const rows = [0, 100].map((aSeconds) => ({
		centre: aSeconds,
		aSeconds,
		bSeconds: aSeconds,
		correlation: Float32Array.from({ length: 2001 }, (_, i) => i)
	}));

	it('keep each lag where it is, to the same reach', () => {
		const laid = laidAbout(line(0.01, 1e-4), rows, line(0, 0));
		// 10 ms and 20 ms are 80 and 160 samples; the middle was 1000.
		expect(laid.map(({ correlation }) => correlation[(correlation.length - 1) / 2])).toEqual([1080, 1160]);
		expect(laid.map(({ correlation }) => correlation.length)).toEqual([1681, 1681]);
		expect(laid.map(({ bSeconds }) => bSeconds)).toEqual([0.01, 100.02]);
	});

	it('are none where nothing would be left of them', () => {
		expect(laidAbout(line(0.11, 0), rows, line(0, 0))).toEqual([]);
		expect(laidAbout(line(0, 5e-3), rows, line(0, 0))).toEqual([]);
	});
});
