/**
 * Length of the pieces that small pictures are made in, in seconds from a file's first picture. Starting a decoder and
 * finding the key picture before a piece cost about half a second of it; where none is yet the editor waits for the middle of one.
 */
export const PIECE_SECONDS = 4;

/** Files count time in microseconds or coarser: a picture at the very edge of a piece may be told a little earlier. */
export const PIECE_EDGE_SECONDS = 0.0002;

/** Which piece holds a time since the first picture. */
export function pieceAt(seconds: number): number {
	return Math.max(0, Math.floor((seconds + PIECE_EDGE_SECONDS) / PIECE_SECONDS));
}

/** Lines of small pictures: for the picture on air and large angles, and for many at once. */
export const PIECE_LINES = [360, 160] as const;
export type PieceLines = (typeof PIECE_LINES)[number];

/** How many pieces a picture of that length has. */
export function pieceCount(seconds: number): number {
	return Math.max(0, Math.ceil(seconds / PIECE_SECONDS));
}
