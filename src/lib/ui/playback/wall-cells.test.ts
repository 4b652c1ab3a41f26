import { describe, expect, it } from 'vitest';
import { type Cell, LABEL, wallCells } from './wall-cells';

const ASPECT = 16 / 9;
const angles = (count: number) => Array.from({ length: count }, (_, index) => `angle ${index}`);

function expectApart(cells: readonly Cell[], room: { readonly width: number; readonly height: number }): void {
	for (const [index, a] of cells.entries()) {
		expect(a.x + a.width).toBeLessThanOrEqual(room.width + 1e-6);
		expect(a.y + a.height + LABEL).toBeLessThanOrEqual(room.height + 1e-6);
		expect(a.width / a.height).toBeCloseTo(ASPECT);
		for (const b of cells.slice(index + 1)) {
			const isBeside = a.x + a.width <= b.x || b.x + b.width <= a.x;
			const isBelow = a.y + a.height + LABEL <= b.y || b.y + b.height + LABEL <= a.y;
			expect(isBeside || isBelow).toBe(true);
		}
	}
}

describe('places of angles on the wall', () => {
	const rooms = [
		{ width: 600, height: 380 },
		{ width: 1100, height: 300 },
		{ width: 330, height: 700 }
	];
	const cases = rooms.flatMap((room) => [1, 2, 5, 9, 16, 25].map((count) => ({ room, count })));

	it.each(cases)(
		'$count angles lie apart within $room.width × $room.height, all alike or one large',
		({ room, count }) => {
			const all = angles(count);
			const alike = wallCells(all, room, ASPECT, undefined);
			expectApart(alike, room);
			expect(new Set(alike.map((cell) => cell.width)).size).toBe(1);
			const largeId = all[Math.floor(count / 2)]!;
			const cells = wallCells(all, room, ASPECT, largeId);
			expectApart(cells, room);
			expect(cells.map((cell) => cell.deviceId)).toEqual(all);
			const large = cells.find((cell) => cell.isLarge)!;
			expect(large.deviceId).toBe(largeId);
			for (const other of cells) if (other !== large) expect(other.width).toBeLessThan(large.width);
			if (count > 2) expect(large.width).toBeGreaterThan(1.2 * alike[0]!.width);
		}
	);

	it('one that is not shown makes none large', () => {
		expect(wallCells(angles(4), rooms[0]!, ASPECT, 'hidden').every((cell) => !cell.isLarge)).toBe(true);
	});
});
