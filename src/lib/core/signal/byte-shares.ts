/** The byte under which a share of some bytes lies, zeros left out. @returns 0 where there are none */
export function shareOfBytes(bytes: Uint8Array, share: number): number {
	const counts = new Uint32Array(256);
	for (let i = 0; i < bytes.length; i++) counts[bytes[i]!]!++;
	counts[0] = 0;
	return shareOfCounts(counts, share);
}

/** The place in a row of counts under which a share of them lies. @returns 0 where there are none */
export function shareOfCounts(counts: Uint32Array, share: number): number {
	let total = 0;
	for (const count of counts) total += count;
	const wanted = share * total;
	let sum = 0;
	for (let at = 0; at < counts.length; at++) {
		sum += counts[at]!;
		if (sum > wanted) return at;
	}
	return total === 0 ? 0 : counts.length - 1;
}
