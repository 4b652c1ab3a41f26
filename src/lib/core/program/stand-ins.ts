import { STAND_IN } from '../limits/master';
import type { Range } from '../shoot/lookup';
import { secondsToFlicks } from '../time/flicks';
import { joined } from './heard-speech';
import type { Faded } from './sound-runs';

/** A stretch in which one of several is heard, its fades included. */
export interface Turn extends Faded {
	/** By its place in the order. */
	readonly turn: number;
}

const FADE_FLICKS = secondsToFlicks(STAND_IN.crossfadeSeconds);
const LEAST_FLICKS = secondsToFlicks(STAND_IN.leastSeconds);
const SEARCH_FLICKS = secondsToFlicks(STAND_IN.searchSeconds);

/**
 * Who is heard when: the first of an order wherever it has sound, in its gaps the next, and so on. One goes over into the other
 * by a crossfade in the pause that is nearest, as far as both have sound there; else where the first one ends or begins.
 * @param covered where each has sound, in their order
 * @param pauses in which nobody speaks, in order of time
 */
export function turnsOver(
	range: Range,
	covered: readonly (readonly Range[])[],
	pauses: readonly Range[]
): readonly Turn[] {
	const whole = covered.map((own) => joined(own, LEAST_FLICKS));
	const turns: Piece[] = [];
	fill(range, 0, whole, turns);
	for (let index = 1; index < turns.length; index++) {
		const [before, after] = [turns[index - 1]!, turns[index]!];
		if (before.outFlicks === after.inFlicks && before.turn !== after.turn) change(before, after, whole, pauses);
	}
	return turns.map((one) => ({
		turn: one.turn,
		inFlicks: one.inFlicks,
		outFlicks: one.outFlicks,
		fadedInFlicks: one.inFlicks + one.fadeInFlicks,
		fadesOutFlicks: one.outFlicks - one.fadeOutFlicks
	}));
}

interface Piece {
	readonly turn: number;
	inFlicks: number;
	outFlicks: number;
	fadeInFlicks: number;
	fadeOutFlicks: number;
}

/** Fills a stretch with what an order has from one place on; a hole that is too short stays one. */
function fill(range: Range, turn: number, covered: readonly (readonly Range[])[], turns: Piece[]): void {
	const own = covered[turn];
	if (!own || range.outFlicks <= range.inFlicks) return;
	let at = range.inFlicks;
	for (const one of own) {
		if (one.outFlicks <= at) continue;
		if (one.inFlicks >= range.outFlicks) break;
		const inFlicks = Math.max(at, one.inFlicks);
		fill({ inFlicks: at, outFlicks: inFlicks }, turn + 1, covered, turns);
		const outFlicks = Math.min(range.outFlicks, one.outFlicks);
		if (turn === 0 || outFlicks - inFlicks >= LEAST_FLICKS)
			turns.push({ turn, inFlicks, outFlicks, fadeInFlicks: 0, fadeOutFlicks: 0 });
		at = outFlicks;
	}
	fill({ inFlicks: at, outFlicks: range.outFlicks }, turn + 1, covered, turns);
}

/** Moves the moment at which one goes over into the other into a pause, and crossfades there. */
function change(before: Piece, after: Piece, covered: readonly (readonly Range[])[], pauses: readonly Range[]): void {
	const at = before.outFlicks;
	// The one that is wanted more has no more sound than this; the other may have it on both sides.
	const isEnding = before.turn < after.turn;
	const other = isEnding ? after : before;
	const around = covered[other.turn]!.find((one) => one.inFlicks <= at && one.outFlicks >= at);
	if (!around) return;
	const earliest = Math.max(before.inFlicks + before.fadeInFlicks, isEnding ? around.inFlicks : at, at - SEARCH_FLICKS);
	const latest = Math.min(after.outFlicks, isEnding ? at : around.outFlicks, at + SEARCH_FLICKS);
	const fade = Math.min(FADE_FLICKS, latest - earliest);
	if (fade <= 0) return;
	const begins = isEnding ? at - fade : at;
	const inPause = nearestIn(pauses, begins, fade, { inFlicks: earliest, outFlicks: latest });
	before.outFlicks = (inPause ?? begins) + fade;
	before.fadeOutFlicks = fade;
	after.inFlicks = inPause ?? begins;
	after.fadeInFlicks = fade;
}

/** The beginning of a stretch of some length within a pause and a range that lies nearest to a moment. */
function nearestIn(pauses: readonly Range[], moment: number, length: number, range: Range): number | undefined {
	let nearest: number | undefined;
	for (const pause of pauses) {
		const least = Math.max(pause.inFlicks, range.inFlicks);
		const most = Math.min(pause.outFlicks, range.outFlicks) - length;
		if (most < least) continue;
		const begins = Math.max(least, Math.min(most, moment));
		if (nearest === undefined || Math.abs(begins - moment) < Math.abs(nearest - moment)) nearest = begins;
	}
	return nearest;
}
