import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { maximise, type HalfSpace } from './linear-program.js';
import { nearestToOrigin } from './nearest-point.js';

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });

/** Half-spaces that all hold the origin, so that there always is a solution. */
const around = (dimensions: number) =>
  fc.array(
    fc
      .tuple(fc.array(number(-1, 1), { minLength: dimensions, maxLength: dimensions }), number(0.1, 20))
      .filter(([a]) => Math.hypot(...a) > 0.1)
      .map(([a, b]): HalfSpace => ({ a, b })),
    { minLength: 1, maxLength: 25 },
  );

const holds = (spaces: readonly HalfSpace[], x: readonly number[], slack = 1e-6): boolean =>
  spaces.every(({ a, b }) => a.reduce((sum, v, i) => sum + v * x[i], 0) <= b + slack);

test('the maximum keeps every constraint, and no point tried at random beats it', () => {
  fc.assert(
    fc.property(
      around(3),
      fc.array(fc.tuple(number(-50, 50), number(-50, 50), number(-50, 50)), { maxLength: 100 }),
      (spaces, points) => {
        const best = maximise(spaces, [1, 0, 0], 50);
        expect(best).not.toBeNull();
        if (!best) return;
        expect(holds(spaces, best)).toBe(true);
        for (const x of points) if (holds(spaces, x, 0)) expect(x[0]).toBeLessThanOrEqual(best[0] + 1e-6);
      },
    ),
    { numRuns: 60 },
  );
});

test('constraints that contradict each other have no solution', () => {
  const spaces = [
    { a: [1, 0, 0], b: -5 },
    { a: [-1, 0, 0], b: -5 },
  ];
  expect(maximise(spaces, [0, 1, 0], 100)).toBeNull();
});

test('the nearest point to the origin keeps the constraints, and nothing nearer does', () => {
  fc.assert(
    fc.property(
      fc.array(fc.tuple(number(0, 6.283), number(-8, 12)), { minLength: 1, maxLength: 6 }),
      fc.array(fc.tuple(number(-1, 1), number(-1, 1)), { maxLength: 100 }),
      (lines, shares) => {
        const spaces = lines.map(([angle, b]) => ({ a: [Math.cos(angle), Math.sin(angle)], b }));
        const nearest = nearestToOrigin(spaces, 100);
        if (!nearest) return;
        expect(holds(spaces, [nearest.x, nearest.y], 1e-5)).toBe(true);
        const far = Math.hypot(nearest.x, nearest.y);
        for (const [u, v] of shares) {
          const [x, y] = [u * far, v * far];
          if (Math.hypot(x, y) < far * 0.98 - 1e-4) expect(holds(spaces, [x, y], -1e-6)).toBe(false);
        }
      },
    ),
    { numRuns: 60 },
  );
});
