import type { SKRSContext2D } from '@napi-rs/canvas';
import { type Evening, mouthOf, talking } from './evening';
import { circle, type Lens, limb, roundedBox } from './lens';
import { seededRandom } from './random';
import { APPLAUSE, type CameraView, CLAP_TIMES, type Person, WALKER } from './scene';

/** Hands together at 1, apart at 0: open before the clap, closed just at it. */
function clapPose(seconds: number): number | undefined {
	for (const time of CLAP_TIMES) {
		const t = seconds - time;
		if (t > -1.2 && t < 0.9)
			return t < 0 ? (t < -0.12 ? 0 : 1 + t / 0.12) : Math.max(0, 1 - Math.max(0, t - 0.15) / 0.5);
	}
	return undefined;
}

export function drawPerson(lens: Lens, person: Person, seconds: number, evening: Evening, view: CameraView): void {
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
	limb(
		context,
		[
			x - 0.12 * s,
			base,
			x - 0.16 * s + turn * 0.12 * s,
			base + 0.12 * s,
			x - 0.15 * s + turn * 0.1 * s,
			base + 0.45 * s
		],
		0.15 * s,
		'#2b2b35'
	);
	limb(
		context,
		[
			x + 0.12 * s,
			base,
			x + 0.16 * s + turn * 0.12 * s,
			base + 0.12 * s,
			x + 0.17 * s + turn * 0.1 * s,
			base + 0.45 * s
		],
		0.15 * s,
		'#25252e'
	);
	roundedBox(context, x - 0.25 * s, base - 0.58 * s, 0.5 * s, 0.68 * s, 0.16 * s, person.coat);
	// Arms: one rests, one speaks; the host's both clap.
	const pose = person.role === 'host' && evening.hasAudience ? clapPose(seconds) : undefined;
	if (pose === undefined) {
		const lift = speaks * (0.5 + 0.5 * Math.sin(seconds * 2.9 + phase));
		limb(
			context,
			[x - 0.24 * s, base - 0.45 * s, x - 0.34 * s, base - 0.15 * s, x - 0.1 * s + turn * 0.1 * s, base - 0.02 * s],
			0.11 * s,
			person.coat
		);
		limb(
			context,
			[
				x + 0.24 * s,
				base - 0.45 * s,
				x + (0.36 + 0.05 * lift) * s,
				base - (0.15 + 0.1 * lift) * s,
				x + (0.12 + 0.22 * lift) * s + turn * 0.1 * s,
				base - (0.02 + 0.42 * lift) * s
			],
			0.11 * s,
			person.coat
		);
		circle(
			context,
			x + (0.12 + 0.22 * lift) * s + turn * 0.1 * s,
			base - (0.02 + 0.42 * lift) * s,
			0.065 * s,
			person.skin
		);
		circle(context, x - 0.1 * s + turn * 0.1 * s, base - 0.02 * s, 0.065 * s, person.skin);
	} else {
		const apart = 0.34 * (1 - pose) * s;
		for (const side of [-1, 1]) {
			const hand = x + turn * 0.1 * s + side * (0.035 * s + apart);
			limb(
				context,
				[x + side * 0.24 * s, base - 0.45 * s, x + side * 0.4 * s, base - 0.42 * s, hand, base - 0.62 * s],
				0.11 * s,
				person.coat
			);
			circle(context, hand, base - 0.62 * s, 0.07 * s, person.skin);
		}
	}
	drawHead(
		context,
		x + turn * 0.03 * s,
		base - 0.78 * s - 0.02 * speaks * s * Math.abs(Math.sin(seconds * 3.1)),
		s,
		turn,
		person,
		mouthOf(evening, person.key, seconds),
		seconds
	);
	// The lav on the coat.
	circle(context, x + turn * 0.1 * s, base - 0.42 * s, 0.022 * s, '#141414');
}

function drawHead(
	context: SKRSContext2D,
	x: number,
	y: number,
	s: number,
	turn: number,
	person: Person,
	mouth: number,
	seconds: number
): void {
	circle(context, x, y - 0.03 * s, 0.185 * s, person.hair);
	if (person.key === 'odile') circle(context, x - turn * 0.08 * s, y - 0.2 * s, 0.09 * s, person.hair);
	if (person.key === 'marit')
		roundedBox(context, x - 0.18 * s, y - 0.05 * s, 0.36 * s, 0.24 * s, 0.08 * s, person.hair);
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
	limb(
		context,
		[x + turn * 0.1 * s, y + 0.02 * s, x + turn * 0.13 * s, y + 0.06 * s, x + turn * 0.1 * s, y + 0.065 * s],
		0.014 * s,
		'#8d5a40'
	);
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

export function drawAudience(lens: Lens, seconds: number, evening: Evening, view: CameraView): void {
	const laughing = evening.laughs.some((time) => seconds > time - 0.1 && seconds < time + 1.6);
	const clapping = seconds > APPLAUSE.begins && seconds < APPLAUSE.ends;
	for (const [index, seat] of SEATS.entries()) {
		// Nobody sits on a lens.
		if (Math.hypot(seat.x - view.place.x, seat.z - view.place.z) < 1.15) continue;
		const bob = laughing
			? 0.035 * Math.abs(Math.sin(seconds * 9 + index))
			: 0.008 * Math.sin(seconds * 0.6 + index * 2);
		const point = lens.project({ x: seat.x + 0.01 * Math.sin(seconds * 0.4 + index), y: 0.55 + bob, z: seat.z });
		if (!point) continue;
		const { context } = lens;
		const s = point.scale;
		roundedBox(context, point.x - 0.24 * s, point.y - 0.02 * s, 0.48 * s, 0.8 * s, 0.14 * s, seat.coat);
		circle(context, point.x, point.y - 0.14 * s, 0.15 * s, seat.hair);
		if (clapping) {
			const apart = 0.09 * (0.5 + 0.5 * Math.sin(seconds * (24 + (index % 5)) + index)) * s;
			for (const side of [-1, 1])
				circle(context, point.x + side * (0.03 * s + apart), point.y - 0.3 * s, 0.05 * s, '#d2a382');
		}
	}
}

export function drawWalker(lens: Lens, seconds: number, view: CameraView): void {
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
