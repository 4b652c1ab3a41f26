/**
 * Runs work over items, a bounded number at once, results in the items' order. The first fault stops the taking of
 * further items and is thrown when what has begun is over.
 */
export async function inParallel<Item, Result>(
	items: readonly Item[],
	atOnce: number,
	work: (item: Item, index: number) => Promise<Result>
): Promise<Result[]> {
	const results = new Array<Result>(items.length);
	let next = 0;
	let fault: { readonly error: unknown } | undefined;
	async function lane(): Promise<void> {
		while (next < items.length && !fault) {
			const index = next++;
			try {
				results[index] = await work(items[index]!, index);
			} catch (error) {
				fault ??= { error };
			}
		}
	}
	await Promise.all(Array.from({ length: Math.min(atOnce, items.length) }, lane));
	if (fault) throw fault.error;
	return results;
}
