/** A rise is looked for in steps of this. */
const STEP_SECONDS = 0.0005;
/** What was before an attack is heard over so much. */
const BEFORE_SECONDS = 0.008;
/** The attack begins where the sound first reaches this share of the step that rises most. */
const ONSET_SHARE = 0.25;

/**
 * The beginning of the sharpest rise near a moment: where a hand-set mark is meant to be.
 * @param samples one channel, any scale @param sampleRate of them
 * @returns index of the attack's first sample; nothing where nothing rises
 */
export function nearestAttack(samples: ArrayLike<number>, sampleRate: number): number | undefined {
	const step = Math.max(1, Math.round(STEP_SECONDS * sampleRate));
	const steps = Math.floor(samples.length / step);
	const before = Math.round(BEFORE_SECONDS / STEP_SECONDS);
	const power = new Float64Array(steps);
	for (let i = 0; i < steps; i++) {
		let sum = 0;
		// First difference: attacks are bright, rumble is not.
		for (let k = i * step + (i === 0 ? 1 : 0); k < (i + 1) * step; k++) sum += (samples[k]! - samples[k - 1]!) ** 2;
		power[i] = sum;
	}
	let best = -1;
	let rise = 0;
	let sum = 0;
	for (let i = 0; i < steps; i++) {
		if (i >= before) {
			const ratio = power[i]! / (sum / before + 1e-9 * (power[i]! + 1));
			const worth = Math.sqrt(power[i]!) * Math.log(Math.max(1, ratio));
			if (worth > rise) [best, rise] = [i, worth];
			sum -= power[i - before]!;
		}
		sum += power[i]!;
	}
	if (best < 0) return undefined;
	return firstLoud(samples, best * step, (best + 1) * step);
}

/** Within the step that rises most, and the one before it, the first sample that is loud. */
function firstLoud(samples: ArrayLike<number>, from: number, to: number): number {
	const begin = Math.max(1, from - (to - from));
	let most = 0;
	for (let k = from; k < to; k++) most = Math.max(most, Math.abs(samples[k]! - samples[k - 1]!));
	for (let k = begin; k < to; k++) if (Math.abs(samples[k]! - samples[k - 1]!) >= ONSET_SHARE * most) return k;
	return from;
}
