/** Where a dragged thing comes to rest, and on what. */
export interface Snap {
	readonly byFlicks: number;
	/** The moment it was caught by; nothing where it lies freely. */
	readonly ontoFlicks?: number;
}

/**
 * Lets one of the moments of a dragged clip fall onto one of those that stand still, if it comes close enough.
 * @param byFlicks as it is dragged @param own moments of what is dragged, before it is moved, sorted
 * @param still moments that stand, sorted @param reachFlicks how close is close enough
 */
export function snapShift(
	byFlicks: number,
	own: readonly number[],
	still: readonly number[],
	reachFlicks: number
): Snap {
	let best: Snap = { byFlicks };
	let nearest = reachFlicks;
	let from = 0;
	for (const moment of own) {
		const wanted = moment + byFlicks;
		while (from < still.length && still[from]! < wanted - reachFlicks) from++;
		for (let i = from; i < still.length && still[i]! <= wanted + reachFlicks; i++) {
			const distance = Math.abs(still[i]! - wanted);
			if (distance > nearest || (distance === nearest && best.ontoFlicks !== undefined)) continue;
			nearest = distance;
			best = { byFlicks: Math.round(still[i]! - moment), ontoFlicks: still[i]! };
		}
	}
	return best;
}
