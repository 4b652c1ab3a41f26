import type { SKRSContext2D } from '@napi-rs/canvas';
import { drawFerry, drawHouse, drawLanterns, drawStage, drawTable } from './boathouse';
import { EDGE_CELLS, type EdgeCode, edgeCells, edgeRowHeight } from './edge-code';
import type { Evening } from './evening';
import { drawAudience, drawPerson, drawWalker } from './figures';
import { lensOf } from './lens';
import { type CameraView, PEOPLE } from './scene';

/** Draws one picture of one camera. @param seconds the evening's time */
export function drawPicture(
	context: SKRSContext2D,
	width: number,
	height: number,
	view: CameraView,
	seconds: number,
	evening: Evening,
	code: EdgeCode
): void {
	const lens = lensOf(context, width, height, view);
	context.fillStyle = '#2a1d16';
	context.fillRect(0, 0, width, height);
	drawHouse(lens);
	drawFerry(lens, seconds);
	drawStage(lens);
	drawLanterns(lens, seconds);
	const figures = [...PEOPLE].sort((a, b) => b.seat.z - a.seat.z);
	for (const person of figures) drawPerson(lens, person, seconds, evening, view);
	drawTable(lens);
	if (evening.hasAudience) {
		drawAudience(lens, seconds, evening, view);
		drawWalker(lens, seconds, view);
	}
	if (view.darkness > 0) {
		context.fillStyle = `rgba(4, 6, 12, ${view.darkness})`;
		context.fillRect(0, 0, width, height);
	}
	drawEdgeCode(context, width, height, code);
}

function drawEdgeCode(context: SKRSContext2D, width: number, height: number, code: EdgeCode): void {
	const rowHeight = edgeRowHeight(height);
	const cellWidth = width / EDGE_CELLS;
	for (const [index, level] of edgeCells(code).entries()) {
		context.fillStyle = `rgb(${level}, ${level}, ${level})`;
		context.fillRect(index * cellWidth, height - rowHeight, cellWidth + 1, rowHeight + 1);
	}
}
