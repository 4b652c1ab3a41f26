import { getContext, setContext } from 'svelte';
import { PeakStore } from './peak-store';

/** While more is on its way, what has come is drawn this often: drawing thousands of clips at each arrival would slow the arrivals down. */
const GATHER_MS = 120;

/** The page's one store of peaks, and how often something has arrived in it: a reason to draw again. */
export class Peaks {
	arrivals = $state(0);
	readonly store = new PeakStore(() => this.arrived());
	private gathering: ReturnType<typeof setTimeout> | undefined;

	private arrived(): void {
		if (this.store.waiting === 0) {
			clearTimeout(this.gathering);
			this.gathering = undefined;
			this.arrivals++;
			return;
		}
		this.gathering ??= setTimeout(() => {
			this.gathering = undefined;
			this.arrivals++;
		}, GATHER_MS);
	}
}

const KEY = Symbol('peaks');

export function providePeaks(peaks: Peaks): void {
	setContext(KEY, peaks);
}

export function usePeaks(): Peaks {
	return getContext<Peaks>(KEY);
}
