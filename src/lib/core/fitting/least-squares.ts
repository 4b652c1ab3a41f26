/** One linear equation: the sum of coefficient times unknown should be `value`, as surely as `weight` says. */
export interface Equation {
	readonly terms: readonly (readonly [unknown: number, coefficient: number])[];
	readonly value: number;
	/** One over the variance of the value. */
	readonly weight: number;
	/** Whether the value may be plainly wrong: then it loses its weight where the others speak against it. */
	readonly doubtful?: boolean;
}

/**
 * Unknowns that fit weighted equations best: normal equations by Cholesky, row by row from the first number that is not 0.
 * They are put into an order in which little fills up: of hundreds of clips most hang on a few.
 * Source: textbook practice (George and Liu 1981, envelope methods; from memory).
 * @throws RangeError the equations leave an unknown open
 */
export function leastSquares(unknowns: number, equations: readonly Equation[]): Float64Array {
	const place = placesByNeighbours(unknowns, equations);
	const first = Int32Array.from({ length: unknowns }, (_, row) => row);
	for (const { terms } of equations) {
		const lowest = terms.reduce((least, [unknown]) => Math.min(least, place[unknown]!), Infinity);
		for (const [unknown] of terms) first[place[unknown]!] = Math.min(first[place[unknown]!]!, lowest);
	}
	const rows: Rows = Array.from(first, (from, row) => ({ from, values: new Float64Array(row - from + 1) }));
	const right = new Float64Array(unknowns);
	for (const { terms, value, weight } of equations) {
		for (const [one, p] of terms) {
			const row = place[one]!;
			right[row] = right[row]! + weight * p * value;
			const { from, values } = rows[row]!;
			for (const [other, q] of terms) {
				const column = place[other]!;
				if (column <= row) values[column - from] = values[column - from]! + weight * p * q;
			}
		}
	}
	factor(rows);
	const solved = substitute(rows, right);
	return Float64Array.from(place, (row) => solved[row]!);
}

/** The lower triangle, each row from its first number that is not 0. */
type Rows = readonly { readonly from: number; readonly values: Float64Array }[];

/** Unknowns with more neighbours come last: their rows are full in any order. */
const MANY_NEIGHBOURS = 30;

/**
 * For each unknown its row. Unknowns that share equations stand near each other, so that rows are short: neighbours of
 * neighbours in turn, those with few first (Cuthill and McKee 1969, from memory); the few that all others hang on come last.
 */
function placesByNeighbours(unknowns: number, equations: readonly Equation[]): Int32Array {
	const neighbours: Set<number>[] = Array.from({ length: unknowns }, () => new Set<number>());
	for (const { terms } of equations)
		for (const [one] of terms) for (const [other] of terms) if (one !== other) neighbours[one]!.add(other);
	const byCount = (x: number, y: number) => neighbours[x]!.size - neighbours[y]!.size || x - y;
	const all = Array.from({ length: unknowns }, (_, unknown) => unknown).sort(byCount);
	const place = new Int32Array(unknowns).fill(-1);
	let row = 0;
	for (const begin of all) {
		if (place[begin]! >= 0 || neighbours[begin]!.size > MANY_NEIGHBOURS) continue;
		const queue = [begin];
		place[begin] = row++;
		for (const unknown of queue) {
			const next = [...neighbours[unknown]!].filter(
				(one) => place[one]! < 0 && neighbours[one]!.size <= MANY_NEIGHBOURS
			);
			for (const one of next.sort(byCount)) {
				place[one] = row++;
				queue.push(one);
			}
		}
	}
	for (const unknown of all) if (place[unknown]! < 0) place[unknown] = row++;
	return place;
}

/** Beyond this many standard deviations a doubtful value is more likely wrong than inaccurate. */
const DOUBT_DEVIATIONS = 2.5;
const ROUNDS = 8;

/**
 * Like `leastSquares`, but doubtful equations that most others contradict end with next to no weight: weighted again
 * and again by 1 / (1 + (r / 2.5)²)², r in standard deviations (Geman and McClure 1987; memory).
 * @throws RangeError the equations leave an unknown open
 */
export function robustLeastSquares(unknowns: number, equations: readonly Equation[]): Float64Array {
	let x = leastSquares(unknowns, equations);
	if (!equations.some((equation) => equation.doubtful)) return x;
	for (let round = 0; round < ROUNDS; round++) {
		const current = x;
		const weighed = equations.map((equation) => {
			if (!equation.doubtful) return equation;
			const off = equation.terms.reduce((sum, [unknown, p]) => sum + p * current[unknown]!, -equation.value);
			const deviations = (Math.abs(off) * Math.sqrt(equation.weight)) / DOUBT_DEVIATIONS;
			return { ...equation, weight: equation.weight / (1 + deviations * deviations) ** 2 };
		});
		x = leastSquares(unknowns, weighed);
	}
	return x;
}

function factor(rows: Rows): void {
	for (const [row, { from, values }] of rows.entries()) {
		for (let column = from; column <= row; column++) {
			const other = rows[column]!;
			let sum = values[column - from]!;
			for (let k = Math.max(from, other.from); k < column; k++)
				sum -= values[k - from]! * other.values[k - other.from]!;
			if (row === column) {
				if (!(sum > 0)) throw new RangeError('The equations leave an unknown open.');
				values[row - from] = Math.sqrt(sum);
			} else {
				values[column - from] = sum / other.values[column - other.from]!;
			}
		}
	}
}

function substitute(rows: Rows, right: Float64Array): Float64Array {
	const x = right.slice();
	for (const [row, { from, values }] of rows.entries()) {
		for (let k = from; k < row; k++) x[row] = x[row]! - values[k - from]! * x[k]!;
		x[row] = x[row]! / values[row - from]!;
	}
	for (let row = rows.length - 1; row >= 0; row--) {
		const { from, values } = rows[row]!;
		x[row] = x[row]! / values[row - from]!;
		for (let k = from; k < row; k++) x[k] = x[k]! - values[k - from]! * x[row]!;
	}
	return x;
}
