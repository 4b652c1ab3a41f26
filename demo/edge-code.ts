/**
 * The edge code: a row of small dark and light cells along the bottom edge of every picture of the demo shoot.
 * It holds the number of the camera file and the number of the picture, so that a test can read from a picture
 * alone what it shows.
 *
 * Cells, left to right: light, dark, 5 bits file, 13 bits picture, 4 check bits, light. Most significant bit first.
 */
export const EDGE_CELLS = 25;
const FILE_BITS = 5;
const PICTURE_BITS = 13;
const CHECK_BITS = 4;
const LIGHT = 150;
const DARK = 34;

export interface EdgeCode {
	readonly file: number;
	readonly picture: number;
}

/** Height of the row in a picture of that height, in picture lines. */
export function edgeRowHeight(height: number): number {
	return height / 40;
}

function checkOf(file: number, picture: number): number {
	const value = file * 8192 + picture;
	return (value ^ (value >> 4) ^ (value >> 8) ^ (value >> 12) ^ (value >> 16) ^ 0b1010) & 0b1111;
}

/** The grey level, 0 to 255, of each cell. */
export function edgeCells({ file, picture }: EdgeCode): readonly number[] {
	const bits: number[] = [1, 0];
	const push = (value: number, count: number) => {
		for (let bit = count - 1; bit >= 0; bit--) bits.push((value >> bit) & 1);
	};
	push(file, FILE_BITS);
	push(picture, PICTURE_BITS);
	push(checkOf(file, picture), CHECK_BITS);
	bits.push(1);
	return bits.map((bit) => (bit ? LIGHT : DARK));
}

/**
 * Reads the code from a picture.
 * @param lumaAt brightness at a point, x and y from 0 to 1 over the picture
 * @param height of the picture in lines
 * @returns nothing when the row is not there or its check bits do not fit
 */
export function readEdgeCode(lumaAt: (x: number, y: number) => number, height: number): EdgeCode | undefined {
	const y = 1 - edgeRowHeight(height) / height / 2;
	const levels: number[] = [];
	for (let cell = 0; cell < EDGE_CELLS; cell++) levels.push(lumaAt((cell + 0.5) / EDGE_CELLS, y));
	const threshold = (levels[0]! + levels[1]!) / 2;
	if (levels[0]! - levels[1]! < 25 || levels[EDGE_CELLS - 1]! < threshold) return undefined;
	const bits = levels.map((level) => (level > threshold ? 1 : 0));
	const take = (from: number, count: number) =>
		bits.slice(from, from + count).reduce<number>((sum, bit) => sum * 2 + bit, 0);
	const file = take(2, FILE_BITS);
	const picture = take(2 + FILE_BITS, PICTURE_BITS);
	const check = take(2 + FILE_BITS + PICTURE_BITS, CHECK_BITS);
	return check === checkOf(file, picture) ? { file, picture } : undefined;
}
