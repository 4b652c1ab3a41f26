/** The middle of some values; of an even number the upper one of the two. @returns NaN for none */
export function median(values: ArrayLike<number>): number {
	const sorted = Float64Array.from(values).sort();
	return sorted.length === 0 ? NaN : sorted[sorted.length >> 1]!;
}
