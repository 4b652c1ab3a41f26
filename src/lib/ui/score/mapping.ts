/** What of the line-up a canvas shows. */
export interface Mapping {
	readonly startFlicks: number;
	readonly flicksPerPixel: number;
	readonly width: number;
}

export function xOf(view: Mapping, flicks: number): number {
	return (flicks - view.startFlicks) / view.flicksPerPixel;
}
