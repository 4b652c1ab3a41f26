import { describe, expect, it } from 'vitest';
import { EDGE_CELLS, edgeCells, readEdgeCode } from './edge-code';

describe('the edge code', () => {
	const reader = (levels: readonly number[]) => readEdgeCode((x) => levels[Math.floor(x * EDGE_CELLS)]!, 240);

	it('is read back, darkened and blurred too', () => {
		for (const code of [
			{ file: 0, picture: 0 },
			{ file: 13, picture: 8191 },
			{ file: 31, picture: 4242 }
		]) {
			const cells = edgeCells(code);
			expect(reader(cells)).toEqual(code);
			expect(reader(cells.map((level) => level * 0.5 + 20))).toEqual(code);
			expect(
				reader(cells.map((level, i) => 0.8 * level + 0.1 * (cells[i - 1] ?? level) + 0.1 * (cells[i + 1] ?? level)))
			).toEqual(code);
		}
	});

	it('is not believed where a cell is wrong, or where there is none', () => {
		const cells = edgeCells({ file: 3, picture: 1234 });
		for (let wrong = 2; wrong < EDGE_CELLS - 1; wrong++)
			expect(reader(cells.map((level, i) => (i === wrong ? 184 - level : level)))).toBeUndefined();
		expect(reader(cells.map(() => 90))).toBeUndefined();
	});
});
