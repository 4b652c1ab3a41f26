import { LAUGHTER_AFTER_LINE, PEOPLE, type PersonKey, SAMPLE_RATE } from './scene';
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
	const laughs = hasAudience
		? LAUGHTER_AFTER_LINE.map((index) => lines[index]!.beginsSeconds + lines[index]!.samples.length / SAMPLE_RATE)
		: [];
	return { mouths, laughs, hasAudience };
}

export function mouthOf(evening: Evening, key: PersonKey, seconds: number): number {
	const open = evening.mouths.get(key)!;
	return open[Math.max(0, Math.min(open.length - 1, Math.round(seconds * 100)))]!;
}

/** How much somebody is talking about now: the mouth over the last and next half second. */
export function talking(evening: Evening, key: PersonKey, seconds: number): number {
	let sum = 0;
	for (let k = -5; k <= 5; k++) sum += mouthOf(evening, key, seconds + k * 0.1);
	return Math.min(1, sum / 3);
}
