import { ANALYSIS_SAMPLE_RATE } from '../../core/features/band-features';
import type { Span } from '../../core/match/windows/listening-windows';

/** A sound of which only what is asked for is read. */
export interface LazySound {
	/** 16-bit mono at `ANALYSIS_SAMPLE_RATE` in shared memory; zero where nothing has been read yet. */
	readonly samples: Int16Array;
	/** Reads what is missing of some stretches. @throws when it cannot be read */
	need(...stretches: readonly Span[]): Promise<void>;
}

/** Reads stretches of whole seconds, all at one go: one sound for each. */
export type StretchReader = (stretches: readonly Span[]) => Promise<readonly Int16Array[]>;

/** Whole seconds: there a sample of the analysis meets one of every other rate. */
const BLOCK_SECONDS = 4;
/** A gap as short as this between two stretches costs less to read than to jump over. */
const WORTH_A_JUMP_BLOCKS = 5;
/** Shorter sounds are read as a whole: opening a file again costs more. */
const WORTH_JUMPING_SECONDS = 1200;

/**
 * @param seconds length of the sound
 * @param read may give more than there is; what lies beyond the end of the sound is left out
 * @param isSeekable whether a stretch can be read by itself; otherwise all is read at the first need
 */
export function openLazySound(seconds: number, read: StretchReader, isSeekable: boolean): LazySound {
	const length = Math.max(0, Math.floor(seconds * ANALYSIS_SAMPLE_RATE));
	// Pages of shared memory that nothing was written to take no room.
	const samples = new Int16Array(new SharedArrayBuffer(2 * length));
	const blocks = Math.max(1, Math.ceil(seconds / BLOCK_SECONDS));
	const reading = new Array<Promise<void> | undefined>(blocks);

	const isWhole = !isSeekable || seconds <= WORTH_JUMPING_SECONDS;

	async function readRuns(runs: readonly Run[]): Promise<void> {
		const parts = await read(
			runs.map(({ from, to }) => ({
				fromSeconds: from * BLOCK_SECONDS,
				toSeconds: Math.min(to * BLOCK_SECONDS, Math.ceil(seconds))
			}))
		);
		for (const [index, { from }] of runs.entries()) {
			const at = from * BLOCK_SECONDS * ANALYSIS_SAMPLE_RATE;
			samples.set(parts[index]!.subarray(0, Math.max(0, length - at)), at);
		}
	}

	return {
		samples,
		async need(...stretches) {
			const wanted = new Set<number>();
			for (const { fromSeconds, toSeconds } of isWhole ? [{ fromSeconds: 0, toSeconds: seconds }] : stretches) {
				const end = Math.min(blocks, Math.ceil(toSeconds / BLOCK_SECONDS));
				for (let block = Math.max(0, Math.floor(fromSeconds / BLOCK_SECONDS)); block < end; block++) wanted.add(block);
			}
			const runs = runsOf([...wanted].filter((block) => !reading[block]).sort((x, y) => x - y));
			if (runs.length > 0) {
				const work = readRuns(runs);
				for (const { from, to } of runs) for (let block = from; block < to; block++) reading[block] ??= work;
			}
			await Promise.all([...new Set([...wanted].flatMap((block) => reading[block] ?? []))]);
		}
	};
}

interface Run {
	readonly from: number;
	readonly to: number;
}

/** Stretches of blocks; short gaps between them are read along. @param blocks in order */
function runsOf(blocks: readonly number[]): readonly Run[] {
	const runs: { from: number; to: number }[] = [];
	for (const block of blocks) {
		const last = runs.at(-1);
		if (last && block - last.to <= WORTH_A_JUMP_BLOCKS) last.to = block + 1;
		else runs.push({ from: block, to: block + 1 });
	}
	return runs;
}
