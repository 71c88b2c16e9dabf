import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { apply, identity, invert, isAffine, multiply, scaling, translation, type Mat3 } from './mat3.js';

const small = fc.double({ min: -2, max: 2, noNaN: true });
const affine = fc
  .tuple(small, small, small, small, small, small)
  .map(([a, b, c, d, e, f]): Mat3 => [1 + a / 5, b / 5, 100 * c, d / 5, 1 + e / 5, 100 * f, 0, 0, 1]);

test('a matrix and its inverse cancel, and the inverse of an affine matrix is affine', () => {
  fc.assert(
    fc.property(affine, (m) => {
      const back = invert(m);
      expect(isAffine(back)).toBe(true);
      multiply(m, back).forEach((v, i) => expect(v).toBeCloseTo(identity[i], 9));
    }),
  );
});

test('multiplying applies the right one first', () => {
  expect(apply(multiply(translation(10, 0), scaling(2, 2)), 3, 4)).toEqual({ x: 16, y: 8 });
});

test('a matrix that flattens the plane has no inverse', () => {
  expect(() => invert([1, 2, 0, 2, 4, 0, 0, 0, 1])).toThrow(RangeError);
});
