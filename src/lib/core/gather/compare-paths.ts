/** By name with numbers in their order: clip 2 before clip 10. */
export function comparePaths(a: string, b: string): number {
	return a.localeCompare(b, 'en', { numeric: true });
}
