import type { SKRSContext2D } from '@napi-rs/canvas';
import type { CameraView, Place } from './scene';

export interface Lens {
	/** Where a place falls in the picture, and how many picture points a metre is there; nothing behind the camera. */
	project(place: Place): { readonly x: number; readonly y: number; readonly scale: number } | undefined;
	readonly context: SKRSContext2D;
}

export function lensOf(context: SKRSContext2D, width: number, height: number, view: CameraView): Lens {
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

export function polygon(lens: Lens, fill: string, places: readonly Place[]): void {
	const points = places.map((place) => lens.project(place));
	if (points.some((point) => !point)) return;
	const { context } = lens;
	context.beginPath();
	points.forEach((point, index) =>
		index === 0 ? context.moveTo(point!.x, point!.y) : context.lineTo(point!.x, point!.y)
	);
	context.closePath();
	context.fillStyle = fill;
	context.fill();
}

export function circle(context: SKRSContext2D, x: number, y: number, radius: number, fill: string): void {
	context.beginPath();
	context.arc(x, y, Math.max(0.5, radius), 0, 2 * Math.PI);
	context.fillStyle = fill;
	context.fill();
}

export function roundedBox(
	context: SKRSContext2D,
	x: number,
	y: number,
	width: number,
	height: number,
	radius: number,
	fill: string
): void {
	context.beginPath();
	context.roundRect(x, y, width, height, Math.max(0, radius));
	context.fillStyle = fill;
	context.fill();
}

export function limb(context: SKRSContext2D, points: readonly number[], width: number, stroke: string): void {
	context.beginPath();
	context.moveTo(points[0]!, points[1]!);
	for (let i = 2; i < points.length; i += 2) context.lineTo(points[i]!, points[i + 1]!);
	context.lineWidth = Math.max(1, width);
	context.lineJoin = 'round';
	context.strokeStyle = stroke;
	context.stroke();
}
