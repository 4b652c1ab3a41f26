import { describe, expect, it } from 'vitest';
import type { DirectMoment, PairEvidence } from '../../match/fit/pair-evidence';
import { type LinkedPair, type SolvableClip, solveGroup, type System } from './system';

const HOUR = 3600;

function clip(id: string, device: string, durationSeconds = HOUR): SolvableClip {
	return { id, device, hasPicture: false, channels: 1, fromSeconds: 0, durationSeconds };
}

/** Evidence that b lies so much later than a, with a drift; times of what is no matter here are left at nothing. */
function evidence(
	lagSeconds: number,
	slope: number,
	more: Partial<PairEvidence> = {},
	overlapSeconds = HOUR
): PairEvidence {
	return {
		lagSeconds,
		overlapSeconds,
		windows: 44,
		inliers: 40,
		residualSeconds: 0.2e-3,
		strength: 30,
		height: 8,
		bends: false,
		moments: Array.from({ length: 40 }, (_, k) => {
			const aSeconds = lagSeconds + (k / 39) * (overlapSeconds - lagSeconds);
			return { aSeconds, bSeconds: (aSeconds - lagSeconds) * (1 + slope), weight: 1 };
		}),
		...more
	};
}

function system(group: readonly SolvableClip[], referenceDevice: string): System {
	return { group, referenceDevice, ties: [], knownClocks: new Map() };
}

const heardAt = (aSeconds: number, bSeconds: number): { readonly direct: DirectMoment } => ({
	direct: { aSeconds, bSeconds, deviationSeconds: 0.1e-3 }
});
const whole = (differencePpm: number) => ({ rate: { differencePpm, deviationPpm: 0.05, isWhole: true } });

describe('the system', () => {
	it('lets no weaker evidence pull exact rates away: a pair of cameras that agrees on an echo’s line', () => {
		const group = [clip('rec', 'rec'), clip('one', 'one'), clip('other', 'other')];
		const pairs: readonly LinkedPair[] = [
			{ a: 'rec', b: 'one', evidence: evidence(2, 100e-6, { ...whole(100), ...heardAt(1800, 1798 * (1 + 100e-6)) }) },
			{ a: 'rec', b: 'other', evidence: evidence(3, -80e-6, { ...whole(-80), ...heardAt(1800, 1797 * (1 - 80e-6)) }) },
			// Without a rate of its own; its line leans by 20 ppm and lies 12 ms off.
			{ a: 'one', b: 'other', evidence: evidence(1.012, -180e-6 - 20e-6) }
		];
		const solved = solveGroup(system(group, 'rec'), pairs);
		expect(Math.abs(solved.get('one')!.ratePpm + 100)).toBeLessThan(0.1);
		expect(Math.abs(solved.get('other')!.ratePpm - 80)).toBeLessThan(0.1);
		for (const [id, start] of [
			['one', 2],
			['other', 3]
		] as const)
			expect(Math.abs(solved.get(id)!.startSeconds - solved.get('rec')!.startSeconds - start)).toBeLessThan(1.5e-3);
	});

	it('takes the direct sound before what single windows found', () => {
		const group = [clip('track', 'track', 100), clip('cam', 'cam', 100), clip('far', 'far', 100)];
		const solved = solveGroup(system(group, 'track'), [
			{ a: 'track', b: 'cam', evidence: evidence(4.011, 0, heardAt(50, 46), 100) },
			{ a: 'track', b: 'far', evidence: evidence(5, 0, heardAt(50, 45), 100) },
			{ a: 'cam', b: 'far', evidence: evidence(1.017, 0, {}, 100) }
		]);
		for (const [id, start] of [
			['cam', 4],
			['far', 5]
		] as const)
			expect(Math.abs(solved.get(id)!.startSeconds - solved.get('track')!.startSeconds - start)).toBeLessThan(5e-5);
	});

	it('places clips of one room alike, though nobody knows which of its arrivals is the direct sound', () => {
		const cams = ['cam-1', 'cam-2', 'cam-3'].map((id) => clip(id, 'cam', 40));
		const group = [clip('rec', 'rec', 300), ...cams];
		const starts = [10, 110, 220];
		const pairs = starts.map((start, index): LinkedPair => {
			// The pattern was laid over the others to 10 µs; its direct sound lies 6 ms from where it was supposed.
			const direct: DirectMoment = {
				aSeconds: start + 20,
				bSeconds: 20 + 6e-3 + index * 1e-5,
				deviationSeconds: 0.1e-3,
				room: { id: 'rec cam', isTurned: false }
			};
			const echo = [0.013, -0.002, 0.021][index]!;
			return { a: 'rec', b: cams[index]!.id, evidence: evidence(start - echo, 0, { direct }, 40) };
		});
		const solved = solveGroup(system(group, 'rec'), pairs);
		const off = starts.map(
			(start, index) => solved.get(cams[index]!.id)!.startSeconds - solved.get('rec')!.startSeconds - start
		);
		for (const one of off) expect(Math.abs(one - off[0]!)).toBeLessThan(5e-5);
		expect(Math.abs(solved.get('cam-1')!.ratePpm)).toBeLessThan(0.5);
	});
});
