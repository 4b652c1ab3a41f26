/**
 * How a recording's own time becomes a line-up's: a straight line, and what bends it.
 * `timeline = startFlicks + own * rateFactor + later(own)`
 */
export interface Course {
	/** Where its own time 0 lies, but for what `bend` says of it. */
	readonly startFlicks: number;
	readonly rateFactor: number;
	/** Only where a clock bends. */
	readonly bend?: Bend;
}

/** A moment that comes later on the line-up than the straight line says. */
export interface BendMoment {
	readonly ownFlicks: number;
	readonly laterFlicks: number;
}

/** Moments in order of time; straight lines between them, and level beyond them. At least one. */
export type Bend = readonly BendMoment[];

/** A clock bends by millionths: each round leaves that part of what was left. */
const ROUNDS = 3;

/** No clock bends faster: so that its own time is always found again. */
const STEEPEST = 1e-3;

/** Whether moments are in order, and bend no more than a clock could. */
export function isUsableBend(bend: Bend): boolean {
	return bend.every(({ ownFlicks, laterFlicks }, index) => {
		const before = bend[index - 1];
		if (!before) return true;
		const own = ownFlicks - before.ownFlicks;
		return own > 0 && Math.abs(laterFlicks - before.laterFlicks) <= STEEPEST * own;
	});
}

/** Where a moment of its own time lies. */
export function courseAt({ startFlicks, rateFactor, bend }: Course, ownFlicks: number): number {
	const straight = startFlicks + ownFlicks * rateFactor;
	return bend ? straight + laterAt(bend, ownFlicks) : straight;
}

/** Its own time at a moment of the line-up. */
export function ownTimeAt({ startFlicks, rateFactor, bend }: Course, timelineFlicks: number): number {
	let own = (timelineFlicks - startFlicks) / rateFactor;
	if (!bend) return own;
	for (let round = 0; round < ROUNDS; round++) own = (timelineFlicks - startFlicks - laterAt(bend, own)) / rateFactor;
	return own;
}

/** How far a bend leaves the straight line at most, either way. */
export function greatestBend(bend: Bend): number {
	return Math.max(...bend.map(({ laterFlicks }) => Math.abs(laterFlicks)));
}

/** The same course for one whose own time begins later in the old one's. */
export function courseFrom(course: Course, ownFlicks: number): Course {
	const { rateFactor, bend } = course;
	const straight = { startFlicks: course.startFlicks + ownFlicks * rateFactor, rateFactor };
	if (!bend) return straight;
	return { ...straight, bend: bend.map((one) => ({ ...one, ownFlicks: one.ownFlicks - ownFlicks })) };
}

/** The straight line that leaves a course least where it is used, between two moments of the line-up. */
export function straightBetween(course: Course, fromFlicks: number, toFlicks: number): Course {
	if (!course.bend) return course;
	const [from, to] = [ownTimeAt(course, fromFlicks), ownTimeAt(course, toFlicks)];
	const rateFactor = to > from ? (toFlicks - fromFlicks) / (to - from) : course.rateFactor;
	return { startFlicks: fromFlicks - from * rateFactor, rateFactor };
}

function laterAt(bend: Bend, ownFlicks: number): number {
	let low = 0;
	let high = bend.length;
	while (low < high) {
		const middle = (low + high) >> 1;
		if (bend[middle]!.ownFlicks <= ownFlicks) low = middle + 1;
		else high = middle;
	}
	const [before, after] = [bend[low - 1], bend[low]];
	if (!before || !after) return (before ?? after)!.laterFlicks;
	const share = (ownFlicks - before.ownFlicks) / (after.ownFlicks - before.ownFlicks);
	return before.laterFlicks + share * (after.laterFlicks - before.laterFlicks);
}
