import { getContext, setContext } from 'svelte';
import { StripStore } from './strip-store';
import StripWorker from './strip.worker?worker';

/** What has come is drawn this often. */
const GATHER_MS = 150;

/** The page's one store of pictures for strips, and how often something has arrived in it: a reason to draw again. */
export class Strips {
	arrivals = $state(0);
	readonly store = new StripStore(
		() => new StripWorker(),
		() => this.arrived()
	);
	private gathering: ReturnType<typeof setTimeout> | undefined;

	close(): void {
		clearTimeout(this.gathering);
		this.store.close();
	}

	private arrived(): void {
		this.gathering ??= setTimeout(() => {
			this.gathering = undefined;
			this.arrivals++;
		}, GATHER_MS);
	}
}

const KEY = Symbol('strips');

export function provideStrips(strips: Strips): void {
	setContext(KEY, strips);
}

export function useStrips(): Strips {
	return getContext<Strips>(KEY);
}
