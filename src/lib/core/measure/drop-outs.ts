import { DROP_OUT_DB, LONGEST_DROP_OUT_SECONDS, MAX_DROP_OUTS_A_MINUTE, QUIET_SHARE } from '../limits/measure';
import { shareOfBytes } from '../signal/byte-shares';
import type { ChannelReadings } from './channel-readings';
import type { FrameRange } from './clipping';
import { BLOCKS_A_SECOND, FRAMES_A_SECOND } from './readings';

const STEPS_A_DECIBEL = 2;

/**
 * Moments at which sound was away: shorter than a breath, far under what the channel has in its own quiet, with sound
 * before and after. A channel that a gate switches has none.
 */
export function dropOuts({ levels, frames, seconds }: ChannelReadings): readonly FrameRange[] {
	const quiet = shareOfBytes(levels, QUIET_SHARE);
	const least = Math.max(1, quiet - DROP_OUT_DB * STEPS_A_DECIBEL);
	const longest = LONGEST_DROP_OUT_SECONDS * BLOCKS_A_SECOND;
	const found: FrameRange[] = [];
	const frameOf = (block: number) => {
		const second = Math.min(seconds - 1, Math.floor(block / BLOCKS_A_SECOND));
		return frames[second]! + ((block - second * BLOCKS_A_SECOND) * FRAMES_A_SECOND) / BLOCKS_A_SECOND;
	};
	for (let from = 1; from < levels.length; from++) {
		if (levels[from]! >= least || levels[from - 1]! < quiet) continue;
		let to = from;
		while (to < levels.length && levels[to]! < least) to++;
		const follows = frameOf(to) - frameOf(from);
		const isOneStretch = follows <= ((to - from) * FRAMES_A_SECOND) / BLOCKS_A_SECOND + 1;
		if (to < levels.length && to - from <= longest && isOneStretch)
			found.push({ fromFrame: frameOf(from), toFrame: frameOf(to) });
		from = to;
	}
	return found.length > Math.max(MAX_DROP_OUTS_A_MINUTE, (MAX_DROP_OUTS_A_MINUTE * seconds) / 60) ? [] : found;
}
