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
/**
 * What a jump costs. None can be made, and all is read at the first need; a program opens the file again, so that shorter
 * sounds are read as a whole and short gaps along with what lies about them; or the file is just read elsewhere.
 */
export type Jumping = 'never' | 'costly' | 'free';

const LEAST_JUMP_BLOCKS = 5;
const WORTH_JUMPING_SECONDS = 1200;

/**
 * @param seconds length of the sound
 * @param read may give more than there is; what lies beyond the end of the sound is left out
 */
export function openLazySound(seconds: number, read: StretchReader, jumping: Jumping): LazySound {
	const length = Math.max(0, Math.floor(seconds * ANALYSIS_SAMPLE_RATE));
	// Pages of shared memory that nothing was written to take no room.
	const samples = new Int16Array(new SharedArrayBuffer(2 * length));
	const blocks = Math.max(1, Math.ceil(seconds / BLOCK_SECONDS));
	const reading = new Array<Promise<void> | undefined>(blocks);

	const isWhole = jumping === 'never' || (jumping === 'costly' && seconds <= WORTH_JUMPING_SECONDS);

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
			const missing = [...wanted].filter((block) => !reading[block]).sort((x, y) => x - y);
			const runs = runsOf(missing, jumping === 'free' ? 0 : LEAST_JUMP_BLOCKS);
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

/** Stretches of blocks. @param blocks in order @param leastJump gaps up to this are read along */
function runsOf(blocks: readonly number[], leastJump: number): readonly Run[] {
	const runs: { from: number; to: number }[] = [];
	for (const block of blocks) {
		const last = runs.at(-1);
		if (last && block - last.to <= leastJump) last.to = block + 1;
		else runs.push({ from: block, to: block + 1 });
	}
	return runs;
}
