import { getContext, setContext } from 'svelte';
import { PeakStore } from './peak-store';

/** The page's one store of peaks, and how often something has arrived in it: a reason to draw again. */
export class Peaks {
	arrivals = $state(0);
	readonly store = new PeakStore(() => this.arrivals++);
}

const KEY = Symbol('peaks');

export function providePeaks(peaks: Peaks): void {
	setContext(KEY, peaks);
}

export function usePeaks(): Peaks {
	return getContext<Peaks>(KEY);
}
