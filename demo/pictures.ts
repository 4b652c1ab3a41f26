import type { SKRSContext2D } from '@napi-rs/canvas';
import { edgeCells, edgeRowHeight, EDGE_CELLS, type EdgeCode } from './edge-code';
import { seededRandom } from './random';
import { APPLAUSE, type CameraView, CLAP_TIMES, LAUGHTER_AFTER_LINE, PEOPLE, type Person, type PersonKey, type Place, SAMPLE_RATE, WALKER } from './scene';
import type { SpokenLine } from './voices';

/** How open each mouth is, 0 to 1, a hundred times a second. */
export type Mouths = ReadonlyMap<PersonKey, Float32Array>;

export interface Evening {
	readonly mouths: Mouths;
	readonly laughs: readonly number[];
	readonly hasAudience: boolean;
}

export function eveningOf(lines: readonly SpokenLine[], seconds: number, hasAudience: boolean): Evening {
	const mouths = new Map<PersonKey, Float32Array>();
	const hop = SAMPLE_RATE / 100;
	for (const person of PEOPLE) {
		const open = new Float32Array(Math.ceil(seconds * 100) + 200);
		for (const line of lines.filter((one) => one.who === person.key)) {
			const at = Math.round(line.beginsSeconds * 100);
			for (let k = 0; (k + 1) * hop <= line.samples.length; k++) {
				let power = 0;
				for (let i = k * hop; i < (k + 1) * hop; i++) power += line.samples[i]! ** 2;
				open[at + k] = Math.min(1, Math.sqrt(power / hop) * 6);
			}
		}
		mouths.set(person.key, open);
	}
	const laughs = hasAudience ? LAUGHTER_AFTER_LINE.map((index) => lines[index]!.beginsSeconds + lines[index]!.samples.length / SAMPLE_RATE) : [];
	return { mouths, laughs, hasAudience };
}

interface Lens {
	/** Where a place falls in the picture, and how many picture points a metre is there; nothing behind the camera. */
	project(place: Place): { readonly x: number; readonly y: number; readonly scale: number } | undefined;
	readonly context: SKRSContext2D;
}

function lensOf(context: SKRSContext2D, width: number, height: number, view: CameraView): Lens {
	const dx = view.aim.x - view.place.x;
	const dz = view.aim.z - view.place.z;
	const flat = Math.hypot(dx, dz);
	const [sinYaw, cosYaw] = [dx / flat, dz / flat];
	const dy = view.aim.y - view.place.y;
	const far = Math.hypot(flat, dy);
	const [sinPitch, cosPitch] = [dy / far, flat / far];
	const focal = width / view.fieldOfView;
	return {
		context,
		project(place) {
			const x = place.x - view.place.x;
			const y = place.y - view.place.y;
			const z = place.z - view.place.z;
			const right = x * cosYaw - z * sinYaw;
			const ahead = x * sinYaw + z * cosYaw;
			const depth = ahead * cosPitch + y * sinPitch;
			if (depth < 0.25) return undefined;
			const up = y * cosPitch - ahead * sinPitch;
			return { x: width / 2 + (right / depth) * focal, y: height / 2 - (up / depth) * focal, scale: focal / depth };
		}
	};
}

/** Draws one picture of one camera. @param seconds the evening's time */
export function drawPicture(context: SKRSContext2D, width: number, height: number, view: CameraView, seconds: number, evening: Evening, code: EdgeCode): void {
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

function polygon(lens: Lens, fill: string, places: readonly Place[]): void {
	const points = places.map((place) => lens.project(place));
	if (points.some((point) => !point)) return;
	const { context } = lens;
	context.beginPath();
	points.forEach((point, index) => (index === 0 ? context.moveTo(point!.x, point!.y) : context.lineTo(point!.x, point!.y)));
	context.closePath();
	context.fillStyle = fill;
	context.fill();
}

function drawHouse(lens: Lens): void {
	for (let plank = 0; plank < 13; plank++) {
		const y = plank * 0.36;
		polygon(lens, plank % 2 ? '#7a5638' : '#836041', [{ x: -7, y, z: 4.2 }, { x: 7, y, z: 4.2 }, { x: 7, y: y + 0.35, z: 4.2 }, { x: -7, y: y + 0.35, z: 4.2 }]);
	}
	for (const side of [-6, 6]) {
		polygon(lens, '#5d4029', [{ x: side, y: 0, z: -1 }, { x: side, y: 0, z: 4.2 }, { x: side, y: 4.6, z: 4.2 }, { x: side, y: 4.6, z: -1 }]);
	}
	// A wide gate onto the lake at dusk.
	polygon(lens, '#d98a5b', [{ x: -3.1, y: 1.5, z: 4.15 }, { x: 3.1, y: 1.5, z: 4.15 }, { x: 3.1, y: 3.5, z: 4.15 }, { x: -3.1, y: 3.5, z: 4.15 }]);
	polygon(lens, '#efb57c', [{ x: -3.1, y: 1.5, z: 4.14 }, { x: 3.1, y: 1.5, z: 4.14 }, { x: 3.1, y: 2.3, z: 4.14 }, { x: -3.1, y: 2.3, z: 4.14 }]);
	polygon(lens, '#55566b', [{ x: -3.1, y: 2.1, z: 4.13 }, { x: -1.9, y: 2.7, z: 4.13 }, { x: -0.6, y: 2.25, z: 4.13 }, { x: 0.9, y: 2.85, z: 4.13 }, { x: 2.3, y: 2.3, z: 4.13 }, { x: 3.1, y: 2.55, z: 4.13 }, { x: 3.1, y: 1.95, z: 4.13 }, { x: -3.1, y: 1.95, z: 4.13 }]);
	polygon(lens, '#4f7f8c', [{ x: -3.1, y: 0.7, z: 4.12 }, { x: 3.1, y: 0.7, z: 4.12 }, { x: 3.1, y: 1.98, z: 4.12 }, { x: -3.1, y: 1.98, z: 4.12 }]);
	for (const x of [-3.2, 0, 3.2]) {
		polygon(lens, '#4a3220', [{ x: x - 0.09, y: 0, z: 4.1 }, { x: x + 0.09, y: 0, z: 4.1 }, { x: x + 0.09, y: 4.6, z: 4.1 }, { x: x - 0.09, y: 4.6, z: 4.1 }]);
	}
	polygon(lens, '#3f2b1d', [{ x: -7, y: 3.5, z: 4.05 }, { x: 7, y: 3.5, z: 4.05 }, { x: 7, y: 3.75, z: 4.05 }, { x: -7, y: 3.75, z: 4.05 }]);
}

function drawFerry(lens: Lens, seconds: number): void {
	const y = 0.98 + 0.02 * Math.sin(seconds * 0.9);
	const z = 3.7;
	polygon(lens, '#e8d9b5', [{ x: -1.6, y: y + 0.35, z }, { x: 1.4, y: y + 0.35, z }, { x: 1.25, y: y + 0.85, z }, { x: -1.5, y: y + 0.85, z }]);
	for (let window = 0; window < 6; window++) {
		const x = -1.35 + window * 0.46;
		polygon(lens, '#41616e', [{ x, y: y + 0.48, z: z - 0.02 }, { x: x + 0.28, y: y + 0.48, z: z - 0.02 }, { x: x + 0.28, y: y + 0.74, z: z - 0.02 }, { x, y: y + 0.74, z: z - 0.02 }]);
	}
	polygon(lens, '#9c3f2b', [{ x: 0.2, y: y + 0.85, z }, { x: 0.55, y: y + 0.85, z }, { x: 0.5, y: y + 1.3, z }, { x: 0.22, y: y + 1.3, z }]);
	polygon(lens, '#8d5b2e', [{ x: -2.3, y: y + 0.4, z: z - 0.03 }, { x: 2.2, y: y + 0.4, z: z - 0.03 }, { x: 1.7, y: y - 0.25, z: z - 0.03 }, { x: -1.8, y: y - 0.25, z: z - 0.03 }]);
	polygon(lens, '#6c421f', [{ x: -2.15, y: y + 0.15, z: z - 0.04 }, { x: 2.05, y: y + 0.15, z: z - 0.04 }, { x: 1.95, y: y + 0.05, z: z - 0.04 }, { x: -2.05, y: y + 0.05, z: z - 0.04 }]);
}

function drawStage(lens: Lens): void {
	for (let board = 0; board < 8; board++) {
		const x = -4 + board;
		polygon(lens, board % 2 ? '#96693f' : '#8c613a', [{ x, y: 0, z: 0 }, { x: x + 1, y: 0, z: 0 }, { x: x + 1, y: 0, z: 3.6 }, { x, y: 0, z: 3.6 }]);
	}
	polygon(lens, '#57371f', [{ x: -4, y: -0.45, z: 0 }, { x: 4, y: -0.45, z: 0 }, { x: 4, y: 0, z: 0 }, { x: -4, y: 0, z: 0 }]);
	polygon(lens, '#a9483c', [{ x: -2.4, y: 0.01, z: 0.5 }, { x: 2.6, y: 0.01, z: 0.5 }, { x: 2.6, y: 0.01, z: 2.2 }, { x: -2.4, y: 0.01, z: 2.2 }]);
	polygon(lens, '#2d211a', [{ x: -7, y: -0.46, z: -3.9 }, { x: 7, y: -0.46, z: -3.9 }, { x: 7, y: -0.46, z: 0 }, { x: -7, y: -0.46, z: 0 }]);
}

function drawLanterns(lens: Lens, seconds: number): void {
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

function circle(context: SKRSContext2D, x: number, y: number, radius: number, fill: string): void {
	context.beginPath();
	context.arc(x, y, Math.max(0.5, radius), 0, 2 * Math.PI);
	context.fillStyle = fill;
	context.fill();
}

function mouthOf(evening: Evening, key: PersonKey, seconds: number): number {
	const open = evening.mouths.get(key)!;
	return open[Math.max(0, Math.min(open.length - 1, Math.round(seconds * 100)))]!;
}

/** How much somebody is talking about now: the mouth over the last and next half second. */
function talking(evening: Evening, key: PersonKey, seconds: number): number {
	let sum = 0;
	for (let k = -5; k <= 5; k++) sum += mouthOf(evening, key, seconds + k * 0.1);
	return Math.min(1, sum / 3);
}

/** Hands together at 1, apart at 0: open before the clap, closed just at it. */
function clapPose(seconds: number): number | undefined {
	for (const time of CLAP_TIMES) {
		const t = seconds - time;
		if (t > -1.2 && t < 0.9) return t < 0 ? (t < -0.12 ? 0 : 1 + t / 0.12) : Math.max(0, 1 - Math.max(0, t - 0.15) / 0.5);
	}
	return undefined;
}

function drawPerson(lens: Lens, person: Person, seconds: number, evening: Evening, view: CameraView): void {
	const { context } = lens;
	const seat = lens.project({ ...person.seat, y: 0.45 });
	if (!seat) return;
	const s = seat.scale;
	const speaks = talking(evening, person.key, seconds);
	const phase = person.seat.x * 7;
	const sway = 0.015 * Math.sin(seconds * 0.8 + phase) + 0.02 * speaks * Math.sin(seconds * 2.3 + phase);
	const x = seat.x + sway * s;
	const base = seat.y;
	// Which way the figure faces, seen from this camera.
	const toCamera = Math.atan2(view.place.x - person.seat.x, person.seat.z - view.place.z);
	const facing = (person.role === 'host' ? 0.45 : -0.4) - toCamera;
	const turn = Math.max(-1, Math.min(1, Math.sin(facing) + 0.12 * Math.sin(seconds * 0.5 + phase)));

	context.lineCap = 'round';
	// Chair, legs, body.
	roundedBox(context, x - 0.32 * s, base - 0.5 * s, 0.64 * s, 0.95 * s, 0.06 * s, '#4b3222');
	limb(context, [x - 0.12 * s, base, x - 0.16 * s + turn * 0.12 * s, base + 0.12 * s, x - 0.15 * s + turn * 0.1 * s, base + 0.45 * s], 0.15 * s, '#2b2b35');
	limb(context, [x + 0.12 * s, base, x + 0.16 * s + turn * 0.12 * s, base + 0.12 * s, x + 0.17 * s + turn * 0.1 * s, base + 0.45 * s], 0.15 * s, '#25252e');
	roundedBox(context, x - 0.25 * s, base - 0.58 * s, 0.5 * s, 0.68 * s, 0.16 * s, person.coat);
	// Arms: one rests, one speaks; the host's both clap.
	const pose = person.role === 'host' && evening.hasAudience ? clapPose(seconds) : undefined;
	if (pose === undefined) {
		const lift = speaks * (0.5 + 0.5 * Math.sin(seconds * 2.9 + phase));
		limb(context, [x - 0.24 * s, base - 0.45 * s, x - 0.34 * s, base - 0.15 * s, x - 0.1 * s + turn * 0.1 * s, base - 0.02 * s], 0.11 * s, person.coat);
		limb(context, [x + 0.24 * s, base - 0.45 * s, x + (0.36 + 0.05 * lift) * s, base - (0.15 + 0.1 * lift) * s, x + (0.12 + 0.22 * lift) * s + turn * 0.1 * s, base - (0.02 + 0.42 * lift) * s], 0.11 * s, person.coat);
		circle(context, x + (0.12 + 0.22 * lift) * s + turn * 0.1 * s, base - (0.02 + 0.42 * lift) * s, 0.065 * s, person.skin);
		circle(context, x - 0.1 * s + turn * 0.1 * s, base - 0.02 * s, 0.065 * s, person.skin);
	} else {
		const apart = 0.34 * (1 - pose) * s;
		for (const side of [-1, 1]) {
			const hand = x + turn * 0.1 * s + side * (0.035 * s + apart);
			limb(context, [x + side * 0.24 * s, base - 0.45 * s, x + side * 0.4 * s, base - 0.42 * s, hand, base - 0.62 * s], 0.11 * s, person.coat);
			circle(context, hand, base - 0.62 * s, 0.07 * s, person.skin);
		}
	}
	drawHead(context, x + turn * 0.03 * s, base - 0.78 * s - 0.02 * speaks * s * Math.abs(Math.sin(seconds * 3.1)), s, turn, person, mouthOf(evening, person.key, seconds), seconds);
	// The lav on the coat.
	circle(context, x + turn * 0.1 * s, base - 0.42 * s, 0.022 * s, '#141414');
}

function drawHead(context: SKRSContext2D, x: number, y: number, s: number, turn: number, person: Person, mouth: number, seconds: number): void {
	circle(context, x, y - 0.03 * s, 0.185 * s, person.hair);
	if (person.key === 'odile') circle(context, x - turn * 0.08 * s, y - 0.2 * s, 0.09 * s, person.hair);
	if (person.key === 'marit') roundedBox(context, x - 0.18 * s, y - 0.05 * s, 0.36 * s, 0.24 * s, 0.08 * s, person.hair);
	context.beginPath();
	context.ellipse(x + turn * 0.025 * s, y + 0.02 * s, 0.15 * s, 0.17 * s, 0, 0, 2 * Math.PI);
	context.fillStyle = person.skin;
	context.fill();
	const blink = (seconds * 0.31 + person.seat.x) % 1 < 0.03;
	for (const side of [-1, 1]) {
		const ex = x + (turn * 0.075 + side * 0.06) * s;
		if (blink) roundedBox(context, ex - 0.025 * s, y, 0.05 * s, 0.01 * s, 0, '#2a1a14');
		else circle(context, ex, y, 0.02 * s, '#1c1614');
	}
	limb(context, [x + turn * 0.1 * s, y + 0.02 * s, x + turn * 0.13 * s, y + 0.06 * s, x + turn * 0.1 * s, y + 0.065 * s], 0.014 * s, '#8d5a40');
	context.beginPath();
	context.ellipse(x + turn * 0.08 * s, y + 0.11 * s, 0.045 * s, (0.006 + 0.045 * mouth) * s, 0, 0, 2 * Math.PI);
	context.fillStyle = '#5b1f1c';
	context.fill();
	if (person.key === 'jonas') {
		context.beginPath();
		context.arc(x + turn * 0.05 * s, y + 0.09 * s, 0.13 * s, 0.15 * Math.PI, 0.85 * Math.PI);
		context.lineWidth = 0.045 * s;
		context.strokeStyle = person.hair;
		context.stroke();
	}
}

function roundedBox(context: SKRSContext2D, x: number, y: number, width: number, height: number, radius: number, fill: string): void {
	context.beginPath();
	context.roundRect(x, y, width, height, Math.max(0, radius));
	context.fillStyle = fill;
	context.fill();
}

function limb(context: SKRSContext2D, points: readonly number[], width: number, stroke: string): void {
	context.beginPath();
	context.moveTo(points[0]!, points[1]!);
	for (let i = 2; i < points.length; i += 2) context.lineTo(points[i]!, points[i + 1]!);
	context.lineWidth = Math.max(1, width);
	context.lineJoin = 'round';
	context.strokeStyle = stroke;
	context.stroke();
}

function drawTable(lens: Lens): void {
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
	for (const side of [-0.26, 0.25]) roundedBox(context, table.x + side * s, table.y - 0.13 * s, 0.07 * s, 0.13 * s, 0.02 * s, 'rgba(210, 232, 235, 0.75)');
}

interface Seat {
	readonly x: number;
	readonly z: number;
	readonly hair: string;
	readonly coat: string;
}

const SEATS: readonly Seat[] = (() => {
	const random = seededRandom(77);
	const hair = ['#2b1d16', '#4a3526', '#7d6a55', '#9b958c', '#1b1719', '#6b3f22'];
	const coats = ['#3c4a58', '#5a3f46', '#48543d', '#6a5740', '#39404d', '#51485e'];
	const seats: Seat[] = [];
	for (let row = 0; row < 3; row++) {
		for (let place = 0; place < 9; place++) {
			if (row === 1 && place === 6) continue;
			seats.push({
				x: -3.4 + place * 0.82 + (row % 2) * 0.4 + (random() - 0.5) * 0.12,
				z: -1.3 - row * 0.95,
				hair: hair[Math.floor(random() * hair.length)]!,
				coat: coats[Math.floor(random() * coats.length)]!
			});
		}
	}
	return seats.sort((a, b) => b.z - a.z);
})();

function drawAudience(lens: Lens, seconds: number, evening: Evening, view: CameraView): void {
	const laughing = evening.laughs.some((time) => seconds > time - 0.1 && seconds < time + 1.6);
	const clapping = seconds > APPLAUSE.begins && seconds < APPLAUSE.ends;
	for (const [index, seat] of SEATS.entries()) {
		// Nobody sits on a lens.
		if (Math.hypot(seat.x - view.place.x, seat.z - view.place.z) < 1.15) continue;
		const bob = laughing ? 0.035 * Math.abs(Math.sin(seconds * 9 + index)) : 0.008 * Math.sin(seconds * 0.6 + index * 2);
		const point = lens.project({ x: seat.x + 0.01 * Math.sin(seconds * 0.4 + index), y: 0.55 + bob, z: seat.z });
		if (!point) continue;
		const { context } = lens;
		const s = point.scale;
		roundedBox(context, point.x - 0.24 * s, point.y - 0.02 * s, 0.48 * s, 0.8 * s, 0.14 * s, seat.coat);
		circle(context, point.x, point.y - 0.14 * s, 0.15 * s, seat.hair);
		if (clapping) {
			const apart = 0.09 * (0.5 + 0.5 * Math.sin(seconds * (24 + (index % 5)) + index)) * s;
			for (const side of [-1, 1]) circle(context, point.x + side * (0.03 * s + apart), point.y - 0.3 * s, 0.05 * s, '#d2a382');
		}
	}
}

function drawWalker(lens: Lens, seconds: number, view: CameraView): void {
	if (seconds < WALKER.begins || seconds > WALKER.ends) return;
	const along = (seconds - WALKER.begins) / (WALKER.ends - WALKER.begins);
	const z = -4.5;
	if (z - view.place.z < 0.4) return;
	const point = lens.project({ x: -3.2 + 6.6 * along, y: 0.9 + 0.03 * Math.abs(Math.sin(seconds * 5)), z });
	if (!point) return;
	const { context } = lens;
	const s = point.scale;
	const stride = 0.22 * Math.sin(seconds * 5) * s;
	limb(context, [point.x, point.y, point.x + stride, point.y + 0.9 * s], 0.17 * s, '#1d2026');
	limb(context, [point.x, point.y, point.x - stride, point.y + 0.9 * s], 0.17 * s, '#23262d');
	roundedBox(context, point.x - 0.24 * s, point.y - 0.7 * s, 0.48 * s, 0.78 * s, 0.16 * s, '#31414b');
	circle(context, point.x + 0.03 * s, point.y - 0.86 * s, 0.15 * s, '#3b2a20');
}

function drawEdgeCode(context: SKRSContext2D, width: number, height: number, code: EdgeCode): void {
	const rowHeight = edgeRowHeight(height);
	const cellWidth = width / EDGE_CELLS;
	for (const [index, level] of edgeCells(code).entries()) {
		context.fillStyle = `rgb(${level}, ${level}, ${level})`;
		context.fillRect(index * cellWidth, height - rowHeight, cellWidth + 1, rowHeight + 1);
	}
}
