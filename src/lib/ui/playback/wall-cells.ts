/** An angle's place in the grid, in points. */
export interface Cell {
	readonly deviceId: string;
	readonly x: number;
	readonly y: number;
	readonly width: number;
	/** Of the picture; its label stands below. */
	readonly height: number;
	readonly isLarge: boolean;
}

export interface Room {
	readonly width: number;
	readonly height: number;
}

export const GAP = 8;
export const LABEL = 22;
/** Share of the room that a large angle takes, one way or the other. */
const LARGE_SHARE = 0.64;

/**
 * Places of angles in a room: all alike, as large as they fit, or one large with the others in what is left below or beside.
 * @param aspect width of a picture by its height
 */
export function wallCells(
	deviceIds: readonly string[],
	room: Room,
	aspect: number,
	largeId: string | undefined
): readonly Cell[] {
	const others = deviceIds.filter((id) => id !== largeId);
	if (others.length === deviceIds.length) return grid(deviceIds, room, aspect);
	if (others.length === 0) return grid(deviceIds, room, aspect).map((cell) => ({ ...cell, isLarge: true }));
	const below = split(room, aspect, 'below');
	const beside = split(room, aspect, 'beside');
	const layouts = [below, beside].map(({ large, rest }) => [
		{ deviceId: largeId!, x: 0, y: 0, ...large, isLarge: true },
		...grid(others, rest, aspect, LARGE_SHARE * large.width).map((cell) => ({
			...cell,
			x: cell.x + rest.x,
			y: cell.y + rest.y
		}))
	]);
	const smallest = (cells: readonly Cell[]) => cells[1]!.width;
	const best = smallest(layouts[0]!) >= smallest(layouts[1]!) ? layouts[0]! : layouts[1]!;
	// In their order, whichever is large.
	return deviceIds.map((id) => best.find((cell) => cell.deviceId === id)!);
}

/** The large picture, and the room that it leaves. */
function split(
	room: Room,
	aspect: number,
	where: 'below' | 'beside'
): { readonly large: Room; readonly rest: Room & { readonly x: number; readonly y: number } } {
	const [share, otherShare] = where === 'below' ? [1, LARGE_SHARE] : [LARGE_SHARE, 1];
	const width = Math.max(1, Math.min(room.width * share, (room.height * otherShare - LABEL) * aspect));
	const height = width / aspect;
	const x = where === 'beside' ? width + GAP : 0;
	const y = where === 'below' ? height + LABEL + GAP : 0;
	return { large: { width, height }, rest: { x, y, width: room.width - x, height: room.height - y } };
}

function grid(deviceIds: readonly string[], room: Room, aspect: number, widest = Infinity): readonly Cell[] {
	const count = Math.max(1, deviceIds.length);
	let best = { columns: 1, width: 1 };
	for (let columns = 1; columns <= count; columns++) {
		const rows = Math.ceil(count / columns);
		const width = Math.min(
			widest,
			(room.width - (columns - 1) * GAP) / columns,
			((room.height - (rows - 1) * GAP) / rows - LABEL) * aspect
		);
		if (width > best.width) best = { columns, width };
	}
	const { columns, width } = best;
	const height = width / aspect;
	return deviceIds.map((deviceId, index) => ({
		deviceId,
		x: (index % columns) * (width + GAP),
		y: Math.floor(index / columns) * (height + LABEL + GAP),
		width,
		height,
		isLarge: false
	}));
}
