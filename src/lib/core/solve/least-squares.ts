/** One linear equation: the sum of coefficient times unknown should be `value`, as surely as `weight` says. */
export interface Equation {
	readonly terms: readonly (readonly [unknown: number, coefficient: number])[];
	readonly value: number;
	/** One over the variance of the value. */
	readonly weight: number;
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
