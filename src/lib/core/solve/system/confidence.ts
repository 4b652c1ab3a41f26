import { MAX_CONFIDENCE } from '../../limits/solve';
import type { PairEvidence } from '../../match/fit/pair-evidence';

/** What holds two clips together: evidence, or that they are known to be parts of one. */
export interface Bond {
	readonly a: string;
	readonly b: string;
	/** How unlikely it is to be wrong: the negative logarithm of that chance. */
	readonly certainty: number;
}

const ENOUGH = -Math.log(1 - MAX_CONFIDENCE);

/**
 * The chance that a pair's place is wrong. 1 585 looks at false places gave a strength of 6.6 at most, the strongest false
 * one that was ever seen had 8.7 (simulator). To be on the safe side half is doubted at 10, and a tenth of that with each
 * 2.5 more; windows that agree beyond the least three make it rarer still.
 */
export function chanceOfError({ strength, inliers }: PairEvidence): number {
	return Math.max(1e-6, Math.min(0.5, 0.5 * 10 ** (-(strength - 10) / 2.5) * Math.exp(-(inliers - 3) / 6)));
}

/**
 * How surely each clip lies where it does on its line-up: as surely as the weakest cut between it and the root holds,
 * all bonds across it together, for all of them would have to be wrong (maximum flow by shortest paths, Edmonds and Karp
 * 1972; from memory). Two clips that only hang on each other share the doubt of the bond that ties them to the rest.
 * @returns 0 to 0.999 by clip
 */
export function confidences(ids: readonly string[], bonds: readonly Bond[], root: string): ReadonlyMap<string, number> {
	const index = new Map(ids.map((id, at) => [id, at]));
	const edges = bonds.map(({ a, b, certainty }) => ({ a: index.get(a)!, b: index.get(b)!, certainty }));
	const of: number[][] = ids.map(() => []);
	for (const [edge, { a, b }] of edges.entries()) {
		of[a]!.push(edge);
		of[b]!.push(edge);
	}
	const graph: Graph = { edges, of };
	const origin = index.get(root)!;
	const ofRoot = of[origin]!.reduce((sum, edge) => sum + edges[edge]!.certainty, 0);
	return new Map(
		ids.map((id, at) => {
			const flow = at === origin ? ofRoot : flowBetween(graph, origin, at);
			return [id, Math.round(1000 * (1 - Math.exp(-Math.min(ENOUGH, flow)))) / 1000];
		})
	);
}

interface Graph {
	readonly edges: readonly { readonly a: number; readonly b: number; readonly certainty: number }[];
	/** Edges of each node. */
	readonly of: readonly (readonly number[])[];
}

/** Up to what is enough. */
function flowBetween({ edges, of }: Graph, from: number, to: number): number {
	// What is left of each edge, from a to b and from b to a.
	const left = Float64Array.from({ length: 2 * edges.length }, (_, i) => edges[i >> 1]!.certainty);
	const arrivedBy = new Int32Array(of.length);
	let flow = 0;
	while (flow < ENOUGH) {
		arrivedBy.fill(-1);
		const queue = [from];
		for (let head = 0; head < queue.length && arrivedBy[to]! < 0; head++) {
			const node = queue[head]!;
			for (const edge of of[node]!) {
				const isForward = edges[edge]!.a === node;
				const next = isForward ? edges[edge]!.b : edges[edge]!.a;
				const way = 2 * edge + (isForward ? 0 : 1);
				if (next === from || arrivedBy[next]! >= 0 || left[way]! <= 1e-9) continue;
				arrivedBy[next] = way;
				queue.push(next);
			}
		}
		if (arrivedBy[to]! < 0) break;
		const path: number[] = [];
		for (let node = to; node !== from;) {
			const way = arrivedBy[node]!;
			path.push(way);
			node = way % 2 === 0 ? edges[way >> 1]!.a : edges[way >> 1]!.b;
		}
		const share = Math.min(...path.map((way) => left[way]!));
		for (const way of path) {
			left[way] = left[way]! - share;
			left[way ^ 1] = left[way ^ 1]! + share;
		}
		flow += share;
	}
	return flow;
}
