/** A filter of second order: `y[n] = b0 x[n] + b1 x[n-1] + b2 x[n-2] - a1 y[n-1] - a2 y[n-2]`. */
interface Biquad {
	readonly b0: number;
	readonly b1: number;
	readonly b2: number;
	readonly a1: number;
	readonly a2: number;
}

/** The two filters of the K weighting at 48 kHz. Source: ITU-R BS.1770-4, tables 1 and 2. */
const HEAD: Biquad = {
	b0: 1.53512485958697,
	b1: -2.69169618940638,
	b2: 1.19839281085285,
	a1: -1.69065929318241,
	a2: 0.73248077421585
};
const LOW_CUT: Biquad = { b0: 1, b1: -2, b2: 1, a1: -1.99004745483398, a2: 0.99007225036621 };

/** A block of 400 ms is four energies long; each begins one energy after the one before. */
const BLOCK_ENERGIES = 4;
/** Source of the offset and both gates: BS.1770-4, equations 2 to 7. */
const OFFSET_LUFS = -0.691;
const ABSOLUTE_GATE_LUFS = -70;
const RELATIVE_GATE_LU = -10;

/** Weighs a channel's sound as it comes and takes mean squares of it. */
export interface LoudnessMeter {
	/** @param samples at 48 kHz, a whole number of energies long @param energies gets the mean square of each of its equal parts */
	add(samples: Float32Array, energies: Float32Array): void;
}

export function createLoudnessMeter(): LoudnessMeter {
	// Delays of both filters, in transposed form.
	let [p1, p2, q1, q2] = [0, 0, 0, 0];
	return {
		add(samples, energies) {
			const length = samples.length / energies.length;
			let [s1, s2, t1, t2] = [p1, p2, q1, q2];
			for (let block = 0, at = 0; block < energies.length; block++) {
				let sum = 0;
				for (const end = at + length; at < end; at++) {
					const x = samples[at]!;
					const y = HEAD.b0 * x + s1;
					s1 = HEAD.b1 * x - HEAD.a1 * y + s2;
					s2 = HEAD.b2 * x - HEAD.a2 * y;
					const z = y + t1;
					t1 = LOW_CUT.b1 * y - LOW_CUT.a1 * z + t2;
					t2 = y - LOW_CUT.a2 * z;
					sum += z * z;
				}
				energies[block] = sum / length;
			}
			// Numbers too small for a float's full width would make silence slow.
			const isSilent = Math.abs(s1) + Math.abs(s2) + Math.abs(t1) + Math.abs(t2) < 1e-25;
			[p1, p2, q1, q2] = isSilent ? [0, 0, 0, 0] : [s1, s2, t1, t2];
		}
	};
}

export function lufsOf(energy: number): number {
	return OFFSET_LUFS + 10 * Math.log10(energy);
}

/**
 * Gated loudness of a programme. Source: ITU-R BS.1770-4, annex 1.
 * @param energies of 100 ms each, of one channel or summed over channels
 * @returns LUFS; nothing where all of it is under the absolute gate
 */
export function integratedLoudness(energies: ArrayLike<number>): number | undefined {
	const blocks = blockEnergies(energies);
	const audible = meanAbove(blocks, ABSOLUTE_GATE_LUFS);
	if (audible === undefined) return undefined;
	const gated = meanAbove(blocks, Math.max(ABSOLUTE_GATE_LUFS, lufsOf(audible) + RELATIVE_GATE_LU));
	return gated === undefined ? undefined : lufsOf(gated);
}

function blockEnergies(energies: ArrayLike<number>): Float64Array {
	const blocks = new Float64Array(Math.max(0, energies.length - BLOCK_ENERGIES + 1));
	for (let at = 0; at < blocks.length; at++)
		blocks[at] = (energies[at]! + energies[at + 1]! + energies[at + 2]! + energies[at + 3]!) / BLOCK_ENERGIES;
	return blocks;
}

function meanAbove(blocks: Float64Array, gateLufs: number): number | undefined {
	const gate = 10 ** ((gateLufs - OFFSET_LUFS) / 10);
	let [sum, count] = [0, 0];
	for (const energy of blocks) {
		if (energy <= gate) continue;
		sum += energy;
		count++;
	}
	return count === 0 ? undefined : sum / count;
}
