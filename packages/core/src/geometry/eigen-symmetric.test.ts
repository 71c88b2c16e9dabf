import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { eigenSymmetric, powerOf } from './eigen-symmetric.js';

const entry = fc.double({ min: -1, max: 1, noNaN: true });
const square = fc
  .integer({ min: 1, max: 6 })
  .chain((n) => fc.tuple(fc.constant(n), fc.array(entry, { minLength: n * n, maxLength: n * n })));

/** a · b, or a · bᵀ. */
const product = (a: ArrayLike<number>, b: ArrayLike<number>, n: number, transposed = false): number[] =>
  Array.from({ length: n * n }, (_, at) => {
    const [i, j] = [Math.floor(at / n), at % n];
    let sum = 0;
    for (let k = 0; k < n; k++) sum += a[i * n + k] * b[transposed ? j * n + k : k * n + j];
    return sum;
  });

const expectAlike = (got: ArrayLike<number>, wanted: ArrayLike<number>): void =>
  Array.from(wanted).forEach((value, i) => expect(got[i]).toBeCloseTo(value, 9));

test('eigenvectors are of unit length and even to each other, and the matrix only stretches them', () => {
  fc.assert(
    fc.property(square, ([n, entries]) => {
      const matrix = Array.from(entries, (_, at) => {
        const [i, j] = [Math.floor(at / n), at % n];
        return entries[i * n + j] + entries[j * n + i];
      });
      const { values, vectors } = eigenSymmetric(matrix, n);
      const stretched = Array.from(vectors, (value, at) => value * values[at % n]);
      expectAlike(product(matrix, vectors, n), stretched);
      const unit = Array.from({ length: n * n }, (_, at) => Number(Math.floor(at / n) === at % n));
      expectAlike(product(vectors, vectors, n, true), unit);
    }),
  );
});

test('half a power twice is the matrix, and its inverse undoes it', () => {
  fc.assert(
    fc.property(square, ([n, entries]) => {
      // A positive definite matrix, whatever the entries are.
      const matrix = product(entries, entries, n, true);
      for (let i = 0; i < n; i++) matrix[i * n + i] += 0.1;
      const [root, inverse] = [powerOf(matrix, n, 1 / 2), powerOf(matrix, n, -1)];
      if (!root || !inverse) throw new Error('This matrix is not singular.');
      expectAlike(product(root, root, n), matrix);
      const unit = Array.from({ length: n * n }, (_, at) => Number(Math.floor(at / n) === at % n));
      product(matrix, inverse, n).forEach((value, at) => expect(value).toBeCloseTo(unit[at], 6));
    }),
  );
});

test('a singular matrix has no powers', () => {
  expect(powerOf([1, 1, 1, 1], 2, 1 / 2)).toBeNull();
});
