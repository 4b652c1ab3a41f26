import type { Watched } from '../../../contract/views';
import { PIECE_SECONDS, pieceCount } from '../../../core/limits/pieces';
import type { PlacedClip } from '../../../core/shoot/clip';
import { toTimeline } from '../../../core/shoot/placement';
import { secondsToFlicks } from '../../../core/time/flicks';
import { type PictureFile, pictureSeconds } from '../../media/pieces/picture-file';

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
			return Array.from({ length: pieceCount(pictureSeconds(file)) }, (_, index): PieceTask => {
				const middle = first + secondsToFlicks((index + 0.5) * PIECE_SECONDS);
				const { lineUpId } = clip.placement;
				return { fileId: part.fileId, file, index, lineUpId, flicks: toTimeline(clip.placement, middle) };
			});
		})
	);
}

/** What lies behind the playhead is wanted less. */
const BEHIND_COUNTS = 4;
/** Behind all of the line-up that is looked at. */
const OF_ANOTHER_LINE_UP = 1e18;

/**
 * The piece that is made next, taken from what is left: the nearest to where the editor looks, so that all angles grow from
 * there side by side.
 */
export function takeNextPiece(left: PieceTask[], watched: Watched | undefined): PieceTask | undefined {
	const at = watched?.at;
	const distance = ({ lineUpId, flicks }: PieceTask) => {
		if (!at) return flicks;
		const ahead = flicks - at.flicks;
		return (ahead < 0 ? -ahead * BEHIND_COUNTS : ahead) + (lineUpId === at.lineUpId ? 0 : OF_ANOTHER_LINE_UP);
	};
	let best = -1;
	let least = Infinity;
	for (const [index, piece] of left.entries()) {
		const far = distance(piece);
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
