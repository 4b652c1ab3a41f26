import { POLARITY_SHARE } from '../limits/solve';

/** Two devices of which a first arrival says whether one of them has the other polarity. */
export interface PolarityVote {
	readonly a: string;
	readonly b: string;
	readonly isInverted: boolean;
}

/**
 * Devices whose sound is upside down against another's: a microphone or a lead that is wired the other way round. What
 * most votes between two devices say counts; from the reference on, the clearest pairs first.
 * @returns only devices of which it is known, without those that agree
 */
export function invertedDevices(votes: readonly PolarityVote[], reference: string): readonly string[] {
	const known = new Map([[reference, false]]);
	const pairs = countedPairs(votes);
	for (;;) {
		const next = pairs.find(({ a, b }) => known.has(a) !== known.has(b));
		if (!next) break;
		const [from, to] = known.has(next.a) ? [next.a, next.b] : [next.b, next.a];
		known.set(to, known.get(from)! !== next.isInverted);
	}
	return [...known].flatMap(([device, isInverted]) => (isInverted ? [device] : [])).sort();
}

/** What the votes between each two devices come to, those with the most votes first; nothing where they disagree. */
function countedPairs(votes: readonly PolarityVote[]): readonly PolarityVote[] {
	const counts = new Map<string, { a: string; b: string; plain: number; inverted: number }>();
	for (const { a, b, isInverted } of votes) {
		const [first, second] = a < b ? [a, b] : [b, a];
		const key = JSON.stringify([first, second]);
		const count = counts.get(key) ?? { a: first, b: second, plain: 0, inverted: 0 };
		counts.set(key, count);
		if (isInverted) count.inverted++;
		else count.plain++;
	}
	return [...counts.values()]
		.filter(({ plain, inverted }) => Math.max(plain, inverted) >= POLARITY_SHARE * (plain + inverted))
		.sort((x, y) => y.plain + y.inverted - (x.plain + x.inverted) || x.a.localeCompare(y.a) || x.b.localeCompare(y.b))
		.map(({ a, b, plain, inverted }) => ({ a, b, isInverted: inverted > plain }));
}
