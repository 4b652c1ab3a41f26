/** Where the top of a parabola through a peak and its two neighbours lies: -0.5 to 0.5 of a step from the peak. */
export function topOfPeak(before: number | undefined, peak: number, after: number | undefined): number {
	if (before === undefined || after === undefined) return 0;
	const bend = before - 2 * peak + after;
	return bend < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (before - after)) / bend)) : 0;
}
