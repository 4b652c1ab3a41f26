/**
 * Takes away what lies below a frequency: 12 dB an octave, 3 dB at the frequency itself (W3C, Audio EQ Cookbook, high-pass with
 * Q = 1/√2). Its state goes on from block to block.
 */
export class LowCut {
	private readonly b0: number;
	private readonly a1: number;
	private readonly a2: number;
	private z1 = 0;
	private z2 = 0;

	/** @param cutHz above 0 and below half of `sampleRate` @throws RangeError it is not */
	constructor(cutHz: number, sampleRate: number) {
		if (!(cutHz > 0 && cutHz < sampleRate / 2)) throw new RangeError(`No low cut at ${cutHz} Hz.`);
		const w = (2 * Math.PI * cutHz) / sampleRate;
		const alpha = Math.sin(w) / Math.SQRT2;
		const a0 = 1 + alpha;
		this.b0 = (1 + Math.cos(w)) / 2 / a0;
		this.a1 = (-2 * Math.cos(w)) / a0;
		this.a2 = (1 - alpha) / a0;
	}

	/** The next sample. Transposed direct form II. */
	next(x: number): number {
		const y = this.b0 * x + this.z1;
		this.z1 = -2 * this.b0 * x - this.a1 * y + this.z2;
		this.z2 = this.b0 * x - this.a2 * y;
		return y;
	}
}

/**
 * After so long what was before is forgotten: less than -120 dB of it is left of a cut at 20 Hz and more, whose slower pole falls
 * by 8.7 dB in 1/(2π·20·0.707) s.
 */
export const LOW_CUT_RUN_UP_SECONDS = 0.16;
