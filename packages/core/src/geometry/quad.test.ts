import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { apply, isAffine } from './mat3.js';
import { quadFromSquare, type Quad } from './quad.js';

const off = fc.double({ min: -0.3, max: 0.3, noNaN: true });
const corner = (x: number, y: number) =>
  fc.tuple(off, off).map(([dx, dy]) => ({ x: 100 * (x + dx), y: 80 * (y + dy) }));

test('the corners of the square come to the corners of the quad, in order', () => {
  fc.assert(
    fc.property(corner(0, 0), corner(1, 0), corner(1, 1), corner(0, 1), (a, b, c, d) => {
      const quad: Quad = [a, b, c, d];
      const matrix = quadFromSquare(quad);
      if (!matrix) return;
      const square = [
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
      ] as const;
      square.forEach(([x, y], i) => {
        const p = apply(matrix, x, y);
        expect(Math.hypot(p.x - quad[i].x, p.y - quad[i].y)).toBeLessThan(1e-6);
      });
    }),
  );
});

test('a parallelogram is affine; corners in a line are no quad', () => {
  const flat = quadFromSquare([
    { x: 1, y: 2 },
    { x: 5, y: 3 },
    { x: 7, y: 8 },
    { x: 3, y: 7 },
  ]);
  expect(flat && isAffine(flat)).toBe(true);
  const folded = quadFromSquare([
    { x: 0, y: 0 },
    { x: 1, y: 0 },
    { x: 1, y: 1 },
    { x: 1, y: 2 },
  ]);
  expect(folded).toBeNull();
});
