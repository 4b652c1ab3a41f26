/** Items by a key of theirs, in their order. (`Map.groupBy` needs a newer Node than the oldest we run on.) */
export function groupBy<Item, Key>(
	items: Iterable<Item>,
	keyOf: (item: Item) => Key
): ReadonlyMap<Key, readonly Item[]> {
	const groups = new Map<Key, Item[]>();
	for (const item of items) {
		const group = groups.get(keyOf(item));
		if (group) group.push(item);
		else groups.set(keyOf(item), [item]);
	}
	return groups;
}
