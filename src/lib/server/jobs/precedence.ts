import type { Pausing } from '../media/run-tool';

/** What goes first: what comes in no time, then what somebody waits for, what is looked at, what will be, all that is made ready. */
export const LEVELS = ['at once', 'waited for', 'on air', 'near', 'background'] as const;
export type Level = (typeof LEVELS)[number];

/** Work that has begun: the tools it runs stand still while something goes before it. */
export interface OwnTurn extends Pausing {
	/** It is wanted sooner than was thought. */
	raise(level: Level): void;
}

export interface Precedence {
	/** Does work of a level, while all of lower levels stands still. */
	run<Result>(level: Level, work: (turn: OwnTurn) => Promise<Result>): Promise<Result>;
	/** Waits until nothing goes before work of a level. @throws AbortError when stopped */
	myTurn(level: Level, signal: AbortSignal): Promise<void>;
}

interface Work {
	rank: number;
	readonly tools: Set<Parameters<Pausing['follow']>[0]>;
	isHeld: boolean;
}

/** One for all that a server does, for all share its cores. */
export function createPrecedence(): Precedence {
	const underWay = new Set<Work>();
	const waiting = new Set<() => void>();
	const isHeldAt = (rank: number) => [...underWay].some((other) => other.rank < rank);

	function settle(): void {
		for (const work of underWay) {
			const isHeld = isHeldAt(work.rank);
			if (isHeld === work.isHeld) continue;
			work.isHeld = isHeld;
			for (const tool of work.tools)
				if (isHeld) tool.pause();
				else tool.goOn();
		}
		for (const look of waiting) look();
	}

	return {
		async run(level, begin) {
			const work: Work = { rank: LEVELS.indexOf(level), tools: new Set(), isHeld: false };
			underWay.add(work);
			settle();
			try {
				return await begin({
					raise(to) {
						work.rank = Math.min(work.rank, LEVELS.indexOf(to));
						settle();
					},
					follow(tool) {
						work.tools.add(tool);
						if (work.isHeld) tool.pause();
						return () => work.tools.delete(tool);
					}
				});
			} finally {
				underWay.delete(work);
				settle();
			}
		},
		async myTurn(level, signal) {
			const rank = LEVELS.indexOf(level);
			while (isHeldAt(rank) && !signal.aborted) {
				await new Promise<void>((resolve) => {
					const look = () => {
						if (isHeldAt(rank) && !signal.aborted) return;
						waiting.delete(look);
						signal.removeEventListener('abort', look);
						resolve();
					};
					waiting.add(look);
					signal.addEventListener('abort', look);
				});
			}
			signal.throwIfAborted();
		}
	};
}
