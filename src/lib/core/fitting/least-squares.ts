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
 * Unknowns that fit weighted equations best: normal equations by Cholesky.
 * Source: textbook practice (Golub and Van Loan, Matrix Computations, chapter 5; memory).
 * @throws RangeError the equations leave an unknown open
 */
export function leastSquares(unknowns: number, equations: readonly Equation[]): Float64Array {
	const matrix = new Float64Array(unknowns * unknowns);
	const right = new Float64Array(unknowns);
	for (const { terms, value, weight } of equations) {
		for (const [row, p] of terms) {
			right[row] = right[row]! + weight * p * value;
			for (const [column, q] of terms)
				if (column <= row) matrix[row * unknowns + column] = matrix[row * unknowns + column]! + weight * p * q;
		}
	}
	factor(matrix, unknowns);
	return substitute(matrix, right, unknowns);
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

function factor(matrix: Float64Array, n: number): void {
	for (let row = 0; row < n; row++) {
		for (let column = 0; column <= row; column++) {
			let sum = matrix[row * n + column]!;
			for (let k = 0; k < column; k++) sum -= matrix[row * n + k]! * matrix[column * n + k]!;
			if (row === column) {
				if (!(sum > 0)) throw new RangeError('The equations leave an unknown open.');
				matrix[row * n + row] = Math.sqrt(sum);
			} else {
				matrix[row * n + column] = sum / matrix[column * n + column]!;
			}
		}
	}
}

function substitute(lower: Float64Array, right: Float64Array, n: number): Float64Array {
	const x = right.slice();
	for (let row = 0; row < n; row++) {
		for (let k = 0; k < row; k++) x[row] = x[row]! - lower[row * n + k]! * x[k]!;
		x[row] = x[row]! / lower[row * n + row]!;
	}
	for (let row = n - 1; row >= 0; row--) {
		for (let k = row + 1; k < n; k++) x[row] = x[row]! - lower[k * n + row]! * x[k]!;
		x[row] = x[row]! / lower[row * n + row]!;
	}
	return x;
}
