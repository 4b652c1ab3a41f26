import type { Pausing } from '../media/run-tool';

/** What somebody waits for goes before what is only made ready: that stands still meanwhile. */
export interface Precedence extends Pausing {
	/** Does what somebody waits for. */
	first<Result>(work: () => Promise<Result>): Promise<Result>;
	/** Waits until nobody waits for anything else. @throws AbortError when stopped */
	myTurn(signal: AbortSignal): Promise<void>;
}

/** One for all jobs of a server, for they share its cores. */
export function createPrecedence(): Precedence {
	const following = new Set<Parameters<Pausing['follow']>[0]>();
	const waiting = new Set<() => void>();
	let ahead = 0;
	return {
		async first(work) {
			if (ahead++ === 0) for (const one of following) one.pause();
			try {
				return await work();
			} finally {
				if (--ahead === 0) {
					for (const one of following) one.goOn();
					for (const go of waiting) go();
				}
			}
		},
		async myTurn(signal) {
			while (ahead > 0 && !signal.aborted) {
				await new Promise<void>((resolve) => {
					const go = () => {
						waiting.delete(go);
						signal.removeEventListener('abort', go);
						resolve();
					};
					waiting.add(go);
					signal.addEventListener('abort', go);
				});
			}
			signal.throwIfAborted();
		},
		follow(one) {
			following.add(one);
			if (ahead > 0) one.pause();
			return () => following.delete(one);
		}
	};
}
