import { circle, type Lens, limb, polygon, roundedBox } from './lens';

export function drawHouse(lens: Lens): void {
	for (let plank = 0; plank < 13; plank++) {
		const y = plank * 0.36;
		polygon(lens, plank % 2 ? '#7a5638' : '#836041', [
			{ x: -7, y, z: 4.2 },
			{ x: 7, y, z: 4.2 },
			{ x: 7, y: y + 0.35, z: 4.2 },
			{ x: -7, y: y + 0.35, z: 4.2 }
		]);
	}
	for (const side of [-6, 6]) {
		polygon(lens, '#5d4029', [
			{ x: side, y: 0, z: -1 },
			{ x: side, y: 0, z: 4.2 },
			{ x: side, y: 4.6, z: 4.2 },
			{ x: side, y: 4.6, z: -1 }
		]);
	}
	// A wide gate onto the lake at dusk.
	polygon(lens, '#d98a5b', [
		{ x: -3.1, y: 1.5, z: 4.15 },
		{ x: 3.1, y: 1.5, z: 4.15 },
		{ x: 3.1, y: 3.5, z: 4.15 },
		{ x: -3.1, y: 3.5, z: 4.15 }
	]);
	polygon(lens, '#efb57c', [
		{ x: -3.1, y: 1.5, z: 4.14 },
		{ x: 3.1, y: 1.5, z: 4.14 },
		{ x: 3.1, y: 2.3, z: 4.14 },
		{ x: -3.1, y: 2.3, z: 4.14 }
	]);
	polygon(lens, '#55566b', [
		{ x: -3.1, y: 2.1, z: 4.13 },
		{ x: -1.9, y: 2.7, z: 4.13 },
		{ x: -0.6, y: 2.25, z: 4.13 },
		{ x: 0.9, y: 2.85, z: 4.13 },
		{ x: 2.3, y: 2.3, z: 4.13 },
		{ x: 3.1, y: 2.55, z: 4.13 },
		{ x: 3.1, y: 1.95, z: 4.13 },
		{ x: -3.1, y: 1.95, z: 4.13 }
	]);
	polygon(lens, '#4f7f8c', [
		{ x: -3.1, y: 0.7, z: 4.12 },
		{ x: 3.1, y: 0.7, z: 4.12 },
		{ x: 3.1, y: 1.98, z: 4.12 },
		{ x: -3.1, y: 1.98, z: 4.12 }
	]);
	for (const x of [-3.2, 0, 3.2]) {
		polygon(lens, '#4a3220', [
			{ x: x - 0.09, y: 0, z: 4.1 },
			{ x: x + 0.09, y: 0, z: 4.1 },
			{ x: x + 0.09, y: 4.6, z: 4.1 },
			{ x: x - 0.09, y: 4.6, z: 4.1 }
		]);
	}
	polygon(lens, '#3f2b1d', [
		{ x: -7, y: 3.5, z: 4.05 },
		{ x: 7, y: 3.5, z: 4.05 },
		{ x: 7, y: 3.75, z: 4.05 },
		{ x: -7, y: 3.75, z: 4.05 }
	]);
}

export function drawFerry(lens: Lens, seconds: number): void {
	const y = 0.98 + 0.02 * Math.sin(seconds * 0.9);
	const z = 3.7;
	polygon(lens, '#e8d9b5', [
		{ x: -1.6, y: y + 0.35, z },
		{ x: 1.4, y: y + 0.35, z },
		{ x: 1.25, y: y + 0.85, z },
		{ x: -1.5, y: y + 0.85, z }
	]);
	for (let window = 0; window < 6; window++) {
		const x = -1.35 + window * 0.46;
		polygon(lens, '#41616e', [
			{ x, y: y + 0.48, z: z - 0.02 },
			{ x: x + 0.28, y: y + 0.48, z: z - 0.02 },
			{ x: x + 0.28, y: y + 0.74, z: z - 0.02 },
			{ x, y: y + 0.74, z: z - 0.02 }
		]);
	}
	polygon(lens, '#9c3f2b', [
		{ x: 0.2, y: y + 0.85, z },
		{ x: 0.55, y: y + 0.85, z },
		{ x: 0.5, y: y + 1.3, z },
		{ x: 0.22, y: y + 1.3, z }
	]);
	polygon(lens, '#8d5b2e', [
		{ x: -2.3, y: y + 0.4, z: z - 0.03 },
		{ x: 2.2, y: y + 0.4, z: z - 0.03 },
		{ x: 1.7, y: y - 0.25, z: z - 0.03 },
		{ x: -1.8, y: y - 0.25, z: z - 0.03 }
	]);
	polygon(lens, '#6c421f', [
		{ x: -2.15, y: y + 0.15, z: z - 0.04 },
		{ x: 2.05, y: y + 0.15, z: z - 0.04 },
		{ x: 1.95, y: y + 0.05, z: z - 0.04 },
		{ x: -2.05, y: y + 0.05, z: z - 0.04 }
	]);
}

export function drawStage(lens: Lens): void {
	for (let board = 0; board < 8; board++) {
		const x = -4 + board;
		polygon(lens, board % 2 ? '#96693f' : '#8c613a', [
			{ x, y: 0, z: 0 },
			{ x: x + 1, y: 0, z: 0 },
			{ x: x + 1, y: 0, z: 3.6 },
			{ x, y: 0, z: 3.6 }
		]);
	}
	polygon(lens, '#57371f', [
		{ x: -4, y: -0.45, z: 0 },
		{ x: 4, y: -0.45, z: 0 },
		{ x: 4, y: 0, z: 0 },
		{ x: -4, y: 0, z: 0 }
	]);
	polygon(lens, '#a9483c', [
		{ x: -2.4, y: 0.01, z: 0.5 },
		{ x: 2.6, y: 0.01, z: 0.5 },
		{ x: 2.6, y: 0.01, z: 2.2 },
		{ x: -2.4, y: 0.01, z: 2.2 }
	]);
	polygon(lens, '#2d211a', [
		{ x: -7, y: -0.46, z: -3.9 },
		{ x: 7, y: -0.46, z: -3.9 },
		{ x: 7, y: -0.46, z: 0 },
		{ x: -7, y: -0.46, z: 0 }
	]);
}

export function drawLanterns(lens: Lens, seconds: number): void {
	const { context } = lens;
	for (const [index, x] of [-2.9, -0.9, 1.1, 3].entries()) {
		const sway = 0.03 * Math.sin(seconds * 0.7 + index);
		const top = lens.project({ x, y: 3.5, z: 2.2 });
		const lamp = lens.project({ x: x + sway, y: 2.75, z: 2.2 });
		if (!top || !lamp) continue;
		context.strokeStyle = '#24180f';
		context.lineWidth = Math.max(1, lamp.scale * 0.012);
		context.beginPath();
		context.moveTo(top.x, top.y);
		context.lineTo(lamp.x, lamp.y);
		context.stroke();
		circle(context, lamp.x, lamp.y, lamp.scale * 0.26, 'rgba(255, 205, 120, 0.16)');
		circle(context, lamp.x, lamp.y, lamp.scale * 0.11, '#ffdf9e');
	}
}

export function drawTable(lens: Lens): void {
	const { context } = lens;
	const table = lens.project({ x: 0.1, y: 0.62, z: 0.75 });
	if (!table) return;
	const s = table.scale;
	limb(context, [table.x, table.y, table.x, table.y + 0.6 * s], 0.08 * s, '#3d2817');
	context.beginPath();
	context.ellipse(table.x, table.y, 0.48 * s, 0.1 * s, 0, 0, 2 * Math.PI);
	context.fillStyle = '#6d4626';
	context.fill();
	roundedBox(context, table.x - 0.06 * s, table.y - 0.06 * s, 0.12 * s, 0.06 * s, 0.01 * s, '#20262b');
	for (const side of [-0.26, 0.25])
		roundedBox(
			context,
			table.x + side * s,
			table.y - 0.13 * s,
			0.07 * s,
			0.13 * s,
			0.02 * s,
			'rgba(210, 232, 235, 0.75)'
		);
}
