import { ORDER_WIDTH } from '../../limits/solve';

/** What is done side by side, as if in one order. */
export interface OrderedWork<Item, Known, Result> {
	/** Pieces of work under way at once; more than `ORDER_WIDTH` never are. */
	readonly atOnce: number;
	/** @param done items whose results are in what is known */
	readonly work: (item: Item, known: Known, done: number) => Promise<Result>;
	/** What is known with one more result. Makes a new value: pieces under way still look at the old one. */
	readonly learn: (known: Known, result: Result) => Known;
}

/**
 * Works on items side by side so that what comes out never hangs on who is done first: each item sees what the items
 * `ORDER_WIDTH` or more before it have brought, no less and no more, and results are learned in the items' order.
 * @returns what is known at the end; rejects with the first failure
 */
export async function workInOrder<Item, Known, Result>(
	items: readonly Item[],
	known: Known,
	{ atOnce, work, learn }: OrderedWork<Item, Known, Result>
): Promise<Known> {
	const width = Math.max(1, Math.min(atOnce, ORDER_WIDTH));
	/** What was known once so many items were done; those nobody will ask for again are left empty. */
	const states: (Known | undefined)[] = [known];
	const underWay: Promise<Result>[] = [];
	let latest = known;
	let learned = 0;
	const learnNext = async () => {
		latest = learn(latest, await underWay.shift()!);
		states.push(latest);
		learned++;
		const unasked = learned - ORDER_WIDTH;
		if (unasked >= 0) states[unasked] = undefined;
	};
	try {
		for (const [index, item] of items.entries()) {
			while (underWay.length >= width) await learnNext();
			const done = Math.max(0, index + 1 - ORDER_WIDTH);
			const one = work(item, states[done]!, done);
			// Its failure is heard when its turn comes.
			one.catch(() => undefined);
			underWay.push(one);
		}
		while (underWay.length > 0) await learnNext();
		return latest;
	} catch (error) {
		// Nothing goes on behind the caller's back.
		await Promise.allSettled(underWay);
		throw error;
	}
}
