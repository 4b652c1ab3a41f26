/** Peaks of sound at several scales: least and greatest value of each block, 16-bit, blocks growing by four. */
export const FIRST_PEAK_BLOCK = 256;
export const PEAK_BLOCK_GROWTH = 4;
/** No further level is made once one has this few blocks. */
const SMALLEST_LEVEL_BLOCKS = 256;

export interface PeakLevel {
	readonly blockSamples: number;
	readonly blocks: number;
	/** Place of the level in the peak file, in 16-bit numbers; two (least, greatest) a block. */
	readonly at: number;
}

/** The levels a sound of that many samples has, finest first: the layout of a peak file. */
export function peakLevels(samples: number): readonly PeakLevel[] {
	const levels: PeakLevel[] = [];
	let at = 0;
	for (let blockSamples = FIRST_PEAK_BLOCK; ; blockSamples *= PEAK_BLOCK_GROWTH) {
		const blocks = Math.ceil(samples / blockSamples);
		levels.push({ blockSamples, blocks, at });
		at += 2 * blocks;
		if (blocks <= SMALLEST_LEVEL_BLOCKS) return levels;
	}
}

/** Gathers peaks from interleaved 16-bit sound as it comes, however much that is; all channels share one envelope. */
export interface PeakBuilder {
	add(interleaved: Int16Array): void;
	/** Samples a channel that have come, and the peak file of them. */
	finish(): { readonly samples: number; readonly peaks: Int16Array };
}

/** Room for two minutes; it doubles as more comes. */
const FIRST_ROOM_BLOCKS = 2 ** 15;

export function createPeakBuilder(channels: number): PeakBuilder {
	let finest = new Int16Array(2 * FIRST_ROOM_BLOCKS);
	let channel = 0;
	let least = 0;
	let greatest = 0;
	let inBlock = 0;
	let block = 0;
	const flush = () => {
		if (2 * block === finest.length) {
			const larger = new Int16Array(2 * finest.length);
			larger.set(finest);
			finest = larger;
		}
		finest[2 * block] = least;
		finest[2 * block + 1] = greatest;
		block++;
		inBlock = 0;
	};
	return {
		add(interleaved) {
			for (let i = 0; i < interleaved.length; i++) {
				const value = interleaved[i]!;
				if (channel === 0 && inBlock === 0) {
					least = value;
					greatest = value;
				} else if (value < least) least = value;
				else if (value > greatest) greatest = value;
				if (++channel < channels) continue;
				channel = 0;
				if (++inBlock === FIRST_PEAK_BLOCK) flush();
			}
		},
		finish() {
			const samples = block * FIRST_PEAK_BLOCK + inBlock;
			if (inBlock > 0) flush();
			const levels = peakLevels(samples);
			const last = levels.at(-1)!;
			const peaks = new Int16Array(last.at + 2 * last.blocks);
			peaks.set(finest.subarray(0, 2 * block));
			for (let level = 1; level < levels.length; level++) coarser(peaks, levels[level - 1]!, levels[level]!);
			return { samples, peaks };
		}
	};
}

function coarser(out: Int16Array, fine: PeakLevel, coarse: PeakLevel): void {
	for (let block = 0; block < coarse.blocks; block++) {
		const from = block * PEAK_BLOCK_GROWTH;
		const to = Math.min(fine.blocks, from + PEAK_BLOCK_GROWTH);
		let least = out[fine.at + 2 * from]!;
		let greatest = out[fine.at + 2 * from + 1]!;
		for (let i = from + 1; i < to; i++) {
			least = Math.min(least, out[fine.at + 2 * i]!);
			greatest = Math.max(greatest, out[fine.at + 2 * i + 1]!);
		}
		out[coarse.at + 2 * block] = least;
		out[coarse.at + 2 * block + 1] = greatest;
	}
}
