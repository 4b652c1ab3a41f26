/** Loudness factor of each side for a place from -1 (left) to 1 (right); the middle plays on both sides in full. */
export function panGains(pan: number): readonly [left: number, right: number] {
	return [Math.min(1, 1 - pan), Math.min(1, 1 + pan)];
}

export function decibelsToFactor(gainDb: number): number {
	return 10 ** (gainDb / 20);
}
