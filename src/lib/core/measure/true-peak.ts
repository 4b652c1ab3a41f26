/**
 * Phases of the filter that reads between samples, four to a sample. The third and fourth are the second and first
 * backwards. Source: ITU-R BS.1770-4, annex 2, table of coefficients.
 */
const FIRST = [
	0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625, 0.97216796875,
	-0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125
];
const SECOND = [
	-0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625, 0.77978515625,
	-0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375
];
const TAPS = FIRST.length;
const PHASES = [FIRST, SECOND, [...SECOND].reverse(), [...FIRST].reverse()].map((taps) => Float64Array.from(taps));

/** What lies between samples exceeds the greatest of them by no more than this, the sum of a phase's magnitudes. */
const GREATEST_GAIN = Math.max(...PHASES.map((taps) => taps.reduce((sum, tap) => sum + Math.abs(tap), 0)));

/** Samples before and after a stretch that are read with it. */
export const TRUE_PEAK_REACH = TAPS;

/**
 * Greatest magnitude of a stretch at four times its rate. Only where samples are large enough that something greater may
 * lie between them is looked at.
 * @param samples with `TRUE_PEAK_REACH` more on both sides of `[from, to)`
 */
export function truePeak(samples: Float32Array, from: number, to: number): number {
	let sample = 0;
	for (let i = from; i < to; i++) {
		const magnitude = Math.abs(samples[i]!);
		if (magnitude > sample) sample = magnitude;
	}
	if (sample === 0) return 0;
	let peak = sample;
	const enough = sample / GREATEST_GAIN;
	const half = TAPS / 2;
	let looked = from;
	for (let i = from; i < to; i++) {
		if (Math.abs(samples[i]!) < enough) continue;
		// All places that this sample has a part in.
		const until = Math.min(to, i + half);
		for (let at = Math.max(looked, i - half); at < until; at++) {
			const between = greatestAbout(samples, at);
			if (between > peak) peak = between;
		}
		looked = Math.max(looked, until);
	}
	return peak;
}

function greatestAbout(samples: Float32Array, at: number): number {
	let greatest = 0;
	const first = at - TAPS / 2;
	for (const taps of PHASES) {
		let sum = 0;
		for (let tap = 0; tap < TAPS; tap++) sum += taps[tap]! * samples[first + TAPS - tap]!;
		const magnitude = Math.abs(sum);
		if (magnitude > greatest) greatest = magnitude;
	}
	return greatest;
}
