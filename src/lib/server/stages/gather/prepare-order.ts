import type { Watched } from '../../../contract/views';
import { PIECE_SECONDS } from '../../../core/limits/pieces';
import type { PlacedClip } from '../../../core/shoot/clip';
import { toTimeline } from '../../../core/shoot/placement';
import { secondsToFlicks } from '../../../core/time/flicks';
import { piecesWithin } from '../../media/pieces/piece-maker';
import type { PictureFile } from '../../media/pieces/picture-file';

/** What is prepared next, taken from what is left: first what an editor looks at. @returns nothing when nothing is left */
export function takeNextSound<File extends { readonly id: string }>(
	left: File[],
	watched: Watched | undefined
): File | undefined {
	const index = left.findIndex((file) => watched?.fileIds.includes(file.id));
	return left.splice(Math.max(0, index), 1)[0];
}

/** A piece of a small picture, and where its middle lies. */
export interface PieceTask {
	readonly fileId: string;
	readonly file: PictureFile;
	readonly index: number;
	readonly lineUpId: string;
	readonly flicks: number;
}

/** Pieces of all pictures that have a place on a line-up. */
export function piecesOnLineUps(
	clips: readonly PlacedClip[],
	files: ReadonlyMap<string, PictureFile>
): readonly PieceTask[] {
	return clips.flatMap((clip) =>
		clip.parts.flatMap((part) => {
			const file = files.get(part.fileId);
			if (!file || !part.picture) return [];
			const first = part.offsetFlicks + part.picture.startFlicks;
			const [from, to] = piecesWithin(file, 0, Infinity);
			return Array.from({ length: to - from }, (_, at): PieceTask => {
				const index = from + at;
				const middle = first + secondsToFlicks((index + 0.5) * PIECE_SECONDS);
				const { lineUpId } = clip.placement;
				return { fileId: part.fileId, file, index, lineUpId, flicks: toTimeline(clip.placement, middle) };
			});
		})
	);
}

/** What lies behind the playhead is wanted less. */
const BEHIND_COUNTS = 4;

/**
 * The piece that is made next, taken from what is left: the nearest to where the editor looks, so that all angles grow from
 * there side by side.
 */
export function takeNextPiece(left: PieceTask[], watched: Watched | undefined): PieceTask | undefined {
	const { lineUpId, flicks } = watched?.at ?? { lineUpId: left[0]?.lineUpId, flicks: -Infinity };
	let best = -1;
	let least = Infinity;
	for (const [index, piece] of left.entries()) {
		const ahead = flicks === -Infinity ? piece.flicks : piece.flicks - flicks;
		const far =
			(ahead < 0 && flicks !== -Infinity ? -ahead * BEHIND_COUNTS : ahead) + (piece.lineUpId === lineUpId ? 0 : 1e18);
		if (far >= least) continue;
		least = far;
		best = index;
	}
	return best < 0 ? undefined : left.splice(best, 1)[0];
}

/** Takes what follows a piece in its file without a gap. @param most pieces in all @returns the piece and those */
export function takeFollowing(left: PieceTask[], first: PieceTask, most: number): readonly PieceTask[] {
	const run = [first];
	while (run.length < most) {
		const at = left.findIndex(({ fileId, index }) => fileId === first.fileId && index === first.index + run.length);
		if (at < 0) break;
		run.push(...left.splice(at, 1));
	}
	return run;
}
