import { describe, expect, it } from 'vitest';
import { TRUE_PEAK_REACH, truePeak } from './true-peak';

const RATE = 48_000;

/** The true peak of a tone, in dBTP. @param phaseDegrees where its first sample stands */
function tonePeak(hz: number, amplitude: number, phaseDegrees: number): number {
	const samples = Float32Array.from(
		{ length: RATE },
		(_, i) => amplitude * Math.sin((2 * Math.PI * hz * i) / RATE + (Math.PI * phaseDegrees) / 180)
	);
	return 20 * Math.log10(truePeak(samples, TRUE_PEAK_REACH, samples.length - TRUE_PEAK_REACH));
}

// EBU Tech 3341 (2016), table 1, test cases 15 to 19: tones whose samples miss their tops; +0.2 / -0.4 dB.
describe('true peak of the signals of EBU Tech 3341', () => {
	it.each([
		['15', 12_000, 0.5, 0, -6],
		['16', 12_000, 0.5, 45, -6],
		['17', 8_000, 0.5, 60, -6],
		['18', 6_000, 0.5, 67.5, -6],
		['19', 12_000, 1.41, 45, 3]
	] as const)('test case %s', (_, hz, amplitude, phase, expected) => {
		const peak = tonePeak(hz, amplitude, phase);
		expect(peak).toBeLessThanOrEqual(expected + 0.2);
		expect(peak).toBeGreaterThanOrEqual(expected - 0.4);
	});
});

it('finds what every place of a stretch would give', () => {
	let state = 1;
	const noise = Float32Array.from({ length: 4000 }, () => {
		state = (state * 16807) % 2147483647;
		return (state / 2147483647 - 0.5) * (state % 7 === 0 ? 1 : 0.3);
	});
	const parts = Array.from({ length: 20 }, (_, i) => truePeak(noise, 200 + i * 180, 200 + (i + 1) * 180));
	// The whole is the greatest of its parts: looking only where it may be great leaves nothing out.
	expect(truePeak(noise, 200, 3800)).toBeCloseTo(Math.max(...parts), 6);
});

it('is silent in silence', () => {
	expect(truePeak(new Float32Array(200), 50, 150)).toBe(0);
});
