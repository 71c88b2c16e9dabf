/** Rounds of rotations after which nothing is left off the diagonal of a matrix of a few rows. */
const rounds = 12;

/**
 * Eigenvalues and eigenvectors (the columns of `vectors`, n×n, row-major, of unit length) of a symmetric n×n matrix by
 * Jacobi's rotations (Golub & Van Loan 2013, §8.5).
 */
export function eigenSymmetric(
  matrix: ArrayLike<number>,
  n: number,
): { values: number[]; vectors: Float64Array } {
  const a = Float64Array.from(matrix);
  const vectors = new Float64Array(n * n);
  for (let i = 0; i < n; i++) vectors[i * n + i] = 1;
  const rotate = (m: Float64Array, i: number, j: number, c: number, s: number): void => {
    const [x, y] = [m[i], m[j]];
    m[i] = c * x - s * y;
    m[j] = s * x + c * y;
  };
  for (let round = 0; round < rounds; round++)
    for (let p = 0; p < n; p++)
      for (let q = p + 1; q < n; q++) {
        const between = a[p * n + q];
        if (between === 0) continue;
        const theta = (a[q * n + q] - a[p * n + p]) / (2 * between);
        const t = (theta < 0 ? -1 : 1) / (Math.abs(theta) + Math.hypot(theta, 1));
        const c = 1 / Math.hypot(t, 1);
        for (let k = 0; k < n; k++) rotate(a, k * n + p, k * n + q, c, t * c);
        for (let k = 0; k < n; k++) {
          rotate(a, p * n + k, q * n + k, c, t * c);
          rotate(vectors, k * n + p, k * n + q, c, t * c);
        }
      }
  return { values: Array.from({ length: n }, (_, i) => a[i * n + i]), vectors };
}

/** A symmetric positive definite n×n matrix to a power; null when it is (nearly) singular. */
export function powerOf(matrix: ArrayLike<number>, n: number, exponent: number): Float64Array | null {
  const { values, vectors } = eigenSymmetric(matrix, n);
  if (!(Math.min(...values) > 1e-9 * Math.max(...values))) return null;
  const power = new Float64Array(n * n);
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++)
      for (let k = 0; k < n; k++)
        power[i * n + j] += vectors[i * n + k] * values[k] ** exponent * vectors[j * n + k];
  return power;
}
