import { flicksToSeconds } from '../time/flicks';
import { placedEnd, type PlacedClip } from './clip';

/** Samples that a device lost while it recorded: its clip lies in two parts, the second one later. */
export interface LostSamples {
	readonly clipId: string;
	/** The part that goes on behind the loss. */
	readonly nextClipId: string;
	readonly lostSeconds: number;
	/** Where, in the time of the file. */
	readonly atSeconds: number;
}

/** Loss by loss, from clips that go on in the midst of a file in which another one ends. */
export function lostSamples(placed: readonly PlacedClip[]): readonly LostSamples[] {
	return placed.flatMap((next): LostSamples[] => {
		const [first] = next.parts;
		if (!first || first.offsetFlicks >= 0) return [];
		const before = placed.find((one) =>
			one.parts.some(
				(part) =>
					part.fileId === first.fileId && Math.abs(one.durationFlicks - part.offsetFlicks + first.offsetFlicks) < 1
			)
		);
		if (!before) return [];
		const lostFlicks = next.placement.startFlicks - placedEnd(before);
		return [
			{
				clipId: before.id,
				nextClipId: next.id,
				lostSeconds: flicksToSeconds(lostFlicks),
				atSeconds: flicksToSeconds(-first.offsetFlicks)
			}
		];
	});
}
