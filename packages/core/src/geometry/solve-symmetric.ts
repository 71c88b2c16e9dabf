/** Room for a factor, kept from call to call: making one takes longer than a small system's solution. */
let factor = new Float64Array(64);

/**
 * Cholesky solution of a symmetric positive definite n×n system, row-major; only the lower triangle is read.
 * Null when it is (nearly) singular.
 */
export function solveSymmetric(
  matrix: ArrayLike<number>,
  right: ArrayLike<number>,
  n: number,
): Float64Array | null {
  if (factor.length < n * n) factor = new Float64Array(n * n);
  const l = factor;
  for (let i = 0; i < n; i++) {
    for (let j = 0; j <= i; j++) {
      let sum = matrix[i * n + j];
      for (let k = 0; k < j; k++) sum -= l[i * n + k] * l[j * n + k];
      if (i === j) {
        if (!(sum > 1e-9 * matrix[i * n + i])) return null;
        l[i * n + i] = Math.sqrt(sum);
      } else {
        l[i * n + j] = sum / l[j * n + j];
      }
    }
  }
  const x = new Float64Array(n);
  for (let i = 0; i < n; i++) x[i] = right[i];
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < i; k++) x[i] -= l[i * n + k] * x[k];
    x[i] /= l[i * n + i];
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let k = i + 1; k < n; k++) x[i] -= l[k * n + i] * x[k];
    x[i] /= l[i * n + i];
  }
  return x;
}
